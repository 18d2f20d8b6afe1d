// Targets: what an arm is to achieve, as a set of named requirements and of wishes.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "elbowroom/kinematics/requirement.hpp"

namespace er {

/// What makes one posture better than another: how much each part of the cost counts. Parts run
/// from 0 (good) to about 1 (bad); 0 leaves one out.
struct Wishes {
  double travel = 1.0;  ///< the largest turn from `near`, in half turns (slides in metres)
  double room = 1.0;    ///< nothing at 50 mm of clearance, 1 at contact
  bool room_of_every_link = false;  ///< the mean over all links, not that of the nearest pair alone
  bool room_to_itself = true;       ///< the arm's own links count
  bool room_to_surroundings = true;  ///< fixtures, pieces, zones and other arms count
  double limits = 1.0;     ///< nothing with all joints in mid range, 1 with one at its end
  double dexterity = 0.0;  ///< 1 where the tool cannot move some way at all, 0 where 0.1 m a radian
  double load = 0.0;       ///< the largest share of a motor's torque that gravity takes
  std::string branch = {};   ///< "front, up, +"; the beginning of one will do
  double branch_cost = 1.0;  ///< for a posture of another branch than `branch`
  Posture near = {};         ///< what travel is counted from; empty leaves that to ReachOptions
};

/// Named requirements, which must all be met, and wishes.
///     Target{}.place("grip", pose).within(0.1_mm, 0.1_deg)
class Target {
 public:
  /// A full pose of a tool's tip (the arm's first tool for an empty name), as a requirement called
  /// "place"; it takes the place of an earlier one of that name.
  Target& place(std::string tool, const Pose& pose);
  /// Adds a requirement; one without a name is called by its kind, with a number if need be. Throws
  /// InputError for one that cannot mean anything and for a name used twice.
  Target& require(Requirement requirement);
  /// Puts a requirement in the place of the one with its name. Throws InputError for an unknown
  /// name and for one that cannot mean anything.
  Target& changed(Requirement requirement);
  /// The tolerances of the requirement added last: metres and radians above zero, else InputError.
  /// By default 1e-6 m and 1e-6 rad.
  Target& within(double position, double angle);
  /// A requirement that is off is kept, but nobody asks for it. Throws InputError for an unknown
  /// name.
  Target& switched(const std::string& requirement, bool on);
  Target& wish(Wishes wishes);
  /// The least distance to everything that the arm must not touch, metres: a requirement like the
  /// others. What ReachOptions asks for counts if it is more.
  Target& keep_clear(double clearance);
  /// The name that messages and tables use.
  Target& named(std::string name);

  [[nodiscard]] const std::string& name() const { return name_; }
  [[nodiscard]] const std::vector<Requirement>& requirements() const { return requirements_; }
  [[nodiscard]] const Wishes& wishes() const { return wishes_; }
  [[nodiscard]] double clearance() const { return clearance_; }

  /// The requirement that is all that is asked for, if that is a full pose; else null.
  [[nodiscard]] const Requirement* full_pose() const;
  /// The first requirement of a place, if any is on: what tables call the target's pose.
  [[nodiscard]] const AtPlace* first_place() const;
  /// Of a full pose. Throws InputError for any other target, saying what it leaves open.
  [[nodiscard]] const std::string& tool() const;
  [[nodiscard]] Pose pose() const;
  /// The same of a full pose, at another one. Throws as pose() does.
  [[nodiscard]] Target with_pose(const Pose& pose) const;

  /// The same target somewhere else: all that it says of the world is moved by `by`.
  [[nodiscard]] Target moved_by(const Pose& by) const;

  /// What all requirements that are on leave open, in words.
  [[nodiscard]] std::vector<std::string> leaves_open() const;
  /// A line for each requirement: its name, what it holds, whether it is off.
  [[nodiscard]] std::string report(std::string_view indent = "  ") const;

 private:
  [[nodiscard]] const Requirement& need_full_pose() const;
  [[nodiscard]] Requirement& named_requirement(const std::string& name);
  std::string name_;
  std::vector<Requirement> requirements_;
  Wishes wishes_;
  double clearance_ = 0.0;
};

}  // namespace er
