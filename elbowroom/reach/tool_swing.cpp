#include "elbowroom/reach/tool_swing.hpp"

#include <algorithm>
#include <cmath>

#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

constexpr double kStep = 0.005;  // rad or m of the joint that goes furthest

// From a point to the stretch between two others.
double distance_to(const Vector3& point, const Vector3& from, const Vector3& to) {
  const Vector3 along = to - from;
  const double square = along.squaredNorm();
  const double share =
      square > 0.0 ? std::clamp((point - from).dot(along) / square, 0.0, 1.0) : 0.0;
  return (point - (from + share * along)).norm();
}

}  // namespace

ToolSwing tool_swing(const Arm& arm, int link, const Pose& frame, const PostureRef& from,
                     const PostureRef& to) {
  const Vector3 begin = frame_pose(arm, link, frame, from).position;
  const Vector3 end = frame_pose(arm, link, frame, to).position;
  const int steps = 1 + static_cast<int>((to - from).cwiseAbs().maxCoeff() / kStep);
  ToolSwing swing;
  Vector3 before = begin;
  for (int i = 1; i <= steps; ++i) {
    const double share = static_cast<double>(i) / steps;
    const Vector3 here = frame_pose(arm, link, frame, Posture(from + share * (to - from))).position;
    swing.travel += (here - before).norm();
    swing.off = std::max(swing.off, distance_to(here, begin, end));
    before = here;
  }
  return swing;
}

}  // namespace er
