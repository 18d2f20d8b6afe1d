// The rehearsal's own look at zones that cap speeds: points on the arm, differenced from tick to
// tick, while the part they belong to is in the zone.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/cell.hpp"

namespace er {

class ReplayZones {
 public:
  ReplayZones(const Cell& cell, const Arm& arm);

  struct Result {
    double share = 0.0;     ///< of the cap
    double speed = 0.0;     ///< m/s
    std::string link = {};  ///< "teasel.gripper"
    std::string zone = {};
  };
  /// The fastest between two postures `tick` seconds apart, of the points whose part is in a zone
  /// at either.
  Result fastest(const PostureRef& before, const PostureRef& after, double tick);

 private:
  struct ArmPart {
    Shape shape;
    Pose at;
    int link;
    double radius;
    std::vector<Vector3> points;  // on its surface, in the link's frame
  };
  struct ZonePart {
    Shape shape;
    Pose pose;
    double radius;
    const Zone* zone;
  };
  [[nodiscard]] static bool inside(const ArmPart& part, const Pose& link, const ZonePart& zone);

  Cell cell_;  // keeps the zones alive
  Arm arm_;
  std::vector<ArmPart> parts_;
  std::vector<ZonePart> zones_;
  std::vector<Pose> before_;
  std::vector<Pose> after_;
};

}  // namespace er
