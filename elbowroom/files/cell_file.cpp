#include "elbowroom/files/cell_file.hpp"

#include <fmt/format.h>

#include "elbowroom/files/reading.hpp"

namespace er {
namespace {

JointKind read_joint_kind(const Node& node) {
  const std::string text = as_text(node, "a kind of joint");
  std::vector<std::string> known;
  for (const JointKind kind : {JointKind::revolute, JointKind::prismatic, JointKind::fixed}) {
    if (text == name_of(kind)) return kind;
    known.emplace_back(name_of(kind));
  }
  throw unknown_name("kind of joint", text, known, node.place);
}

Joint read_joint(const Node& node) {
  expect_keys(node, "a joint",
              {"kind", "name", "at", "axis", "range", "velocity", "acceleration", "jerk"});
  Joint joint;
  joint.kind = JointKind::revolute;
  if (const Node* kind = node.find("kind")) joint.kind = read_joint_kind(*kind);
  if (const Node* name = node.find("name")) joint.name = as_text(*name, "a joint name");
  if (const Node* at = node.find("at")) joint.origin = read_pose(*at);
  if (joint.kind == JointKind::fixed) {
    for (const char* key : {"axis", "range", "velocity", "acceleration", "jerk"})
      if (const Node* extra = node.find(key))
        throw extra->error(fmt::format("a fixed joint has no {}", key));
    return joint;
  }
  joint.axis = as_vector(need(node, "a moving joint", "axis"), dimension::number, "an axis");
  const Dimension value = value_dimension(joint.kind);
  if (const Node* range = node.find("range")) {
    const auto& ends = as_list(*range, "two limits");
    if (ends.size() != 2)
      throw range->error(fmt::format("a range is two limits, found {}", ends.size()));
    joint.limits.lower = as_quantity(ends[0], value);
    joint.limits.upper = as_quantity(ends[1], value);
  }
  const auto limit = [&](const char* key, int times, double& out) {
    if (const Node* found = node.find(key)) out = as_quantity(*found, per(value, times));
  };
  limit("velocity", 1, joint.limits.velocity);
  limit("acceleration", 2, joint.limits.acceleration);
  limit("jerk", 3, joint.limits.jerk);
  return joint;
}

Link read_link(const Node& node, const Colour& arm_colour) {
  expect_keys(node, "a link", {"name", "parent", "joint", "parts", "colour"});
  Link link;
  link.name = as_text(need(node, "a link", "name"), "a link name");
  if (const Node* parent = node.find("parent")) link.parent = as_text(*parent, "a link name");
  if (const Node* joint = node.find("joint")) link.joint = read_joint(*joint);
  Colour colour = arm_colour;
  if (const Node* own = node.find("colour")) colour = read_colour(*own);
  if (const Node* parts = node.find("parts")) link.parts = read_parts(*parts, colour);
  return link;
}

void read_stances(const Node& node, ArmDescription& arm) {
  if (node.kind != Node::Kind::map)
    throw node.error("expected stances as a group of names, each with its joint values",
                     "write them like home: [0 deg, 30 deg, ...]");
  const Arm chain = Arm::build(arm);
  for (const Node::Entry& entry : node.entries)
    arm.stances.push_back({entry.key, read_posture(entry.value, chain)});
}

Arm read_arm(const Node& node) {
  expect_keys(node, "an arm", {"name", "mount", "colour", "links", "tools", "stances"});
  ArmDescription arm;
  arm.name = as_text(need(node, "an arm", "name"), "an arm name");
  if (const Node* mount = node.find("mount")) arm.mount = read_pose(*mount);
  Colour colour;
  if (const Node* own = node.find("colour")) colour = read_colour(*own);
  for (const Node& item : as_list(need(node, "an arm", "links"), "links"))
    arm.links.push_back(read_link(item, colour));
  if (const Node* tools = node.find("tools")) {
    for (const Node& item : as_list(*tools, "tools")) {
      expect_keys(item, "a tool", {"name", "link", "tip"});
      Tool tool;
      tool.name = as_text(need(item, "a tool", "name"), "a tool name");
      if (const Node* link = item.find("link")) tool.link = as_text(*link, "a link name");
      if (const Node* tip = item.find("tip")) tool.tip = read_pose(*tip);
      arm.tools.push_back(std::move(tool));
    }
  }
  return with_places(node, [&] {
    if (const Node* stances = node.find("stances")) read_stances(*stances, arm);
    return Arm::build(arm);
  });
}

std::vector<Body> read_bodies(const Node& node, bool loose) {
  const std::string what = loose ? "a piece" : "a fixture";
  std::vector<Body> bodies;
  for (const Node& item : as_list(node, loose ? "pieces" : "fixtures")) {
    expect_keys(item, what, {"name", "at", "colour", "mass", "parts"});
    Body body;
    body.name = as_text(need(item, what, "name"), "a name");
    if (const Node* at = item.find("at")) body.at = read_pose(*at);
    if (const Node* mass = item.find("mass")) {
      body.mass = as_quantity(*mass, dimension::mass);
      if (!(body.mass > 0.0)) throw mass->error("a mass must be above zero");
    }
    Colour colour;
    if (const Node* own = item.find("colour")) colour = read_colour(*own);
    body.parts = read_parts(need(item, what, "parts"), colour);
    bodies.push_back(std::move(body));
  }
  return bodies;
}

std::vector<MeantContact> read_contacts(const Node& node) {
  std::vector<MeantContact> contacts;
  for (const Node& item : as_list(node, "pairs of names")) {
    const auto& pair = as_list(item, "two names that may touch");
    if (pair.size() != 2)
      throw item.error(fmt::format("a contact is two names, found {}", pair.size()),
                       "write it like [teasel.base, pedestal]");
    contacts.push_back({as_text(pair[0], "a name"), as_text(pair[1], "a name")});
  }
  return contacts;
}

Cell read_cell(const Node& root) {
  expect_kind(root, "cell");
  expect_keys(root, "a cell",
              {"elbowroom", "name", "arms", "fixtures", "pieces", "frames", "contacts"});
  CellDescription cell;
  if (const Node* name = root.find("name")) cell.name = as_text(*name, "a name");
  if (const Node* arms = root.find("arms"))
    for (const Node& item : as_list(*arms, "arms")) cell.arms.push_back(read_arm(item));
  if (const Node* fixtures = root.find("fixtures")) cell.fixtures = read_bodies(*fixtures, false);
  if (const Node* pieces = root.find("pieces")) cell.pieces = read_bodies(*pieces, true);
  if (const Node* frames = root.find("frames")) {
    for (const Node& item : as_list(*frames, "frames")) {
      expect_keys(item, "a frame", {"name", "at"});
      cell.frames.push_back({as_text(need(item, "a frame", "name"), "a name"),
                             read_pose(need(item, "a frame", "at"))});
    }
  }
  if (const Node* contacts = root.find("contacts")) cell.contacts = read_contacts(*contacts);
  return with_places(root, [&] { return Cell::build(cell); });
}

}  // namespace

Cell load_cell(const std::filesystem::path& path) { return read_cell(read_document(path)); }

Cell parse_cell(const std::string& text, const std::string& file) {
  return read_cell(parse_document(text, file));
}

}  // namespace er
