// Forward kinematics and the geometric Jacobian.
#pragma once

#include <span>
#include <vector>

#include "elbowroom/model/arm.hpp"

namespace er {

/// Writes the world pose of every link, in link order. `out` holds arm.links().size() poses.
/// Allocates nothing.
void link_poses(const Arm& arm, const PostureRef& posture, std::span<Pose> out);

/// The same, returned.
std::vector<Pose> link_poses(const Arm& arm, const PostureRef& posture);

/// The world pose of a tool's tip. Walks only the links that carry it. Allocates nothing.
Pose tool_pose(const Arm& arm, const Tool& tool, const PostureRef& posture);
/// The same for any frame fixed in a link.
Pose frame_pose(const Arm& arm, int link, const Pose& frame_in_link, const PostureRef& posture);

/// Rows 0-2: velocity of the tip point; rows 3-5: angular velocity; both in world axes, per unit
/// of joint velocity. One column per moving joint; zero for joints that do not carry the tool.
using Jacobian = Eigen::Matrix<double, 6, Eigen::Dynamic, Eigen::ColMajor, 6, kMaxJoints>;

/// The geometric Jacobian at the tool's tip, and its pose, in one walk up the chain (each column is
/// axis x (tip - joint) over axis; e.g. Siciliano et al., "Robotics", 2009, section 3.1).
/// Allocates nothing.
Pose tool_jacobian(const Arm& arm, const Tool& tool, const PostureRef& posture, Jacobian& out);
/// The same for any frame fixed in a link.
Pose frame_jacobian(const Arm& arm, int link, const Pose& frame_in_link, const PostureRef& posture,
                    Jacobian& out);

/// The same where all links' poses are known (link_poses) in that posture.
Pose frame_jacobian(const Arm& arm, std::span<const Pose> links, int link,
                    const Pose& frame_in_link, Jacobian& out);
/// A tool's as seen along the columns of `axes`, a rotation; the pose, too.
Pose tool_jacobian_along(const Matrix3& axes, const Arm& arm, const Tool& tool,
                         const PostureRef& posture, Jacobian& out);

/// The velocity (world axes) of a point fixed in a link. Allocates nothing.
Vector3 point_velocity(const Arm& arm, int link, const Vector3& point_in_link,
                       const PostureRef& posture, const PostureRef& velocity);

}  // namespace er
