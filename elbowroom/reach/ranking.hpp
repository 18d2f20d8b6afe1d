// How good a posture is: the parts of its cost, each with the figure behind it.
#pragma once

#include <string>

#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/kinematics/target_on_arm.hpp"

namespace er {

/// One posture that meets a target. The cost is the sum of its parts, each times the weight that
/// the target's wishes give it; lowest is best.
struct ReachSolution {
  Posture posture = {};
  double position_error = 0.0;  ///< metres, over all requirements
  double angle_error = 0.0;     ///< radians
  Nearest nearest;              ///< the nearest pair at this posture
  std::string branch = {};      ///< shoulder, elbow, bend: "front, up, +" where there are such
  std::string free_joint = {};  ///< of a singular posture: a joint that may turn, others giving way
  std::string view_blocked_by = {};  ///< what stands before a point that is to be seen; or empty

  double travel_cost = 0.0;  ///< largest turn from the start, in half turns (or metres)
  double room_cost = 0.0;    ///< 0 at 50 mm or more of clearance, rising to 1 at contact
  Nearest room_pair;         ///< the nearest pair of those that the wishes count
  int links_near = 0;        ///< of every link, if that is wished: nearer than 50 mm
  double limit_cost = 0.0;   ///< 0 with all joints in mid range, 1 with one at its limit
  double dexterity_cost =
      0.0;                   ///< 0 at 0.1 m a radian in the weakest direction, rising to 1 at none
  double load_cost = 0.0;    ///< largest share of a motor's torque that gravity takes
  double branch_cost = 0.0;  ///< 1 for another branch than the one wished for

  int travel_joint = -1;  ///< the joint behind travel_cost, and how far it goes, rad or m
  double travel = 0.0;
  int limit_joint = -1;  ///< the joint behind limit_cost, and how far from its end it is
  double limit_margin = 0.0;
  double weakest = 0.0;  ///< m a radian: how far the tool moves the way it is moved least
  int load_joint = -1;   ///< the joint behind load_cost

  double total = 0.0;  ///< the weighted sum
  [[nodiscard]] double cost() const { return total; }
};

/// Rates postures for one target.
class Ranking {
 public:
  /// `from` is what travel is counted from unless the wishes say otherwise. Throws InputError for a
  /// wish that the arm says too little for.
  Ranking(const CellQuery& query, const TargetOnArm& target, const Posture& from);

  [[nodiscard]] ReachSolution rate(const Posture& posture, const std::string& branch,
                                   PartPoses& parts) const;
  /// The part of the cost that full turns of a joint change.
  [[nodiscard]] double cost_of_turns(const Posture& posture) const;
  [[nodiscard]] const Posture& from() const { return from_; }
  [[nodiscard]] const Wishes& wishes() const { return target_->target().wishes(); }

 private:
  const CellQuery* query_;
  const TargetOnArm* target_;
  void rate_turns(const Posture& posture, ReachSolution& out) const;
  void rate_room(const Posture& posture, PartPoses& parts, ReachSolution& out) const;

  Posture from_;
};

/// "cost 0.52, not 0.81: travel 0.20 less (wrist 36 deg, not 72 deg), ...", two parts to a line.
std::string comparison(const Arm& arm, const Wishes& wishes, const ReachSolution& better,
                       const ReachSolution& worse);

}  // namespace er
