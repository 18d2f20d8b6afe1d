// The rehearsal's own look at clearance: every pair of parts, straight from the cell.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/rehearse/cell_parts.hpp"

namespace er {

class ReplayClearance {
 public:
  ReplayClearance(const Cell& cell, const Arm& arm);
  /// Of two bodies alone, whether they may touch or not.
  ReplayClearance(const Cell& cell, const Arm& arm, const MeantContact& pair);

  /// From now on, another arm of the cell (by its number) stands so.
  void stand(int other, const PostureRef& posture);

  struct Result {
    double distance = std::numeric_limits<double>::infinity();
    std::string
        pair;  ///< "teasel.gripper, cup_1"; filled in only when the distance is below `below`
  };
  /// The least distance of all pairs, or `below` when none is nearer than that.
  Result nearest(const PostureRef& posture, double below);

 private:
  Cell cell_;
  Arm arm_;
  CellParts all_;
  std::vector<Pose> poses_;
  std::vector<Pose> links_;
};

}  // namespace er
