// How far what an arm carries may drift while its joints move: for checks that share nothing with
// the planner.
#pragma once

#include <cmath>

#include "elbowroom/model/arm.hpp"

namespace er {

struct Drift {
  double travel = 0.0;  ///< m, of any point within the radius
  double turn = 0.0;    ///< rad
};

/// The line that a joint turns about, or slides along, in the world.
struct JointAxis {
  Vector3 on;
  Vector3 direction;
};

/// Of points of a link within `radius` of one of them, while each joint goes by at most `half` of
/// its `step`, beyond what the link `shared` does (-1: the mount). `axis_at` gives the JointAxis of
/// a link's joint where everything is in the middle. Joints are taken one at a time, from the tip
/// down: each turns what is then within its distance in the middle and what those before have
/// added.
template <class AxisAt>
Drift drift_within(const Arm& arm, int link, int shared, const Posture& step, double half,
                   const Vector3& point, double radius, const AxisAt& axis_at) {
  Drift out;
  for (int l = link; l != shared; l = arm.links()[static_cast<std::size_t>(l)].parent_index) {
    const Link& here = arm.links()[static_cast<std::size_t>(l)];
    if (here.posture_index < 0) continue;
    const double by = half * std::abs(here.posture_ratio * step[here.posture_index]);
    if (here.joint.kind == JointKind::prismatic) {
      out.travel += by;
      continue;
    }
    const JointAxis axis = axis_at(l);
    const double away = axis.direction.cross(point - axis.on).norm() + radius;
    out.travel += by * (away + out.travel);
    out.turn += by;
  }
  return out;
}

}  // namespace er
