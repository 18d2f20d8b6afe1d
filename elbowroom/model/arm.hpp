// An arm: one tree of links and joints with its mount, limits, tools and stances.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "elbowroom/base/posture.hpp"
#include "elbowroom/base/rotation_order.hpp"
#include "elbowroom/model/chain_walk.hpp"
#include "elbowroom/model/inertial.hpp"
#include "elbowroom/model/joint.hpp"
#include "elbowroom/model/note.hpp"
#include "elbowroom/model/shape.hpp"

namespace er {

/// A rigid link and the joint that carries it. The first link of an arm, its base, is carried by
/// the mount and has a fixed joint.
struct Link {
  std::string name = {};
  Joint joint = {};
  std::vector<Part> parts = {};
  std::string parent = {};  ///< the link it hangs on; empty means the one before it in the list
  Inertial inertial = {};   ///< mass 0 is "not stated"
  bool held = false;        ///< a piece in the hand: checked against the wrist, too
  int arm = 0;  ///< of arms made one: which of them, from 1 (arms_as_one); they are never joined
  Place place = {};           ///< where it is described, if in a file
  int parent_index = -1;      ///< filled in by Arm::build; -1 for the base
  int posture_index = -1;     ///< which posture entry moves it; -1 for a fixed joint
  double posture_ratio = 1;   ///< joint value = ratio * that entry + offset; not 1 and 0 only for
  double posture_offset = 0;  ///< a joint that follows another
};

/// The value of a link's joint in a posture: its own entry, or what it follows makes of it.
inline double joint_value(const Link& link, const PostureRef& posture) {
  return link.posture_index < 0
             ? 0.0
             : link.posture_ratio * posture[link.posture_index] + link.posture_offset;
}

/// A named tool centre point on a link. z is the way the tool points, by custom.
struct Tool {
  std::string name = {};
  std::string link = {};  ///< empty means the last link
  Pose tip = {};          ///< in the link's frame
  Place place = {};       ///< where it is described, if in a file
  int link_index = -1;    ///< filled in by Arm::build
};

/// A posture under a name.
struct Stance {
  std::string name = {};
  Posture posture = {};
  Place place = {};  ///< where it is described, if in a file
};

/// A place where an arm may be bolted down, or a height of its mount.
struct Station {
  std::string name = {};
  Pose mount = {};  ///< the base link's frame in the world
};

/// A joint that is held: every question moves the others alone.
struct HeldJoint {
  std::string joint = {};
  double value = 0.0;  ///< rad or m
};

/// What an arm is built from: fill it in from a file or by hand.
struct ArmDescription {
  std::string name = {};
  Pose mount = {};  ///< the base link's frame in the world
  std::vector<Link> links = {};
  std::vector<Tool> tools = {};
  std::vector<Stance> stances = {};
  std::vector<Station> stations = {};  ///< other mounts to choose from
  std::vector<HeldJoint> held = {};
  RotationOrder rotations = {};  ///< how the orientation of its tools is printed
  Place place = {};              ///< where it is described, if in a file
};

/// How many times a limit that holds either way may be taken by the way that a joint moves or
/// accelerates: 1 or more. All empty where no joint's limits differ by that.
struct LimitWays {
  Posture velocity_up = {};
  Posture velocity_down = {};
  Posture acceleration_up = {};
  Posture acceleration_down = {};

  /// Of joint k, from the limit that holds either way.
  [[nodiscard]] WayLimits velocity(Eigen::Index k, double either) const {
    return of(velocity_down, velocity_up, k, either);
  }
  [[nodiscard]] WayLimits acceleration(Eigen::Index k, double either) const {
    return of(acceleration_down, acceleration_up, k, either);
  }

 private:
  static WayLimits of(const Posture& down, const Posture& up, Eigen::Index k, double either) {
    if (up.size() == 0) return {-either, either};
    return {-down[k] * either, up[k] * either};
  }
};

/// The limits of all moving joints, in posture order. SI; infinite where not stated. Velocities and
/// accelerations hold either way.
struct Limits {
  Posture lower = {};
  Posture upper = {};
  Posture velocity = {};
  Posture acceleration = {};
  Posture jerk = {};
  Posture torque = {};
  LimitWays ways = {};

  [[nodiscard]] WayLimits velocity_of(Eigen::Index k) const {
    return ways.velocity(k, velocity[k]);
  }
  [[nodiscard]] WayLimits acceleration_of(Eigen::Index k) const {
    return ways.acceleration(k, acceleration[k]);
  }
  /// How long each joint takes at least for a step from one posture to another, s.
  [[nodiscard]] Posture least_times(const PostureRef& from, const PostureRef& to) const;
};

/// What forward kinematics needs of a link. Its pose in its parent's frame: rotation = fixed +
/// cosine
/// * by_cosine + sine * by_sine of the joint's turn; position = at + slide * along.
struct LinkMotion {
  JointKind kind = JointKind::fixed;  ///< fixed, too, where nothing moves the joint
  int parent = -1;                    ///< the link it hangs on; -1: the mount
  int entry = -1;                     ///< of the posture; joint value = ratio * that entry + offset
  double ratio = 1.0;
  double offset = 0.0;
  Vector3 axis = Vector3::UnitZ();  ///< of the joint, in the link's frame
  Matrix3 fixed = Matrix3::Identity();
  Matrix3 by_cosine = Matrix3::Zero();
  Matrix3 by_sine = Matrix3::Zero();
  Vector3 at = Vector3::Zero();
  Vector3 along = Vector3::Zero();
};

/// Immutable, cheap to copy, safe to share between threads.
class Arm {
 public:
  /// Checks everything and resolves names. Throws InputError about the key at fault: no link, a
  /// name twice, an unknown parent, a zero or non-finite axis, limits the wrong way round, a joint
  /// that follows itself, a stance of the wrong length, more than kMaxJoints moving joints.
  /// The limits of a joint that others follow are tightened to what those can do; the range of a
  /// held joint is its one value.
  static Arm build(ArmDescription description);

  [[nodiscard]] const std::string& name() const { return data_->name; }
  [[nodiscard]] const Pose& mount() const { return data_->mount; }
  /// In list order; a link's parent always comes before it.
  [[nodiscard]] const std::vector<Link>& links() const { return data_->links; }
  [[nodiscard]] const std::vector<Tool>& tools() const { return data_->tools; }
  [[nodiscard]] const std::vector<Stance>& stances() const { return data_->stances; }
  [[nodiscard]] const std::vector<Station>& stations() const { return data_->stations; }
  [[nodiscard]] const RotationOrder& rotations() const { return data_->rotations; }
  [[nodiscard]] const Place& place() const { return data_->place; }
  [[nodiscard]] const ArmDescription& description() const { return *data_; }
  [[nodiscard]] const Limits& limits() const { return derived_->limits; }
  /// The limits of one moving joint as they are in force: tightened by followers, held or not.
  [[nodiscard]] JointLimits limits_of(int index) const;
  /// The furthest that a prismatic joint (by its link) slides from its own zero, m; else 0.
  [[nodiscard]] double furthest_slide(int link) const;
  /// The ranges to look for postures in: the limits, but one turn, from -180 deg to 180 deg, for a
  /// continuous joint.
  [[nodiscard]] const Posture& search_lower() const { return derived_->search_lower; }
  [[nodiscard]] const Posture& search_upper() const { return derived_->search_upper; }
  [[nodiscard]] Posture mid_range() const { return 0.5 * (search_lower() + search_upper()); }

  /// The number of moving joints, which is the length of a posture.
  [[nodiscard]] int dof() const { return static_cast<int>(derived_->moving_links.size()); }
  /// The joint that posture entry `index` moves, and the link it carries.
  [[nodiscard]] const Joint& moving_joint(int index) const;
  [[nodiscard]] int moving_link(int index) const;

  /// The indices of the links from the base to one of them, both included.
  [[nodiscard]] const std::vector<int>& links_to(int link) const;
  /// The same way as its moving joints alone.
  [[nodiscard]] const ChainWalk& walk_to(int link) const;
  /// How each link moves against its parent (the base: against the mount), in link order.
  [[nodiscard]] const std::vector<LinkMotion>& link_motions() const { return derived_->motions; }
  /// The link that the first tool is on, or the last link where there is no tool.
  [[nodiscard]] int end_link() const;
  /// The tool of that name; without a name the first, or the frame of the last link where there is
  /// no tool. Throws InputError naming the nearest known name.
  [[nodiscard]] Tool end_tool(std::string_view name = {}) const;
  /// The number of a moving joint; -1: none has that name.
  [[nodiscard]] int find_moving_joint(std::string_view name) const;

  /// Each throws InputError naming the nearest known name. An empty tool name is the first tool.
  [[nodiscard]] int link_index(std::string_view name) const;
  [[nodiscard]] const Tool& tool(std::string_view name) const;
  [[nodiscard]] const Posture& stance(std::string_view name) const;
  /// Stance `home`, or zero where there is none: how an arm stands while another one moves.
  [[nodiscard]] Posture home_or_zero() const;
  /// Null when there is no such stance.
  [[nodiscard]] const Posture* find_stance(std::string_view name) const;

  /// "joint shoulder would be at 131.00 deg, limit 120.00 deg" for the first joint outside its
  /// range, or "" when the posture keeps all ranges (to 1e-9).
  [[nodiscard]] std::string limit_breach(const PostureRef& posture) const;
  /// The same for every joint outside its range.
  [[nodiscard]] std::vector<std::string> limit_breaches(const PostureRef& posture) const;
  /// "joint elbow is at its limit of 150.00 deg" for the first joint that is at an end of its
  /// range, to within `slack`; or "".
  [[nodiscard]] std::string limit_reached(const PostureRef& posture, double slack) const;

  /// Throws InputError unless `posture` has one finite value per moving joint.
  void check_posture(const PostureRef& posture, std::string_view what = "posture") const;

  [[nodiscard]] Arm mounted_at(const Pose& mount) const;
  /// The same arm on one of its stations. Throws InputError naming the nearest known one.
  [[nodiscard]] Arm at_station(std::string_view name) const;
  /// The same arm with some more joints held. Throws InputError for an unknown joint or a value out
  /// of range.
  [[nodiscard]] Arm holding(const std::vector<HeldJoint>& held) const;

 private:
  struct Derived {
    Limits limits;
    Posture search_lower;
    Posture search_upper;
    std::vector<int> moving_links;
    std::vector<std::vector<int>> ways;  // of each link, from the base
    std::vector<ChainWalk> walks;        // the same
    std::vector<LinkMotion> motions;
  };
  Arm(std::shared_ptr<const ArmDescription> data, std::shared_ptr<const Derived> derived)
      : data_(std::move(data)), derived_(std::move(derived)) {}

  std::shared_ptr<const ArmDescription> data_;
  std::shared_ptr<const Derived> derived_;
};

/// Throws InputError for an arm with a joint whose range is not stated: nothing can be looked for
/// over all its postures.
void require_ranges(const Arm& arm);

/// "12.50 deg" or "83.0 mm", as the joint's kind asks.
std::string text_value(const Joint& joint, double value);

}  // namespace er
