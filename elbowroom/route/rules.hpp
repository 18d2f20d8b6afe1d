// Rules on the way: requirements that hold along a whole route, not only at its end.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/kinematics/target_on_arm.hpp"

namespace er {

/// Throws InputError for what cannot be a rule: something exact (a route needs room), a turn about
/// an axis, sight; and as TargetOnArm does.
void check_rule(const Arm& arm, const Requirement& rule);

/// "'level': grip's z at up to 5 deg to direction [0, 0, -1]"
std::string kept_text(const Requirement& rule);

/// Requirements of an arm that postures and straight joint lines may keep: an axis of a frame
/// within an angle of a direction or a point, a frame or a whole link inside a box, a distance to a
/// point, places with bands, joints in bands. A line is proved to keep them as it is proved to be
/// free: in the middle of an interval there has to be as much to spare as the frame can move and
/// turn within it, by its speed there and the most that this can change; else the interval is
/// halved.
class Rules {
 public:
  /// Those that are on. Throws InputError as check_rule does.
  Rules(const CellQuery& query, const std::vector<Requirement>& requirements);
  Rules(const Rules&) = delete;  // what is made ready refers to its own members
  Rules& operator=(const Rules&) = delete;

  [[nodiscard]] bool empty() const { return requirements_.empty(); }
  /// The number of a rule that a posture breaks, as they were given; -1: none.
  [[nodiscard]] int broken_at(const PostureRef& posture) const;
  /// Of a straight joint line; it is proved that none is broken where it says -1.
  [[nodiscard]] int broken_between(const PostureRef& from, const PostureRef& to) const;
  [[nodiscard]] const std::string& name(int rule) const {
    return requirements_[static_cast<std::size_t>(rule)].name;
  }
  /// "rule 'level' is not kept: its z at up to 5 deg to direction [0, 0, -1]; 12.31 deg off".
  [[nodiscard]] std::string fault_of(const PostureRef& posture) const;

  /// A posture near by that keeps them with some room; nothing where none is found.
  [[nodiscard]] std::optional<Posture> projected(const PostureRef& posture) const;

 private:
  struct Check {
    int rule = 0;
    int link = 0;
    Pose frame = {};  ///< in the link
    Posture lever;    ///< m that what is bounded moves per unit of each joint
    Posture turn;     ///< rad that it turns
  };
  struct JointCheck {
    int rule = 0;
    int entry = 0;  ///< of a posture
    Band band = {};
  };
  // What is to spare of what a rule asks for, m or rad, when the frame moves by `travel` and turns
  // by `turn` at most; below zero: broken, or not known to hold.
  [[nodiscard]] double spare(const Check& check, const Pose& frame, double travel,
                             double turn) const;
  [[nodiscard]] bool is_kept_between(const Check& check, const PostureRef& from,
                                     const PostureRef& to) const;

  CellQuery query_;
  std::vector<Requirement> requirements_;
  std::vector<Check> checks_;
  std::vector<JointCheck> joint_checks_;
  Target inside_;  ///< with bands drawn in: what postures are projected to
  std::optional<TargetOnArm> projection_;
};

}  // namespace er
