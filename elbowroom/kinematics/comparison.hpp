// Whether two descriptions say the same arm, and where and by how much they do not.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {

struct ComparisonOptions {
  double length = 1e-6;  ///< m; smaller differences of places count as none
  double angle = 1e-6;   ///< rad; the same for directions and ranges that turn
  double share = 1e-6;   ///< of masses and of limits of speed and torque
  int postures = 200;    ///< at which the tips are compared, well spread over the ranges
};

/// One thing that is not the same.
struct Difference {
  std::string subject;  ///< "joint elbow", "tool grip", "link forearm"
  std::string text;     ///< "its axis lies 3.000 mm off"
};

struct Comparison {
  std::vector<Difference> differences;
  /// The worst over all postures compared; not a number where the arms move differently.
  double worst_position = 0.0;     ///< m
  double worst_angle = 0.0;        ///< rad
  std::vector<std::string> tools;  ///< those compared

  [[nodiscard]] bool same() const { return differences.empty(); }
  /// The answer in one line, then a line for each difference.
  [[nodiscard]] std::string report(const Arm& a, const Arm& b) const;
};

/// Compares joint by joint in posture order (names do not count), link by link where both have the
/// moving links' parts and masses, tool by tool of the same name (or the last links, without a
/// common tool). Everything is seen from the base link: where the arms are mounted does not count.
Comparison compare(const Arm& a, const Arm& b, const ComparisonOptions& options = {});

}  // namespace er
