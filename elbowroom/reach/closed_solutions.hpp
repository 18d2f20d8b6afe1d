// What the closed forms give: joint values of the chain, at most sixteen of them.
#pragma once

#include <array>

#include "elbowroom/reach/screw_chain.hpp"

namespace er {

constexpr int kMostClosedJoints = 7;
constexpr int kMostClosedSolutions = 16;
constexpr double kClosedMet = 1e-9;  ///< m and rad; what is further from a pose does not meet it

struct ClosedSolution {
  std::array<double, kMostClosedJoints> values = {};  ///< per joint of the chain, rad or m
  /// A joint of the chain that may be turned freely, others giving way: the posture is singular. -1
  /// otherwise.
  int free_joint = -1;
  /// Which of the form's branches it is, of forms that number them (SevenCentres); 0 otherwise.
  int branch = 0;
};

/// Lives on the stack.
struct ClosedSolutions {
  std::array<ClosedSolution, kMostClosedSolutions> all = {};
  int count = 0;
  /// Nothing is missing. False for six joints of general geometry, where a posture may be (seldom),
  /// and where one came out that the exact chain does not do.
  bool complete = true;

  void add(const ClosedSolution& one) {
    if (count < kMostClosedSolutions) all[static_cast<std::size_t>(count++)] = one;
  }
  /// The same posture but for rounding and full turns, of joints that turn.
  [[nodiscard]] bool has(const ClosedSolution& one) const;
  void add_unknown(const ClosedSolution& one) {
    if (!has(one)) add(one);
  }
  [[nodiscard]] const ClosedSolution* begin() const { return all.data(); }
  [[nodiscard]] const ClosedSolution* end() const { return all.data() + count; }
};

}  // namespace er
