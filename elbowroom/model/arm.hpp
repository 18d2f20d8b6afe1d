// An arm: one tree of links and joints with its mount, limits, tools and stances.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "elbowroom/base/posture.hpp"
#include "elbowroom/model/joint.hpp"
#include "elbowroom/model/shape.hpp"

namespace er {

/// A rigid link and the joint that carries it. The first link of an arm, its base, is carried by
/// the mount and has a fixed joint.
struct Link {
  std::string name = {};
  Joint joint = {};
  std::vector<Part> parts = {};
  std::string parent = {};  ///< the link it hangs on; empty means the one before it in the list
  int parent_index = -1;    ///< filled in by Arm::build; -1 for the base
  int posture_index = -1;   ///< which posture entry moves it; -1 for a fixed joint
};

/// A named tool centre point on a link. z is the way the tool points, by custom.
struct Tool {
  std::string name = {};
  std::string link = {};  ///< empty means the last link
  Pose tip = {};          ///< in the link's frame
  int link_index = -1;    ///< filled in by Arm::build
};

/// A posture under a name.
struct Stance {
  std::string name = {};
  Posture posture = {};
};

/// What an arm is built from: fill it in from a file or by hand.
struct ArmDescription {
  std::string name = {};
  Pose mount = {};  ///< the base link's frame in the world
  std::vector<Link> links = {};
  std::vector<Tool> tools = {};
  std::vector<Stance> stances = {};
};

/// The limits of all moving joints, in posture order. SI; infinite where not stated.
struct Limits {
  Posture lower = {};
  Posture upper = {};
  Posture velocity = {};
  Posture acceleration = {};
  Posture jerk = {};
};

/// Immutable, cheap to copy, safe to share between threads.
class Arm {
 public:
  /// Checks everything and resolves names. Throws InputError about the key at fault: no link, a
  /// name twice, an unknown parent, a zero or non-finite axis, limits the wrong way round, a
  /// stance of the wrong length, more than kMaxJoints moving joints.
  static Arm build(ArmDescription description);

  [[nodiscard]] const std::string& name() const { return data_->name; }
  [[nodiscard]] const Pose& mount() const { return data_->mount; }
  /// In list order; a link's parent always comes before it.
  [[nodiscard]] const std::vector<Link>& links() const { return data_->links; }
  [[nodiscard]] const std::vector<Tool>& tools() const { return data_->tools; }
  [[nodiscard]] const std::vector<Stance>& stances() const { return data_->stances; }
  [[nodiscard]] const Limits& limits() const { return derived_->limits; }

  /// The number of moving joints, which is the length of a posture.
  [[nodiscard]] int dof() const { return static_cast<int>(derived_->moving_links.size()); }
  /// The joint that posture entry `index` moves, and the link it carries.
  [[nodiscard]] const Joint& moving_joint(int index) const;
  [[nodiscard]] int moving_link(int index) const;

  /// Each throws InputError naming the nearest known name. An empty tool name is the first tool.
  [[nodiscard]] int link_index(std::string_view name) const;
  [[nodiscard]] const Tool& tool(std::string_view name) const;
  [[nodiscard]] const Posture& stance(std::string_view name) const;
  /// Null when there is no such stance.
  [[nodiscard]] const Posture* find_stance(std::string_view name) const;

  /// "joint shoulder would be at 131.00 deg, limit 120.00 deg" for the first joint outside its
  /// range, or "" when the posture keeps all ranges (to 1e-9).
  [[nodiscard]] std::string limit_breach(const PostureRef& posture) const;

  /// Throws InputError unless `posture` has one finite value per moving joint.
  void check_posture(const PostureRef& posture, std::string_view what = "posture") const;

  [[nodiscard]] Arm mounted_at(const Pose& mount) const;

 private:
  struct Derived {
    Limits limits;
    std::vector<int> moving_links;
  };
  Arm(std::shared_ptr<const ArmDescription> data, std::shared_ptr<const Derived> derived)
      : data_(std::move(data)), derived_(std::move(derived)) {}

  std::shared_ptr<const ArmDescription> data_;
  std::shared_ptr<const Derived> derived_;
};

/// "12.50 deg" or "83.0 mm", as the joint's kind asks.
std::string text_value(const Joint& joint, double value);

}  // namespace er
