// How far a point of an arm can get at most.
#pragma once

#include "elbowroom/model/arm.hpp"

namespace er {

/// No posture takes the point further than `distance` (m; infinite where a joint slides without
/// end) from where the first moving joint on the way to it is.
struct ReachBound {
  Vector3 from;  ///< in the world
  double distance = 0.0;
};

/// Of a point of a link, in the link's frame: the lengths of all stretches from joint to joint.
ReachBound reach_bound(const Arm& arm, int link, const Vector3& point);

}  // namespace er
