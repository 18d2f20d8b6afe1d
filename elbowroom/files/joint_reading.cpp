#include "elbowroom/files/joint_reading.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/files/reading.hpp"
#include "elbowroom/model/denavit_hartenberg.hpp"

namespace er {
namespace {

std::vector<std::string> joined_keys(std::vector<std::string> keys,
                                     const std::vector<std::string>& more) {
  keys.insert(keys.end(), more.begin(), more.end());
  return keys;
}

// Damping is a torque per speed: N m s/rad, or N s/m of a joint that slides.
Dimension damping_dimension(JointKind kind) {
  return kind == JointKind::prismatic ? Dimension{.length = 0, .time = -1, .mass = 1}
                                      : Dimension{.length = 2, .angle = -1, .time = -1, .mass = 1};
}

Dimension effort_dimension(JointKind kind) {
  return kind == JointKind::prismatic ? dimension::force : dimension::torque;
}

void read_resistance(const Node& node, JointKind kind, double& damping, double& friction) {
  if (const Node* found = node.find("damping"))
    damping = as_quantity(*found, damping_dimension(kind));
  if (const Node* found = node.find("friction"))
    friction = as_quantity(*found, effort_dimension(kind));
}

}  // namespace

const std::vector<std::string>& limit_keys() {
  static const std::vector<std::string> kKeys{"range",  "velocity", "acceleration", "jerk",
                                              "torque", "force",    "damping",      "friction"};
  return kKeys;
}

void read_limits(const Node& node, JointKind kind, JointLimits& limits) {
  const Dimension value = value_dimension(kind);
  if (const Node* range = node.find("range")) {
    const auto& ends = as_list(*range, "two limits");
    if (ends.size() != 2)
      throw range->error(fmt::format("a range is two limits, found {}", ends.size()));
    limits.lower = as_quantity(ends[0], value);
    limits.upper = as_quantity(ends[1], value);
  }
  const auto limit = [&](const char* key, int times, double& out) {
    if (const Node* found = node.find(key)) out = as_quantity(*found, per(value, times));
  };
  // One value, or what holds going down and going up.
  const auto by_way = [&](const char* key, int times, double& either,
                          std::optional<WayLimits>& ways) {
    const Node* found = node.find(key);
    if (found == nullptr || found->kind != Node::Kind::list) return limit(key, times, either);
    const auto& both = as_list(*found, "two limits");
    const Dimension dimension = per(value, times);
    if (both.size() != 2)
      throw found->error(fmt::format("limits by the way are two, found {}", both.size()),
                         "write the one for going down, below zero, and the one for going up");
    ways = WayLimits{as_quantity(both[0], dimension), as_quantity(both[1], dimension)};
    if (!(ways->low < 0.0)) throw both[0].error("the limit for going down is below zero");
    if (!(ways->high > 0.0)) throw both[1].error("the limit for going up is above zero");
  };
  by_way("velocity", 1, limits.velocity, limits.velocity_ways);
  by_way("acceleration", 2, limits.acceleration, limits.acceleration_ways);
  limit("jerk", 3, limits.jerk);
  const bool slides = kind == JointKind::prismatic;
  if (const Node* wrong = node.find(slides ? "torque" : "force"))
    throw wrong->error(slides ? "a joint that slides has a force, not a torque"
                              : "a joint that turns has a torque, not a force",
                       slides ? "write force: 80 N" : "write torque: 12 N m");
  if (const Node* found = node.find(slides ? "force" : "torque"))
    limits.torque = as_quantity(*found, effort_dimension(kind));
}

JointKind read_joint_kind(const Node& node, bool& continuous) {
  const std::string text = as_text(node, "a kind of joint");
  continuous = text == "continuous";
  if (continuous) return JointKind::revolute;
  std::vector<std::string> known{"continuous"};
  for (const JointKind kind : {JointKind::revolute, JointKind::prismatic, JointKind::fixed}) {
    if (text == name_of(kind)) return kind;
    known.emplace_back(name_of(kind));
  }
  throw node.placed(unknown_name("kind of joint", text, known));
}

bool read_reversed(const Node& node) {
  const std::string text = as_text(node, "a sense");
  if (text != "usual" && text != "reversed")
    throw node.placed(
        unknown_name("sense of a joint", text, std::vector<std::string>{"usual", "reversed"}));
  return text == "reversed";
}

Joint read_joint(const Node& node, FollowNode& follow) {
  expect_keys(node, "a joint",
              joined_keys({"kind", "name", "at", "axis", "zero", "sense", "follow"}, limit_keys()));
  Joint joint;
  joint.kind = JointKind::revolute;
  if (const Node* kind = node.find("kind")) joint.kind = read_joint_kind(*kind, joint.continuous);
  if (const Node* name = node.find("name")) joint.name = as_text(*name, "a joint name");
  if (const Node* at = node.find("at")) joint.origin = read_pose(*at);
  if (joint.kind == JointKind::fixed) {
    for (const std::string& key : joined_keys({"axis", "zero", "sense", "follow"}, limit_keys()))
      if (const Node* extra = node.find(key))
        throw extra->error(fmt::format("a fixed joint has no {}", key));
    return joint;
  }
  joint.axis = as_vector(need(node, "a moving joint", "axis"), dimension::number, "an axis");
  read_limits(node, joint.kind, joint.limits);
  read_resistance(node, joint.kind, joint.damping, joint.friction);
  double zero = 0.0;
  bool reversed = false;
  if (const Node* found = node.find("zero"))
    zero = as_quantity(*found, value_dimension(joint.kind));
  if (const Node* sense = node.find("sense")) reversed = read_reversed(*sense);
  set_zero_and_sense(joint, zero, reversed);
  if (const Node* found = node.find("follow")) {
    expect_keys(*found, "what a joint follows", {"joint", "ratio", "offset"});
    joint.follow.joint = as_text(need(*found, "what a joint follows", "joint"), "a joint name");
    if (const Node* offset = found->find("offset"))
      joint.follow.offset = as_quantity(*offset, value_dimension(joint.kind));
    follow.node = found;
  }
  return joint;
}

void finish_follows(std::vector<Link>& links, const std::vector<FollowNode>& follows) {
  for (const FollowNode& one : follows) {
    const Node* ratio = one.node->find("ratio");
    if (ratio == nullptr) continue;
    Joint& joint = links[one.link].joint;
    JointKind leader = joint.kind;
    for (const Link& link : links)
      if (link.joint.name == joint.follow.joint && link.joint.kind != JointKind::fixed)
        leader = link.joint.kind;
    // rad per m, m per rad, or a plain number when both turn or both slide.
    Dimension wanted = value_dimension(joint.kind);
    const Dimension by = value_dimension(leader);
    wanted.length -= by.length;
    wanted.angle -= by.angle;
    joint.follow.ratio = as_quantity(*ratio, wanted);
  }
}

std::vector<Link> read_dh(const Node& node, ArmDescription& arm) {
  expect_keys(node, "a Denavit-Hartenberg table",
              {"form", "base_link", "base", "rows", "end", "tool"});
  DhTable table;
  const Node& form = need(node, "a Denavit-Hartenberg table", "form");
  const std::string name = as_text(form, "a form");
  if (name != "standard" && name != "modified")
    throw form.placed(
        unknown_name("form of table", name, std::vector<std::string>{"standard", "modified"}));
  table.form = name == "standard" ? DhForm::standard : DhForm::modified;
  if (const Node* name_of_base = node.find("base_link"))
    table.base_link = as_text(*name_of_base, "a link name");
  if (const Node* base = node.find("base")) table.base = read_pose(*base);
  std::vector<Place> places;
  for (const Node& item : as_list(need(node, "a Denavit-Hartenberg table", "rows"), "rows")) {
    expect_keys(
        item, "a row",
        joined_keys({"joint", "link", "kind", "theta", "d", "a", "alpha", "sense"}, limit_keys()));
    DhRow row;
    if (const Node* kind = item.find("kind")) row.kind = read_joint_kind(*kind, row.continuous);
    if (row.kind == JointKind::fixed)
      throw item.find("kind")->error("a row is a joint that moves",
                                     "put a fixed stretch into the row before it");
    if (const Node* joint = item.find("joint")) row.joint = as_text(*joint, "a joint name");
    if (const Node* link = item.find("link")) row.link = as_text(*link, "a link name");
    const auto take = [&](const char* key, Dimension dimension, double& out) {
      if (const Node* found = item.find(key)) out = as_quantity(*found, dimension);
    };
    take("theta", dimension::angle, row.theta);
    take("d", dimension::length, row.d);
    take("a", dimension::length, row.a);
    take("alpha", dimension::angle, row.alpha);
    if (const Node* sense = item.find("sense")) row.reversed = read_reversed(*sense);
    read_limits(item, row.kind, row.limits);
    read_resistance(item, row.kind, row.damping, row.friction);
    table.rows.push_back(row);
    places.push_back(item.place);
  }
  if (table.rows.empty()) throw node.error("the table has no rows");
  std::vector<Link> links = links_from(table);
  for (std::size_t i = 1; i < links.size(); ++i)
    links[i].place = places[std::min(i - 1, places.size() - 1)];
  std::string tool = "tip";
  if (const Node* given = node.find("tool")) tool = as_text(*given, "a tool name");
  if (const Node* end = node.find("end"))
    arm.tools.push_back(
        {.name = tool, .link = links.back().name, .tip = read_pose(*end), .place = end->place});
  return links;
}

}  // namespace er
