// The axes of an arm's turning joints and of a mesh's bores and bosses as plain lines.
#pragma once

#include <vector>

#include "elbowroom/bodies/round_features.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

struct AxisLine {
  Vector3 point = Vector3::Zero();
  Vector3 way = Vector3::UnitZ();  ///< unit; which way is of no meaning

  /// The same line, but for what meshes are rounded by.
  [[nodiscard]] bool is_on(const AxisLine& other) const;
  [[nodiscard]] AxisLine moved(const Pose& by) const { return {by * point, by.rotation * way}; }
};

/// Of two lines that are turned by no more than this, rad, either may be the other.
constexpr double kSameTurn = 3e-3;

/// Of each turning joint, in link order, with the links at these poses.
std::vector<AxisLine> axis_lines(const Arm& arm, const std::vector<Pose>& links);
/// Without those that are the same line as one before.
std::vector<AxisLine> distinct(const std::vector<AxisLine>& lines);
/// Of bores and bosses, the largest first, each line once: at most 60.
std::vector<AxisLine> feature_lines(std::vector<RoundFeature> features);

/// For each axis which line lies on it; -1: none.
std::vector<int> lines_on(const std::vector<AxisLine>& axes, const std::vector<AxisLine>& lines);
/// How many axes have one.
int count_of_lines(const std::vector<int>& on);

}  // namespace er
