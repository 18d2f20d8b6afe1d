#include "elbowroom/model/arm.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/model/find_named.hpp"

namespace er {
namespace {

// Names of arms that were made one have a dot after that of their arm.
void check_name(const std::string& name, const std::string& subject, std::set<std::string>& taken,
                bool with_arm = false) {
  if (name.empty()) throw InputError::about(subject, "a name is missing");
  if (name.find_first_of(with_arm ? ", \t\n" : "., \t\n") != std::string::npos)
    throw InputError::about(subject, fmt::format("'{}' is no good as a name", name),
                            "names have no spaces, dots or commas");
  if (!taken.insert(name).second)
    throw InputError::about(subject, fmt::format("the name '{}' is used twice", name),
                            "give each its own name");
}

void check_limits(const Joint& joint, const std::string& subject) {
  const JointLimits& limits = joint.limits;
  if (std::isnan(limits.lower) || std::isnan(limits.upper))
    throw InputError::about(subject + ".range", "a limit is not a number");
  if (limits.lower > limits.upper)
    throw InputError::about(
        subject + ".range",
        fmt::format("the range of joint '{}' is the wrong way round: lower {} is above upper {}",
                    joint.name, text_value(joint, limits.lower), text_value(joint, limits.upper)),
        "write the lower limit first");
  const auto positive = [&](double value, const char* what) {
    if (!(value > 0.0))
      throw InputError::about(
          subject + "." + what,
          fmt::format("the {} limit of joint '{}' must be above zero", what, joint.name));
  };
  positive(limits.velocity, "velocity");
  positive(limits.acceleration, "acceleration");
  const auto both_ways = [&](const std::optional<WayLimits>& ways, const char* what) {
    if (ways && !(ways->low < 0.0 && ways->high > 0.0))
      throw InputError::about(
          subject + "." + what,
          fmt::format("the {} limits of joint '{}' go from below zero to above zero, found {:g} "
                      "and {:g}",
                      what, joint.name, ways->low, ways->high),
          "write the one for going down first, below zero");
  };
  both_ways(limits.velocity_ways, "velocity");
  both_ways(limits.acceleration_ways, "acceleration");
  positive(limits.jerk, "jerk");
  positive(limits.torque, "torque");
  if (!(joint.damping >= 0.0))
    throw InputError::about(subject + ".damping", "damping is below zero");
  if (!(joint.friction >= 0.0))
    throw InputError::about(subject + ".friction", "friction is below zero");
  const bool has_range = std::isfinite(limits.lower) || std::isfinite(limits.upper);
  if (joint.continuous && (has_range || joint.kind != JointKind::revolute))
    throw InputError::about(subject + ".range",
                            fmt::format("joint '{}' is continuous, so it has no range", joint.name),
                            "leave out the range, or make it a revolute joint");
}

// Joints that follow another: finds the leaders, also through several, and refuses loops.
void resolve_followers(ArmDescription& arm) {
  std::vector<std::string> known;
  for (const Link& link : arm.links)
    if (link.joint.kind != JointKind::fixed) known.push_back(link.joint.name);
  for (std::size_t i = 0; i < arm.links.size(); ++i) {
    Link& link = arm.links[i];
    if (link.joint.kind == JointKind::fixed || link.joint.follow.joint.empty()) continue;
    const std::string subject = fmt::format("links[{}].joint.follow", i);
    link.posture_ratio = 1.0;
    link.posture_offset = 0.0;
    const Link* leader = &link;
    for (std::size_t steps = 0; !leader->joint.follow.joint.empty(); ++steps) {
      const Follow& follow = leader->joint.follow;
      if (!std::isfinite(follow.ratio) || !std::isfinite(follow.offset) || follow.ratio == 0.0)
        throw InputError::about(subject, "a ratio is a finite number other than zero");
      if (steps > arm.links.size())
        throw InputError::about(
            subject, fmt::format("joint '{}' follows itself in the end", link.joint.name),
            "one joint of the loop must move by itself");
      // value = ratio (ratio' leader + offset') + offset
      link.posture_offset += link.posture_ratio * follow.offset;
      link.posture_ratio *= follow.ratio;
      const auto found = std::find_if(arm.links.begin(), arm.links.end(), [&](const Link& other) {
        return other.joint.kind != JointKind::fixed && other.joint.name == follow.joint;
      });
      if (found == arm.links.end()) {
        const InputError error = unknown_name("moving joint", follow.joint, known);
        throw InputError::about(subject, error.message(), error.advice());
      }
      leader = &*found;
    }
    link.posture_index = leader->posture_index;
  }
}

void finish_joint(Joint& joint, const std::string& subject) {
  if (joint.kind == JointKind::fixed) return;
  const double length = joint.axis.norm();
  if (!std::isfinite(length) || length < 1e-9)
    throw InputError::about(subject + ".axis",
                            fmt::format("the axis of joint '{}' has no direction", joint.name),
                            "give a direction such as [0, 0, 1]");
  joint.axis /= length;
  check_limits(joint, subject);
}

void finish_links(ArmDescription& arm, std::vector<int>& moving) {
  if (arm.links.empty()) throw InputError::about("links", "an arm needs at least one link");
  std::set<std::string> link_names;
  std::set<std::string> joint_names;
  for (std::size_t i = 0; i < arm.links.size(); ++i) {
    Link& link = arm.links[i];
    const std::string subject = fmt::format("links[{}]", i);
    check_name(link.name, subject + ".name", link_names, link.arm > 0);
    for (std::size_t p = 0; p < link.parts.size(); ++p)
      check_shape(link.parts[p].shape, fmt::format("{}.parts[{}]", subject, p), true);
    if (i == 0) {
      if (link.joint.kind != JointKind::fixed)
        throw InputError::about(subject + ".joint", "the first link is the base and cannot move",
                                "give it no joint; the mount says where it stands");
      continue;
    }
    link.parent_index = static_cast<int>(i) - 1;
    if (!link.parent.empty()) {
      std::vector<std::string> known;
      link.parent_index = -1;
      for (std::size_t k = 0; k < i; ++k) {
        known.push_back(arm.links[k].name);
        if (arm.links[k].name == link.parent) link.parent_index = static_cast<int>(k);
      }
      if (link.parent_index < 0) {
        const InputError error =
            unknown_name("parent link (it must come earlier)", link.parent, known);
        throw InputError::about(subject + ".parent", error.message(), error.advice());
      }
    }
    const Link& parent = arm.links[static_cast<std::size_t>(link.parent_index)];
    link.parent = parent.name;
    if (link.joint.name.empty()) link.joint.name = parent.name + "_to_" + link.name;
    check_name(link.joint.name, subject + ".joint.name", joint_names, link.arm > 0);
    finish_joint(link.joint, subject + ".joint");
    link.posture_index = -1;
    link.posture_ratio = 1.0;
    link.posture_offset = 0.0;
    if (link.joint.kind != JointKind::fixed && link.joint.follow.joint.empty()) {
      link.posture_index = static_cast<int>(moving.size());
      moving.push_back(static_cast<int>(i));
    }
  }
  if (moving.size() > static_cast<std::size_t>(kMaxJoints))
    throw InputError::about("links", fmt::format("{} moving joints; one arm may have at most {}",
                                                 moving.size(), kMaxJoints));
  resolve_followers(arm);
  int moved = 0;
  for (std::size_t i = 0; i < arm.links.size(); ++i)
    if (arm.links[i].posture_index >= 0 && ++moved > kMaxMovingLinks)
      throw InputError::about(
          fmt::format("links[{}]", i),
          fmt::format("more than {} joints move, by themselves or following another; one arm may "
                      "have at most so many",
                      kMaxMovingLinks));
}

void finish_tools(ArmDescription& arm) {
  std::set<std::string> names;
  for (std::size_t i = 0; i < arm.tools.size(); ++i) {
    Tool& tool = arm.tools[i];
    const std::string subject = fmt::format("tools[{}]", i);
    check_name(tool.name, subject + ".name", names, arm.links.back().arm > 0);
    if (tool.link.empty()) tool.link = arm.links.back().name;
    std::vector<std::string> known;
    for (std::size_t k = 0; k < arm.links.size(); ++k) {
      known.push_back(arm.links[k].name);
      if (arm.links[k].name == tool.link) tool.link_index = static_cast<int>(k);
    }
    if (tool.link_index < 0) {
      const InputError error = unknown_name("link", tool.link, known);
      throw InputError::about(subject + ".link", error.message(), error.advice());
    }
  }
}

// Limits of all joints by the way they go.
struct AllWays {
  explicit AllWays(Eigen::Index count) : velocity(count), acceleration(count) {}
  struct Ways {
    explicit Ways(Eigen::Index count) : low(count), high(count) {}
    void set(Eigen::Index k, const WayLimits& limits) {
      low[k] = limits.low;
      high[k] = limits.high;
    }
    // By those of a joint that moves `ratio` times as much.
    void tighten(Eigen::Index k, const WayLimits& limits, double ratio) {
      const double one = limits.low / ratio;
      const double other = limits.high / ratio;
      low[k] = std::max(low[k], std::min(one, other));
      high[k] = std::min(high[k], std::max(one, other));
    }
    // What holds either way, and how many times that each way allows.
    void split(Posture& either, Posture& down, Posture& up) const {
      either = high.cwiseMin(-low);
      const auto times = [&](double limit, double least) {
        return std::isfinite(least) ? limit / least : 1.0;
      };
      down.resize(low.size());
      up.resize(low.size());
      for (Eigen::Index k = 0; k < low.size(); ++k) {
        down[k] = times(-low[k], either[k]);
        up[k] = times(high[k], either[k]);
      }
    }
    Posture low;
    Posture high;
  };
  Ways velocity;
  Ways acceleration;

  void split(Limits& all) const {
    LimitWays ways;
    velocity.split(all.velocity, ways.velocity_down, ways.velocity_up);
    acceleration.split(all.acceleration, ways.acceleration_down, ways.acceleration_up);
    for (const Posture* times :
         {&ways.velocity_down, &ways.velocity_up, &ways.acceleration_down, &ways.acceleration_up})
      if (!times->isOnes(0.0)) {
        all.ways = ways;
        return;
      }
  }
};

WayLimits ways_of(double either, const std::optional<WayLimits>& ways) {
  return ways ? *ways : WayLimits{-either, either};
}

// What a follower can do, said of the joint it follows: tightens `all` at entry k.
void tighten_for(const Link& follower, Limits& all, AllWays& ways) {
  const JointLimits& own = follower.joint.limits;
  const Eigen::Index k = follower.posture_index;
  const double ratio = follower.posture_ratio;
  double lower = (own.lower - follower.posture_offset) / ratio;
  double upper = (own.upper - follower.posture_offset) / ratio;
  if (ratio < 0.0) std::swap(lower, upper);
  all.lower[k] = std::max(all.lower[k], lower);
  all.upper[k] = std::min(all.upper[k], upper);
  ways.velocity.tighten(k, ways_of(own.velocity, own.velocity_ways), ratio);
  ways.acceleration.tighten(k, ways_of(own.acceleration, own.acceleration_ways), ratio);
  all.jerk[k] = std::min(all.jerk[k], own.jerk / std::abs(ratio));
}

Limits collect_limits(const ArmDescription& arm, const std::vector<int>& moving) {
  const auto count = static_cast<Eigen::Index>(moving.size());
  Limits all{Posture(count), Posture(count), Posture(count),
             Posture(count), Posture(count), Posture(count)};
  AllWays ways(count);
  for (Eigen::Index k = 0; k < count; ++k) {
    const JointLimits& one =
        arm.links[static_cast<std::size_t>(moving[static_cast<std::size_t>(k)])].joint.limits;
    all.lower[k] = one.lower;
    all.upper[k] = one.upper;
    ways.velocity.set(k, ways_of(one.velocity, one.velocity_ways));
    ways.acceleration.set(k, ways_of(one.acceleration, one.acceleration_ways));
    all.jerk[k] = one.jerk;
    all.torque[k] = one.torque;
  }
  for (std::size_t i = 0; i < arm.links.size(); ++i) {
    const Link& link = arm.links[i];
    if (link.posture_index < 0 || link.joint.follow.joint.empty()) continue;
    tighten_for(link, all, ways);
    if (all.lower[link.posture_index] > all.upper[link.posture_index])
      throw InputError::about(
          fmt::format("links[{}].joint.range", i),
          fmt::format("joint '{}' and joint '{}', which it follows, have no value in common",
                      link.joint.name, link.joint.follow.joint),
          "check ratio and offset, and the two ranges");
  }
  ways.split(all);
  return all;
}

// The range of a held joint is its one value.
void hold(const ArmDescription& arm, const std::vector<int>& moving, Limits& limits) {
  std::vector<std::string> known;
  for (const int link : moving)
    known.push_back(arm.links[static_cast<std::size_t>(link)].joint.name);
  for (const HeldJoint& one : arm.held) {
    const auto found = std::find(known.begin(), known.end(), one.joint);
    if (found == known.end()) throw unknown_name("moving joint", one.joint, known);
    const auto k = static_cast<Eigen::Index>(found - known.begin());
    const Joint& joint =
        arm.links[static_cast<std::size_t>(moving[static_cast<std::size_t>(k)])].joint;
    if (!(one.value >= limits.lower[k] && one.value <= limits.upper[k]))
      throw InputError(fmt::format("joint '{}' cannot be held at {}: its range is {} to {}",
                                   one.joint, text_value(joint, one.value),
                                   text_value(joint, limits.lower[k]),
                                   text_value(joint, limits.upper[k])));
    limits.lower[k] = one.value;
    limits.upper[k] = one.value;
  }
}

// The walk to a link, from the walk to its parent.
ChainWalk walk_on(ChainWalk walk, const Link& link) {
  walk.end = walk.end * link.joint.origin;
  if (link.posture_index >= 0)
    walk.append(link.joint.axis, {link.joint.kind == JointKind::revolute, link.posture_index,
                                  link.posture_ratio, link.posture_offset});
  return walk;
}

LinkMotion link_motion(const Link& link) {
  const Joint& joint = link.joint;
  LinkMotion out{.kind = link.posture_index < 0 ? JointKind::fixed : joint.kind,
                 .parent = link.parent_index,
                 .entry = link.posture_index,
                 .ratio = link.posture_ratio,
                 .offset = link.posture_offset,
                 .axis = joint.axis,
                 .fixed = joint.origin.rotation,
                 .at = joint.origin.position};
  if (out.kind == JointKind::prismatic) out.along = joint.origin.rotation * joint.axis;
  if (out.kind == JointKind::revolute) {
    // Rodrigues: axis axis^T + cosine (1 - axis axis^T) + sine [axis x]
    const Matrix3 along = joint.axis * joint.axis.transpose();
    Matrix3 crossed;
    crossed << 0, -joint.axis.z(), joint.axis.y(), joint.axis.z(), 0, -joint.axis.x(),
        -joint.axis.y(), joint.axis.x(), 0;
    out.fixed = joint.origin.rotation * along;
    out.by_cosine = joint.origin.rotation * (Matrix3::Identity() - along);
    out.by_sine = joint.origin.rotation * crossed;
  }
  return out;
}

}  // namespace

Posture Limits::least_times(const PostureRef& from, const PostureRef& to) const {
  Posture out(from.size());
  for (Eigen::Index k = 0; k < from.size(); ++k) out[k] = velocity_of(k).share_of(to[k] - from[k]);
  return out;
}

Arm Arm::build(ArmDescription description) {
  auto arm = std::make_shared<ArmDescription>(std::move(description));
  auto derived = std::make_shared<Derived>();
  std::set<std::string> no_names;
  check_name(arm->name, "name", no_names);
  finish_links(*arm, derived->moving_links);
  finish_tools(*arm);
  for (Link& link : arm->links) {
    JointLimits& limits = link.joint.limits;
    if (limits.velocity_ways) limits.velocity = limits.velocity_ways->either();
    if (limits.acceleration_ways) limits.acceleration = limits.acceleration_ways->either();
  }
  std::set<std::string> station_names;
  for (std::size_t i = 0; i < arm->stations.size(); ++i)
    check_name(arm->stations[i].name, fmt::format("stations[{}].name", i), station_names);
  for (std::size_t i = 0; i < arm->links.size(); ++i) {
    const int parent = arm->links[i].parent_index;
    derived->ways.push_back(parent < 0 ? std::vector<int>{}
                                       : derived->ways[static_cast<std::size_t>(parent)]);
    derived->ways.back().push_back(static_cast<int>(i));
    derived->walks.push_back(
        walk_on(parent < 0 ? ChainWalk{} : derived->walks[static_cast<std::size_t>(parent)],
                arm->links[i]));
    derived->motions.push_back(link_motion(arm->links[i]));
  }
  derived->limits = collect_limits(*arm, derived->moving_links);
  hold(*arm, derived->moving_links, derived->limits);
  derived->search_lower = derived->limits.lower;
  derived->search_upper = derived->limits.upper;
  for (std::size_t k = 0; k < derived->moving_links.size(); ++k) {
    if (!arm->links[static_cast<std::size_t>(derived->moving_links[k])].joint.continuous) continue;
    double& lower = derived->search_lower[static_cast<Eigen::Index>(k)];
    double& upper = derived->search_upper[static_cast<Eigen::Index>(k)];
    if (!std::isfinite(lower)) lower = -std::numbers::pi;
    if (!std::isfinite(upper)) upper = std::numbers::pi;
  }
  Arm built(arm, derived);
  std::set<std::string> stance_names;
  for (std::size_t i = 0; i < arm->stances.size(); ++i) {
    const std::string subject = fmt::format("stances[{}]", i);
    check_name(arm->stances[i].name, subject + ".name", stance_names);
    try {
      built.check_posture(arm->stances[i].posture, "stance '" + arm->stances[i].name + "'");
    } catch (const InputError& error) {
      throw InputError::about(subject, error.message(), error.advice());
    }
  }
  return built;
}

const Joint& Arm::moving_joint(int index) const {
  return data_->links[static_cast<std::size_t>(moving_link(index))].joint;
}

int Arm::moving_link(int index) const {
  return derived_->moving_links[static_cast<std::size_t>(index)];
}

int Arm::link_index(std::string_view name) const {
  return static_cast<int>(&find_named(data_->links, "link", name, "arm", data_->name) -
                          data_->links.data());
}

const Tool& Arm::tool(std::string_view name) const {
  if (name.empty()) {
    if (data_->tools.empty())
      throw InputError(
          fmt::format("arm '{}' has no tool, so there is nothing to place", data_->name),
          "add one under tools: in the arm's description");
    return data_->tools.front();
  }
  return find_named(data_->tools, "tool", name, "arm", data_->name);
}

const Posture& Arm::stance(std::string_view name) const {
  return find_named(data_->stances, "stance", name, "arm", data_->name).posture;
}

const Posture* Arm::find_stance(std::string_view name) const {
  for (const Stance& stance : data_->stances)
    if (stance.name == name) return &stance.posture;
  return nullptr;
}

Posture Arm::home_or_zero() const {
  const Posture* home = find_stance("home");
  return home != nullptr ? *home : Posture(Posture::Zero(dof()));
}

std::string Arm::limit_breach(const PostureRef& posture) const {
  const std::vector<std::string> all = limit_breaches(posture);
  return all.empty() ? std::string{} : all.front();
}

std::vector<std::string> Arm::limit_breaches(const PostureRef& posture) const {
  constexpr double kSlack = 1e-9;
  std::vector<std::string> out;
  for (int k = 0; k < dof(); ++k) {
    const double lower = limits().lower[k];
    const double upper = limits().upper[k];
    const bool below = posture[k] < lower - kSlack;
    if (!below && !(posture[k] > upper + kSlack)) continue;
    const Joint& joint = moving_joint(k);
    out.push_back(fmt::format("joint {} would be at {}, limit {}", joint.name,
                              text_value(joint, posture[k]),
                              text_value(joint, below ? lower : upper)));
  }
  return out;
}

std::string Arm::limit_reached(const PostureRef& posture, double slack) const {
  for (int k = 0; k < dof(); ++k)
    for (const double limit : {limits().lower[k], limits().upper[k]})
      if (std::abs(posture[k] - limit) < slack)
        return fmt::format("joint {} is at its limit of {}", moving_joint(k).name,
                           text_value(moving_joint(k), limit));
  return {};
}

void Arm::check_posture(const PostureRef& posture, std::string_view what) const {
  if (posture.size() != dof())
    throw InputError(fmt::format("{} has {} value{}, arm '{}' has {} moving joints", what,
                                 posture.size(), posture.size() == 1 ? "" : "s", name(), dof()),
                     "give one value per moving joint, in chain order");
  if (!posture.allFinite())
    throw InputError(fmt::format("{} has a value that is not finite", what));
}

Arm Arm::mounted_at(const Pose& mount) const {
  auto changed = std::make_shared<ArmDescription>(*data_);
  changed->mount = mount;
  return {changed, derived_};
}

Arm Arm::at_station(std::string_view name) const {
  return mounted_at(find_named(data_->stations, "station", name, "arm", data_->name).mount);
}

Arm Arm::holding(const std::vector<HeldJoint>& held) const {
  ArmDescription changed = *data_;
  changed.held.insert(changed.held.end(), held.begin(), held.end());
  return build(std::move(changed));
}

JointLimits Arm::limits_of(int index) const {
  const Limits& all = limits();
  JointLimits out{all.lower[index],        all.upper[index], all.velocity[index],
                  all.acceleration[index], all.jerk[index],  all.torque[index]};
  const auto differs = [](const WayLimits& ways) { return ways.low != -ways.high; };
  if (const WayLimits ways = all.velocity_of(index); differs(ways)) out.velocity_ways = ways;
  if (const WayLimits ways = all.acceleration_of(index); differs(ways))
    out.acceleration_ways = ways;
  return out;
}

const std::vector<int>& Arm::links_to(int link) const {
  return derived_->ways[static_cast<std::size_t>(link)];
}

const ChainWalk& Arm::walk_to(int link) const {
  return derived_->walks[static_cast<std::size_t>(link)];
}

int Arm::end_link() const {
  return tools().empty() ? static_cast<int>(links().size()) - 1 : tools().front().link_index;
}

Tool Arm::end_tool(std::string_view name) const {
  if (!name.empty() || !tools().empty()) return tool(name);
  const std::string& last = links().back().name;
  return {.name = last, .link = last, .link_index = end_link()};
}

int Arm::find_moving_joint(std::string_view name) const {
  for (int k = 0; k < dof(); ++k)
    if (moving_joint(k).name == name) return k;
  return -1;
}

double Arm::furthest_slide(int link) const {
  const Link& here = data_->links[static_cast<std::size_t>(link)];
  if (here.joint.kind != JointKind::prismatic) return 0.0;
  double most = 0.0;
  for (const Posture* ends : {&limits().lower, &limits().upper})
    most = std::max(most, std::abs(joint_value(here, *ends)));
  return most;
}

void require_ranges(const Arm& arm) {
  for (int k = 0; k < arm.dof(); ++k)
    if (!std::isfinite(arm.search_lower()[k]) || !std::isfinite(arm.search_upper()[k]))
      throw InputError(
          fmt::format("joint '{}' of arm '{}' has no range, so there is no end to where "
                      "to look",
                      arm.moving_joint(k).name, arm.name()),
          "state it: range: [-180 deg, 180 deg]; or say kind: continuous");
}

std::string text_value(const Joint& joint, double value) {
  return joint.kind == JointKind::prismatic ? text_length(value) : text_angle(value);
}

}  // namespace er
