#include "elbowroom/files/target_reading.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/files/reading.hpp"
#include "elbowroom/kinematics/named_frame.hpp"
#include "elbowroom/route/rules.hpp"

namespace er {
namespace {

using Keys = std::vector<std::string>;

const Keys& kinds() {
  static const Keys kKinds{"place", "direction", "distance", "room", "sight", "joints", "meet"};
  return kKinds;
}

// What a place may leave open; in the short form of a target these stand beside its position.
const Keys& freedom_keys() {
  static const Keys kKeys{"x", "y", "z", "turn", "tilt", "standoff", "axis"};
  return kKeys;
}

Keys joined(Keys keys, const Keys& more) {
  keys.insert(keys.end(), more.begin(), more.end());
  return keys;
}

void read_tolerances(const Node& node, double& position, double& angle) {
  expect_keys(node, "within", {"position", "angle"});
  const auto positive = [&](const char* key, Dimension dimension, double& value) {
    const Node* found = node.find(key);
    if (found == nullptr) return;
    value = as_quantity(*found, dimension);
    if (!(value > 0.0)) throw found->error("a tolerance must be above zero");
  };
  positive("position", dimension::length, position);
  positive("angle", dimension::angle, angle);
}

// One of a few words.
const std::string& read_word(const Node& node, const Keys& words) {
  for (const std::string& word : words)
    if (is_word(node, word)) return node.text;
  if (node.kind != Node::Kind::scalar)
    throw node.error(fmt::format("expected one of {}", fmt::join(words, ", ")));
  throw unknown_name("word", node.text, words, node.place);
}

Pose frame_for(const Node& map, const Cell& cell, const Arm& arm, const TargetDefaults& defaults) {
  const Node* frame = map.find("in");
  if (frame == nullptr) return named_frame(cell, arm, defaults.frame);
  return at_place(*frame, [&] { return named_frame(cell, arm, as_text(*frame, "a frame name")); });
}

void take_freedom(const Node& map, AtPlace& place) {
  if (const Node* axis = map.find("axis")) place.axis = read_direction(*axis);
  for (std::size_t k = 0; k < 3; ++k)
    if (const Node* band = map.find(std::string(1, "xyz"[k])))
      place.along[k] = read_band(*band, dimension::length);
  if (const Node* turn = map.find("turn")) place.turn = read_band(*turn, dimension::angle);
  if (const Node* tilt = map.find("tilt"))
    place.tilt = is_word(*tilt, "free") ? kAnyTilt : as_quantity(*tilt, dimension::angle);
  if (place.tilt == kAnyTilt && map.find("turn") == nullptr) place.turn = Band::free();
  if (const Node* standoff = map.find("standoff"))
    place.standoff = read_band(*standoff, dimension::length);
}

AtPlace read_place(const Node& map, const Cell& cell, const Arm& arm,
                   const TargetDefaults& defaults) {
  AtPlace place;
  const auto rotation = read_rotation(map, arm.rotations());
  const Vector3 position =
      as_vector(need(map, "a place", "position"), dimension::length, "a position");
  place.at = frame_for(map, cell, arm, defaults) *
             Pose{rotation ? *rotation : defaults.rotation, position};
  take_freedom(map, place);
  return place;
}

std::variant<AtPlace, InDirection, AtDistance, InRoom, InSight, JointBands> read_holds_direction(
    const Node& map, const Cell& cell, const Arm& arm, const TargetDefaults& defaults) {
  expect_keys(map, "a direction", with_rotation_keys({"axis", "along", "at", "angle", "in"}));
  const Pose frame = frame_for(map, cell, arm, defaults);
  if (const auto rotation = read_rotation(map, arm.rotations())) {
    for (const char* key : {"axis", "along", "at", "angle"})
      if (const Node* extra = map.find(key))
        throw extra->error("a whole orientation is given, so there is no single axis",
                           "leave one of the two out");
    return AtPlace{.at = {frame.rotation * *rotation, Vector3::Zero()},
                   .along = {Band::free(), Band::free(), Band::free()}};
  }
  InDirection direction;
  if (const Node* axis = map.find("axis")) direction.axis = read_direction(*axis);
  const Node* along = map.find("along");
  const Node* at = map.find("at");
  if ((along == nullptr) == (at == nullptr))
    throw map.error("a direction is either along a vector or at a point",
                    "write along: [0, 0, -1], or at: [x, y, z], or a whole orientation (rpy)");
  if (along != nullptr) direction.along = frame.rotation * read_direction(*along);
  if (at != nullptr) {
    direction.at_point = true;
    direction.point = frame * as_vector(*at, dimension::length, "a point");
  }
  if (const Node* angle = map.find("angle")) {
    direction.angle = read_band(*angle, dimension::angle);
    if (angle->kind != Node::Kind::list && direction.angle.upper > 0.0) direction.angle.lower = 0.0;
  }
  return direction;
}

AtDistance read_distance(const Node& map, const Cell& cell, const Arm& arm,
                         const TargetDefaults& defaults) {
  expect_keys(map, "a distance", {"from", "range", "in"});
  return {frame_for(map, cell, arm, defaults) *
              as_vector(need(map, "a distance", "from"), dimension::length, "a point"),
          read_band(need(map, "a distance", "range"), dimension::length)};
}

InRoom read_room(const Node& map, const Cell& cell, const Arm& arm,
                 const TargetDefaults& defaults) {
  expect_keys(map, "a room", {"x", "y", "z", "in", "whole"});
  InRoom room;
  room.at = frame_for(map, cell, arm, defaults);
  room.along.fill(Band::free());
  for (std::size_t k = 0; k < 3; ++k)
    if (const Node* band = map.find(std::string(1, "xyz"[k])))
      room.along[k] = read_band(*band, dimension::length);
  if (const Node* whole = map.find("whole")) room.whole_link = as_yes(*whole);
  return room;
}

InSight read_sight(const Node& map, const Cell& cell, const Arm& arm,
                   const TargetDefaults& defaults) {
  expect_keys(map, "a sight",
              {"point", "points", "normal", "cone", "range", "incidence", "unblocked", "in"});
  const Pose frame = frame_for(map, cell, arm, defaults);
  InSight sight;
  const Node* point = map.find("point");
  const Node* points = map.find("points");
  if ((point == nullptr) == (points == nullptr))
    throw map.error("a sight has either a point or points",
                    "write point: [x, y, z], or points: with up to four corners");
  if (point != nullptr)
    sight.points.push_back(frame * as_vector(*point, dimension::length, "a point"));
  if (points != nullptr)
    for (const Node& item : as_list(*points, "points"))
      sight.points.push_back(frame * as_vector(item, dimension::length, "a point"));
  sight.cone = as_quantity(need(map, "a sight", "cone"), dimension::angle);
  if (const Node* range = map.find("range")) sight.range = read_band(*range, dimension::length);
  const Node* normal = map.find("normal");
  const Node* incidence = map.find("incidence");
  if ((normal == nullptr) != (incidence == nullptr))
    throw map.error("normal and incidence belong together",
                    "give the surface's normal and the largest angle to it, or neither");
  if (normal != nullptr) {
    sight.normal = frame.rotation * read_direction(*normal);
    sight.incidence = as_quantity(*incidence, dimension::angle);
  }
  if (const Node* unblocked = map.find("unblocked")) sight.unblocked = as_yes(*unblocked);
  return sight;
}

JointBands read_joints(const Node& map, const Arm& arm) {
  if (map.kind != Node::Kind::map || map.entries.empty())
    throw map.error("expected joints with their bands", "write them like {elbow: [0 deg, 90 deg]}");
  Keys known;
  for (int k = 0; k < arm.dof(); ++k) known.push_back(arm.moving_joint(k).name);
  expect_keys(map, "joint bands", known);
  JointBands bands;
  for (const Node::Entry& entry : map.entries) {
    const auto index = std::find(known.begin(), known.end(), entry.key) - known.begin();
    const JointKind kind = arm.moving_joint(static_cast<int>(index)).kind;
    bands.joints.push_back(
        {entry.key, read_band(entry.value, value_dimension(kind)), kind != JointKind::revolute});
  }
  return bands;
}

Requirement read_meeting(const Node& map, const std::string& of, const Cell& cell, const Arm& arm) {
  expect_keys(map, "surfaces that meet", {"side", "on", "its"});
  const auto side = [&](const char* key, Side otherwise) {
    const Node* node = map.find(key);
    if (node == nullptr) return otherwise;
    return at_place(*node, [&] { return side_named(as_text(*node, "a side")); });
  };
  const Node& on = need(map, "surfaces that meet", "on");
  return at_place(on, [&] {
    return surfaces_meeting(cell, arm, of, side("side", Side::bottom), as_text(on, "a name"),
                            side("its", Side::top));
  });
}

}  // namespace

Band read_band(const Node& node, Dimension dimension) {
  if (is_word(node, "free")) return Band::free();
  if (node.kind != Node::Kind::list) return Band::exactly(as_quantity(node, dimension));
  if (node.items.size() != 2)
    throw node.error(fmt::format("a band has two ends, found {}", node.items.size()),
                     "write it like [-20 mm, 20 mm]; an end may be open");
  Band band = Band::free();
  if (!is_word(node.items[0], "open")) band.lower = as_quantity(node.items[0], dimension);
  if (!is_word(node.items[1], "open")) band.upper = as_quantity(node.items[1], dimension);
  if (band.lower > band.upper)
    throw node.error("the ends of this band are the wrong way round",
                     "write the lower value first");
  return band;
}

Vector3 read_direction(const Node& node) {
  if (node.kind == Node::Kind::scalar) {
    for (int k = 0; k < 3; ++k)
      for (const double sense : {1.0, -1.0})
        if (is_word(node, fmt::format("{}{}", sense < 0.0 ? "-" : "", "xyz"[k])))
          return sense * Vector3::Unit(k);
    throw node.error(fmt::format("'{}' is no axis", node.text),
                     "write x, y, z, -x, -y, -z, or three numbers such as [0, 0, -1]");
  }
  const Vector3 direction = as_vector(node, dimension::number, "a direction");
  if (!(direction.norm() > 1e-9)) throw node.error("a direction of no length points nowhere");
  return direction.normalized();
}

const Arm& arm_of_file(const Node& root, const Cell& cell) {
  const Node* name = root.find("arm");
  const std::string text = name != nullptr ? as_text(*name, "an arm name") : std::string{};
  return at_place(name != nullptr ? *name : root, [&]() -> const Arm& { return cell.arm(text); });
}

std::vector<std::string> with_target_defaults(std::vector<std::string> keys) {
  keys.insert(keys.end(), target_default_keys().begin(), target_default_keys().end());
  return keys;
}

const Keys& target_default_keys() {
  static const Keys kKeys = with_rotation_keys({"tool", "in", "within"});
  return kKeys;
}

TargetDefaults read_target_defaults(const Node& root, const Cell& cell, const Arm& arm) {
  TargetDefaults defaults;
  if (const Node* tool = root.find("tool")) {
    defaults.tool = as_text(*tool, "a tool name");
    at_place(*tool, [&] { return arm.tool(defaults.tool).link_index; });
  }
  if (const Node* frame = root.find("in")) {
    defaults.frame = as_text(*frame, "a frame name");
    at_place(*frame, [&] { return named_frame(cell, arm, defaults.frame); });
  }
  if (const auto rotation = read_rotation(root, arm.rotations())) defaults.rotation = *rotation;
  if (const Node* within = root.find("within"))
    read_tolerances(*within, defaults.position_tolerance, defaults.angle_tolerance);
  return defaults;
}

Requirement read_requirement(const Node& node, const Cell& cell, const Arm& arm,
                             const TargetDefaults& defaults) {
  expect_keys(node, "a requirement", joined({"name", "of", "within", "on"}, kinds()));
  const Node* map = nullptr;
  std::string kind;
  for (const Node::Entry& entry : node.entries) {
    if (std::find(kinds().begin(), kinds().end(), entry.key) == kinds().end()) continue;
    if (map != nullptr)
      throw entry.value.error(
          fmt::format("one requirement holds one thing, found {} and {}", kind, entry.key),
          "make two entries of it");
    map = &entry.value;
    kind = entry.key;
  }
  if (map == nullptr)
    throw node.error("this requirement does not say what it holds",
                     fmt::format("give it one of {}", fmt::join(kinds(), ", ")));
  Requirement out;
  out.of = defaults.tool;
  if (const Node* of = node.find("of")) {
    out.of = as_text(*of, "a tool or a link");
    at_place(*of, [&] {
      return TargetOnArm(arm, Target{}.require({.of = out.of, .holds = AtPlace{}})).size();
    });
  }
  if (kind == "place") {
    expect_keys(*map, "a place", with_rotation_keys(joined({"position", "in"}, freedom_keys())));
    out.holds = read_place(*map, cell, arm, defaults);
  } else if (kind == "direction") {
    out.holds = read_holds_direction(*map, cell, arm, defaults);
  } else if (kind == "distance") {
    out.holds = read_distance(*map, cell, arm, defaults);
  } else if (kind == "room") {
    out.holds = read_room(*map, cell, arm, defaults);
  } else if (kind == "sight") {
    out.holds = read_sight(*map, cell, arm, defaults);
  } else if (kind == "joints") {
    out.holds = read_joints(*map, arm);
  } else {
    if (node.find("of") == nullptr)
      throw node.error("surfaces that meet need to know whose",
                       "say of: and the link or held piece");
    out = read_meeting(*map, out.of, cell, arm);
  }
  if (const Node* name = node.find("name")) out.name = as_text(*name, "a name");
  out.position_tolerance = defaults.position_tolerance;
  out.angle_tolerance = defaults.angle_tolerance;
  if (const Node* within = node.find("within"))
    read_tolerances(*within, out.position_tolerance, out.angle_tolerance);
  if (const Node* on = node.find("on")) out.on = as_yes(*on);
  at_place(*map, [&] { check_requirement(out); });
  return out;
}

void read_freedom(const Node& map, AtPlace& place) {
  expect_keys(map, "what a place leaves open", freedom_keys());
  take_freedom(map, place);
}

void read_kept(const Node& node, const Cell& cell, const Arm& arm, const TargetDefaults& defaults,
               KeptRules& out) {
  expect_keys(node, "something to keep",
              joined({"name", "of", "within", "on", "speed", "at"}, kinds()));
  const std::size_t number = out.rules.size() + out.speeds.size() + 1;
  const Node* speed = node.find("speed");
  if (speed == nullptr) {
    Requirement rule = read_requirement(node, cell, arm, defaults);
    if (rule.name.empty()) rule.name = fmt::format("{} {}", rule.kind(), number);
    at_place(node, [&] { check_rule(arm, rule); });
    out.rules.push_back(std::move(rule));
    return;
  }
  expect_keys(node, "a speed to keep", {"name", "speed", "of", "at", "on"});
  FrameSpeed rule{fmt::format("speed {}", number), defaults.tool, Vector3::Zero(),
                  as_quantity(*speed, per(dimension::length, 1))};
  if (!(rule.most > 0.0)) throw speed->error("a speed to keep is above zero");
  if (const Node* name = node.find("name")) rule.name = as_text(*name, "a name");
  if (const Node* of = node.find("of")) rule.of = as_text(*of, "a tool or a link");
  if (const Node* at = node.find("at")) rule.at = as_vector(*at, dimension::length, "a point");
  at_place(node.find("of") != nullptr ? *node.find("of") : node,
           [&] { check_frame_speed(arm, rule); });
  if (const Node* on = node.find("on"); on != nullptr && !as_yes(*on)) return;
  out.speeds.push_back(std::move(rule));
}

KeptRules read_kept(const std::vector<std::string>& texts, const std::string& where,
                    const Cell& cell, const Arm& arm, const TargetDefaults& defaults) {
  KeptRules out;
  for (const std::string& text : texts)
    read_kept(parse_document(text, where), cell, arm, defaults, out);
  return out;
}

Wishes read_wishes(const Node& node, const Arm& arm, Wishes wishes) {
  expect_keys(node, "wishes",
              {"travel", "room", "room_of", "room_against", "limits", "dexterity", "load", "branch",
               "branch_cost", "near"});
  const auto weight = [&](const char* key, double& value) {
    const Node* found = node.find(key);
    if (found == nullptr) return;
    value = as_quantity(*found, dimension::number);
    if (!(value >= 0.0)) throw found->error("the weight of a wish is zero or more");
  };
  weight("travel", wishes.travel);
  weight("room", wishes.room);
  if (const Node* of = node.find("room_of"))
    wishes.room_of_every_link = read_word(*of, {"nearest", "every_link"}) == "every_link";
  if (const Node* against = node.find("room_against")) {
    const std::string& word = read_word(*against, {"everything", "itself", "surroundings"});
    wishes.room_to_itself = word != "surroundings";
    wishes.room_to_surroundings = word != "itself";
  }
  weight("limits", wishes.limits);
  weight("dexterity", wishes.dexterity);
  weight("load", wishes.load);
  weight("branch_cost", wishes.branch_cost);
  if (const Node* branch = node.find("branch")) wishes.branch = as_text(*branch, "a branch");
  if (const Node* near = node.find("near")) {
    if (near->kind == Node::Kind::scalar) {
      wishes.near = at_place(*near, [&] { return arm.stance(as_text(*near, "a stance")); });
    } else {
      wishes.near = read_posture(*near, arm);
    }
  }
  return wishes;
}

std::vector<Target> read_targets(const Node& node, const Cell& cell, const Arm& arm,
                                 const TargetDefaults& defaults) {
  std::vector<Target> targets;
  for (const Node& item : as_list(node, "targets")) {
    expect_keys(item, "a target",
                with_rotation_keys(joined(
                    {"name", "tool", "in", "position", "within", "require", "wishes", "clearance"},
                    freedom_keys())));
    const Node& name = need(item, "a target", "name");
    for (const Target& earlier : targets)
      if (earlier.name() == as_text(name, "a name"))
        throw name.error(fmt::format("the name '{}' is used twice", earlier.name()));
    TargetDefaults own = read_target_defaults(item, cell, arm);
    if (item.find("tool") == nullptr) own.tool = defaults.tool;
    if (item.find("in") == nullptr) own.frame = defaults.frame;
    if (!read_rotation(item, arm.rotations())) own.rotation = defaults.rotation;
    if (item.find("within") == nullptr) {
      own.position_tolerance = defaults.position_tolerance;
      own.angle_tolerance = defaults.angle_tolerance;
    }
    Target target;
    target.named(as_text(name, "a name"));
    const Node* require = item.find("require");
    if (item.find("position") != nullptr) {
      at_place(item, [&] {
        target.require({.name = "place",
                        .of = own.tool,
                        .holds = read_place(item, cell, arm, own),
                        .position_tolerance = own.position_tolerance,
                        .angle_tolerance = own.angle_tolerance});
      });
    } else {
      for (const std::string& key : freedom_keys())
        if (const Node* extra = item.find(key))
          throw extra->error(
              fmt::format("{} belongs to a place, and this target has no position", key),
              "add position: [x, y, z]");
    }
    if (require != nullptr)
      for (const Node& entry : as_list(*require, "require"))
        at_place(entry, [&] { target.require(read_requirement(entry, cell, arm, own)); });
    if (target.requirements().empty())
      throw item.error(fmt::format("target '{}' asks for nothing", target.name()),
                       "give it a position, or require:");
    if (const Node* wishes = item.find("wishes")) target.wish(read_wishes(*wishes, arm));
    if (const Node* clearance = item.find("clearance"))
      at_place(*clearance, [&] { target.keep_clear(as_quantity(*clearance, dimension::length)); });
    at_place(item, [&] { return TargetOnArm(arm, target).size(); });
    targets.push_back(std::move(target));
  }
  return targets;
}

}  // namespace er
