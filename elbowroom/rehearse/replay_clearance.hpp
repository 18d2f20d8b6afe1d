// The rehearsal's own look at clearance: every pair of parts, straight from the cell.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/cell.hpp"

namespace er {

class ReplayClearance {
 public:
  ReplayClearance(const Cell& cell, const Arm& arm);

  struct Result {
    double distance = std::numeric_limits<double>::infinity();
    std::string
        pair;  ///< "teasel.gripper, cup_1"; filled in only when the distance is below `below`
  };
  /// The least distance of all pairs, or `below` when none is nearer than that.
  Result nearest(const PostureRef& posture, double below);

 private:
  struct Item {
    Shape shape;
    Pose at;   // in its link, or in the world
    int link;  // -1 stands still
    double radius;
    const std::string* name;
    double margin;  // of a zone: its distances count from so far outside
  };
  Arm arm_;
  std::vector<std::string> names_;
  std::vector<Item> items_;
  std::vector<Pose> poses_;
  std::vector<Pose> links_;
  std::vector<std::pair<std::size_t, std::size_t>> pairs_;
};

}  // namespace er
