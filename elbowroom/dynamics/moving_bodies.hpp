// An arm as its motors see it: one body for each moving joint, whatever is fixed to it being part
// of it.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "elbowroom/kinematics/lane_tree.hpp"

namespace er {

/// Something carried that is no link: its inertial in the frame of the link that carries it.
struct Payload {
  int link = -1;
  Inertial inertial = {};
};

/// A turn that does not change, told apart once: most are by whole quarters, and those are exact.
struct FixedTurn {
  enum class By { nothing, quarter, half, quarter_back, angle };
  By by = By::nothing;
  double cosine = 1.0;
  double sine = 0.0;
};

/// A body in the frame of its joint, z along the axis, and the way there from the frame before.
struct MovingBody {
  /// The sum of m (r, 1)(r, 1)^T: second moments (kg m^2) about the frame's origin, in the last
  /// column first ones (kg m) and the mass (kg).
  Eigen::Matrix4d moments = Eigen::Matrix4d::Zero();
  Vector3 onward = Vector3::Zero();     ///< in the axes of the frame before
  std::array<bool, 3> goes_along = {};  ///< the axes along which that is not zero
  FixedTurn last_turn;                  ///< about z
  FixedTurn tilt;                       ///< about x
  bool carries_others = false;          ///< than the next of the joints
};

/// What lies on the axis of a turn moves as if it were part of the body before: it is counted
/// there, so that bodies that turn have neither mass nor moments along z. What is on the axis of
/// the first joint asks nothing of any motor. (Fewer figures do the same: M. Gautier and W. Khalil,
/// "Direct calculation of minimum set of inertial parameters of serial robots", 1990.) So forces
/// between bodies are not those of the arm; what the motors have to give is.
struct MovingBodies {
  LaneTree tree;
  std::vector<MovingBody> bodies;  ///< one for each joint of the tree
  /// By entries of the posture, with those that follow them: N m s/rad and N m, or N s/m and N.
  Posture damping;
  Posture friction;
};

MovingBodies moving_bodies(const Arm& arm, const std::optional<Payload>& payload);

}  // namespace er
