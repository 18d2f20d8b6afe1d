#include "elbowroom/files/arm_reading.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/files/bodies_reading.hpp"
#include "elbowroom/files/data_sheet_reading.hpp"
#include "elbowroom/files/expansion.hpp"
#include "elbowroom/files/joint_reading.hpp"
#include "elbowroom/files/part_reading.hpp"
#include "elbowroom/files/reading.hpp"
#include "elbowroom/files/robot_xml.hpp"

namespace er {
namespace {

const std::vector<std::string> kForms{"links", "dh", "data_sheet", "robot_xml"};

Inertial read_inertial(const Node& node, const Node& mass_node, const std::vector<Part>& parts) {
  const double mass = as_quantity(mass_node, dimension::mass);
  if (!(mass > 0.0)) throw mass_node.error("a mass must be above zero");
  Inertial out = inertial_of(parts, mass);
  if (const Node* centre = node.find("centre"))
    out.centre = as_vector(*centre, dimension::length, "a centre of mass");
  if (const Node* inertia = node.find("inertia")) {
    expect_keys(*inertia, "moments of inertia", {"xx", "yy", "zz", "xy", "xz", "yz"});
    const auto moment = [&](const char* key) {
      const Node* found = inertia->find(key);
      return found == nullptr ? 0.0 : as_quantity(*found, dimension::inertia);
    };
    const double xy = moment("xy");
    const double xz = moment("xz");
    const double yz = moment("yz");
    const double xx = moment("xx");
    const double yy = moment("yy");
    const double zz = moment("zz");
    out.inertia << xx, xy, xz, xy, yy, yz, xz, yz, zz;  // nothing here may throw
  }
  return out;
}

// What `links:` says of one link. A link that the chain has already gets parts and mass from here.
void read_link(const Node& node, const Colour& arm_colour, const Vector3* next, Link& link) {
  Colour colour = arm_colour;
  if (const Node* own = node.find("colour")) colour = read_colour(*own);
  if (const Node* parts = node.find("parts")) link.parts = read_parts(*parts, colour, next);
  const Node* mass = node.find("mass");
  for (const char* key : {"centre", "inertia"})
    if (const Node* extra = node.find(key); extra != nullptr && mass == nullptr)
      throw extra->error(fmt::format("a link with {}: needs mass:, too", key));
  if (mass != nullptr) link.inertial = read_inertial(node, *mass, link.parts);
}

struct PendingLink {
  const Node* node = nullptr;
  std::size_t index = 0;  // into the arm's links
};

// Where the joint of the first link that hangs on link `index` sits, or null when none does.
const Vector3* next_joint(const std::vector<Link>& links, std::size_t index) {
  for (std::size_t k = index + 1; k < links.size(); ++k) {
    const bool hangs_here =
        links[k].parent.empty() ? k == index + 1 : links[k].parent == links[index].name;
    if (hangs_here) return &links[k].joint.origin.position;
  }
  return nullptr;
}

void read_links(const Node& list, const Colour& colour, ArmDescription& arm,
                std::vector<Node>& sources) {
  std::vector<PendingLink> pending;
  const std::size_t given_by_form = arm.links.size();
  std::vector<FollowNode> follows;
  for (const Node& item : as_list(list, "links")) {
    expect_keys(item, "a link",
                {"name", "parent", "joint", "parts", "colour", "mass", "centre", "inertia"});
    const Node& name_node = need(item, "a link", "name");
    const std::string name = as_text(name_node, "a link name");
    std::size_t index = 0;
    while (index < given_by_form && arm.links[index].name != name) ++index;
    if (index < given_by_form) {
      for (const char* key : {"joint", "parent"})
        if (const Node* extra = item.find(key))
          throw extra->error(
              fmt::format("link '{}' has its {} from the chain's own form already", name, key),
              "here it can be given parts, colour and mass");
    } else {
      Link link;
      link.name = name;
      link.place = item.place;
      if (const Node* parent = item.find("parent")) link.parent = as_text(*parent, "a link name");
      if (const Node* joint = item.find("joint")) {
        FollowNode follow;
        link.joint = read_joint(*joint, follow);
        follow.link = arm.links.size();
        if (follow.node != nullptr) follows.push_back(follow);
      }
      index = arm.links.size();
      arm.links.push_back(std::move(link));
      sources.resize(arm.links.size());
      sources[index] = item;
    }
    pending.push_back({&item, index});
  }
  finish_follows(arm.links, follows);
  for (const PendingLink& one : pending)
    read_link(*one.node, colour, next_joint(arm.links, one.index), arm.links[one.index]);
}

void read_tools(const Node& list, ArmDescription& arm) {
  for (const Node& item : as_list(list, "tools")) {
    expect_keys(item, "a tool", {"name", "link", "tip"});
    Tool tool;
    tool.name = as_text(need(item, "a tool", "name"), "a tool name");
    if (const Node* link = item.find("link")) tool.link = as_text(*link, "a link name");
    if (const Node* tip = item.find("tip")) tool.tip = read_pose(*tip, arm.rotations);
    tool.place = item.place;
    arm.tools.push_back(std::move(tool));
  }
}

void read_stances(const Node& node, ArmDescription& arm) {
  if (node.kind != Node::Kind::map)
    throw node.error("expected stances as a group of names, each with its joint values",
                     "write them like home: [0 deg, 30 deg, ...]");
  const Arm chain = Arm::build(arm);
  for (const Node::Entry& entry : node.entries)
    arm.stances.push_back({entry.key, read_posture(entry.value, chain), entry.key_place});
}

void read_mount(const Node& node, ArmDescription& arm) {
  if (const Node* mount = node.find("mount")) arm.mount = read_pose(*mount, arm.rotations);
  const Node* stations = node.find("stations");
  if (stations == nullptr) return;
  if (stations->kind != Node::Kind::map)
    throw stations->error("expected stations as a group of names, each with a pose",
                          "write them like left: [0 mm, 300 mm, 0 mm]");
  for (const Node::Entry& entry : stations->entries)
    arm.stations.push_back({entry.key, read_pose(entry.value, arm.rotations)});
  if (arm.stations.empty()) throw stations->error("there is no station in this group");
  if (node.find("mount") == nullptr) arm.mount = arm.stations.front().mount;
}

// The chain in whichever form it is given; `links` may add to the others.
void read_chain(const Node& node, const Colour& colour, ArmDescription& arm,
                std::vector<Node>& sources, std::vector<Note>& notes) {
  const Node* form = nullptr;
  std::string name;
  for (const std::string& key : kForms) {
    const Node* found = node.find(key);
    if (found == nullptr || key == "links") continue;
    if (form != nullptr)
      throw found->error(fmt::format("the chain is given twice, as {} and as {}", name, key),
                         "keep one");
    form = found;
    name = key;
  }
  if (form != nullptr) {
    if (name == "dh") arm.links = read_dh(*form, arm);
    if (name == "data_sheet") arm.links = read_data_sheet(*form, colour);
    if (name == "robot_xml") read_robot_xml_form(*form, arm, notes);
    for (Link& link : arm.links) link.place = link.place.line > 0 ? link.place : form->place;
  }
  const Node* links = node.find("links");
  if (form == nullptr && links == nullptr)
    throw node.error("an arm needs a chain",
                     fmt::format("give it as one of: {}", fmt::join(kForms, ", ")));
  if (links != nullptr) read_links(*links, colour, arm, sources);
}

// An error about links[i] has its place in the item that link came from, if it came from one.
InputError placed_in(const Node& arm, const std::vector<Node>& sources, const InputError& error) {
  std::string subject = error.subject();
  const std::string prefix = "links[";
  if (subject.rfind(prefix, 0) == 0) {
    const auto index = static_cast<std::size_t>(std::stoul(subject.substr(prefix.size())));
    const std::string rest = subject.substr(subject.find(']') + 1);
    if (index < sources.size() && sources[index].kind == Node::Kind::map)
      return node_at(sources[index], rest.empty() ? rest : rest.substr(1)).placed(error);
    for (const char* key : {"dh", "data_sheet", "robot_xml"})
      if (const Node* form = arm.find(key)) return form->placed(error);
  }
  return node_at(arm, subject).placed(error);
}

}  // namespace

Arm read_arm(const Node& node, std::vector<Note>& notes) {
  expect_keys(node, "an arm",
              {"name", "mount", "stations", "colour", "rotations", "links", "dh", "data_sheet",
               "robot_xml", "bodies", "tools", "stances"});
  ArmDescription arm;
  arm.place = node.place;
  arm.name = as_text(need(node, "an arm", "name"), "an arm name");
  if (const Node* order = node.find("rotations")) {
    try {
      arm.rotations = rotation_order_named(as_text(*order, "an order of rotations"));
    } catch (const InputError& error) {
      throw order->placed(error);
    }
  }
  read_mount(node, arm);
  Colour colour;
  if (const Node* own = node.find("colour")) colour = read_colour(*own);
  std::vector<Node> sources;
  read_chain(node, colour, arm, sources, notes);
  if (const Node* tools = node.find("tools")) read_tools(*tools, arm);
  try {
    if (const Node* bodies = node.find("bodies")) read_bodies(*bodies, colour, arm, notes);
    if (const Node* stances = node.find("stances")) read_stances(*stances, arm);
    return Arm::build(arm);
  } catch (const InputError& error) {
    if (error.place().line != 0 || error.subject().empty()) throw;
    throw placed_in(node, sources, error);
  }
}

}  // namespace er
