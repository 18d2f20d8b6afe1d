// How fast an arm moves inside zones that cap speeds, over a whole curve.
#pragma once

#include <string>

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/collision/cell_query.hpp"

namespace er {

/// The part of an arm that comes closest to the speed cap of a zone it is in.
struct ZoneSpeed {
  double share = 0.0;  ///< of the cap: nowhere exceeded, at most 1 % above the truth when over 1
  int body = -1;       ///< CellQuery::name() gives the link's name
  int zone = -1;       ///< and the zone's
};

/// A bound on the speed of every point of the arm while the part it belongs to is in a zone, over
/// all times of the curve and not at samples: intervals of time are split until a part is proved
/// outside or the bound is close. A point of a part is bounded by the motion of the part's frame
/// and its bounding sphere; how that changes within an interval, by the levers of the joints.
ZoneSpeed fastest_in_zones(const CellQuery& query, const JointCurve& curve);

/// The same of joints that go on at constant velocity (rad/s or m/s) for so long (s), at most 0.01
/// % above the truth when over 1. Allocates nothing.
ZoneSpeed fastest_in_zones(const CellQuery& query, const PostureRef& from,
                           const PostureRef& velocity, double duration);

/// "teasel.forearm in zone walkway, where 250.0 mm/s is the most".
std::string describe(const CellQuery& query, const ZoneSpeed& speed);

}  // namespace er
