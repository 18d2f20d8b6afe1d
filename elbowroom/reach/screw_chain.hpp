// The chain of an arm up to a tool as a row of screws: what closed forms work on.
#pragma once

#include <array>
#include <optional>
#include <span>
#include <vector>

#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/kinematics/lane_chain.hpp"

namespace er {

/// A joint of the chain, where it is when every joint reads zero.
struct Screw {
  Vector3 axis = Vector3::UnitZ();  ///< unit length, in the world
  Vector3 point = Vector3::Zero();  ///< on the axis, in the world
  bool turns = true;                ///< else it slides along the axis
  int posture_index = 0;            ///< the entry of a posture that moves it
};

/// How far a joint is from one value to another, the short way round where it turns.
double change_of(const Screw& joint, double from, double to);

/// The motion from zero that a joint makes of what it carries.
Pose motion_of(const Screw& screw, double value);

/// The tip is at exp(screw 1, q1) ... exp(screw n, qn) * tip (product of exponentials; e.g. Murray,
/// Li and Sastry, "A Mathematical Introduction to Robotic Manipulation", 1994, section 3.2). Held
/// joints are part of what is fixed.
struct ScrewChain {
  std::vector<Screw> screws = {};
  Pose tip = {};  ///< in the world, all joints zero

  [[nodiscard]] int size() const { return static_cast<int>(screws.size()); }
  [[nodiscard]] const Screw& operator[](int i) const { return screws[static_cast<std::size_t>(i)]; }
  /// True for so many joints that all turn.
  [[nodiscard]] bool is_turning(int joints) const;
  /// How many joints slide.
  [[nodiscard]] int slides() const;
  /// What all joints together have to do from zero to bring the tip to a pose.
  [[nodiscard]] Pose motion_to(const Pose& pose) const { return pose * tip.inverse(); }
  /// The screws where they are in a posture, in the caller's memory; and the tip's pose.
  Pose place(const double* values, std::span<Screw> placed) const;
  /// The tip's pose.
  [[nodiscard]] Pose at(const double* values) const;
  /// The chain seen from the tip: its joints in the other order, for the inverse of the tip's pose.
  [[nodiscard]] ScrewChain reversed() const;
  /// The chain for kernels in vector lanes: of at most eight joints, in the order of the screws.
  [[nodiscard]] LaneChain in_lanes() const;
};

/// Nothing when a joint of the chain drives two links of it: such a chain is no product of its own
/// joints.
std::optional<ScrewChain> screw_chain(const Arm& arm, const Tool& tool);

}  // namespace er
