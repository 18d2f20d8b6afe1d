// An arm as its motors see it: one body for each moving joint, whatever is fixed to it being part
// of it.
#pragma once

#include <optional>
#include <vector>

#include "elbowroom/kinematics/lane_tree.hpp"

namespace er {

/// Something carried that is no link: its inertial in the frame of the link that carries it.
struct Payload {
  int link = -1;
  Inertial inertial = {};
};

/// A body in the frame of its joint (z along the axis), so told that what it takes to move it is
/// linear in these figures.
struct MovingBody {
  double mass = 0.0;
  Vector3 first_moment = Vector3::Zero();  ///< mass times the centre of mass, kg m
  Matrix3 inertia = Matrix3::Zero();       ///< about the frame's origin, kg m^2
};

struct MovingBodies {
  LaneTree tree;
  std::vector<MovingBody> bodies;  ///< one for each joint of the tree
  /// By entries of the posture, with those that follow them: N m s/rad and N m, or N s/m and N.
  Posture damping;
  Posture friction;
};

MovingBodies moving_bodies(const Arm& arm, const std::optional<Payload>& payload);

}  // namespace er
