#include "elbowroom/files/data_sheet_reading.hpp"

#include <fmt/format.h>

#include <cmath>

#include "elbowroom/files/joint_reading.hpp"
#include "elbowroom/model/data_sheet.hpp"

namespace er {
namespace {

// "40 mm in front": a size and its side. The first side is the positive one.
double read_sided(const Node& node, const char* positive, const char* negative) {
  const std::string text = as_text(node, "an offset");
  for (const auto& [word, sign] : {std::pair{positive, 1.0}, std::pair{negative, -1.0}}) {
    const std::string ending = std::string(" ") + word;
    if (text.size() <= ending.size() ||
        text.compare(text.size() - ending.size(), ending.size(), ending) != 0)
      continue;
    Node size = node;
    size.text = text.substr(0, text.size() - ending.size());
    const double value = as_quantity(size, dimension::length);
    if (value < 0.0)
      throw node.error("an offset with a side has no sign", "give the size and the side");
    return sign * value;
  }
  if (as_quantity(node, dimension::length) == 0.0) return 0.0;
  throw node.error(fmt::format("on which side is '{}'?", text),
                   fmt::format("write {} {} or {} {}", text, positive, text, negative));
}

Pointing read_pointing(const Node& node) {
  const std::string text = as_text(node, "where it points");
  if (text == "up") return Pointing::up;
  if (text == "ahead") return Pointing::ahead;
  if (text == "down") return Pointing::down;
  throw node.placed(
      unknown_name("direction", text, std::vector<std::string>{"up", "ahead", "down"}));
}

void read_length(const Node& map, const char* key, double& out) {
  if (const Node* found = map.find(key)) out = as_quantity(*found, dimension::length);
}

void need_length(const Node& map, const char* key, double& out) {
  out = as_quantity(need(map, "this data sheet", key), dimension::length);
}

void read_offset(const Node& map, const char* key, const char* positive, const char* negative,
                 double& out) {
  if (const Node* found = map.find(key)) out = read_sided(*found, positive, negative);
}

std::vector<SheetAxis> read_axes(const Node& map, const std::vector<SenseWords>& words,
                                 int sliding_axis) {
  const Node* list = map.find("axes");
  if (list == nullptr) return {};
  const auto& items = as_list(*list, "axes");
  if (items.size() != words.size())
    throw list->error(fmt::format("this arm has {} axes, found {}", words.size(), items.size()));
  std::vector<SheetAxis> axes;
  for (std::size_t i = 0; i < items.size(); ++i) {
    const Node& item = items[i];
    std::vector<std::string> keys{"joint", "link", "kind", "zero", "sense"};
    keys.insert(keys.end(), limit_keys().begin(), limit_keys().end());
    expect_keys(item, "an axis", keys);
    SheetAxis axis;
    const JointKind kind =
        static_cast<int>(i) == sliding_axis ? JointKind::prismatic : JointKind::revolute;
    if (const Node* name = item.find("joint")) axis.joint = as_text(*name, "a joint name");
    if (const Node* name = item.find("link")) axis.link = as_text(*name, "a link name");
    if (const Node* given = item.find("kind"))
      if (read_joint_kind(*given, axis.continuous) != kind)
        throw given->error(fmt::format("axis {} of this family is {}", i + 1, name_of(kind)));
    if (const Node* zero = item.find("zero")) axis.zero = as_quantity(*zero, value_dimension(kind));
    if (const Node* sense = item.find("sense")) {
      const std::string text = as_text(*sense, "which way counts as positive");
      axis.reversed = text == words[i].against;
      if (!axis.reversed && text != words[i].along)
        throw sense->placed(unknown_name(
            fmt::format("sense of axis {}", i + 1), text,
            std::vector<std::string>{std::string(words[i].along), std::string(words[i].against)}));
    }
    read_limits(item, kind, axis.limits);
    axes.push_back(std::move(axis));
  }
  return axes;
}

// The keys that every family has.
std::vector<std::string> with_common(std::vector<std::string> keys) {
  keys.insert(keys.end(), {"family", "axes", "thickness"});
  return keys;
}

std::vector<Link> read_six_axis(const Node& node) {
  expect_keys(
      node, "the data sheet of a six-axis arm",
      with_common({"shoulder_height", "shoulder_offset", "side_offset", "upper_arm", "elbow_offset",
                   "forearm", "wrist_offset", "flange", "turret_height", "forearm_start", "zero"}));
  SixAxisSheet s;
  need_length(node, "shoulder_height", s.shoulder_height);
  need_length(node, "upper_arm", s.upper_arm);
  need_length(node, "forearm", s.forearm);
  need_length(node, "flange", s.flange);
  read_offset(node, "shoulder_offset", "in front", "behind", s.shoulder_offset);
  read_offset(node, "side_offset", "left", "right", s.side_offset);
  read_offset(node, "elbow_offset", "above", "below", s.elbow_offset);
  read_offset(node, "wrist_offset", "above", "below", s.wrist_offset);
  read_length(node, "turret_height", s.turret_height);
  read_length(node, "forearm_start", s.forearm_start);
  if (const Node* zero = node.find("zero")) {
    expect_keys(*zero, "the zero posture", {"upper_arm", "forearm"});
    if (const Node* upper = zero->find("upper_arm")) s.upper_arm_at_zero = read_pointing(*upper);
    if (const Node* fore = zero->find("forearm")) s.forearm_at_zero = read_pointing(*fore);
  }
  return links_from(s, read_axes(node, sense_words(s), -1));
}

std::vector<Link> read_seven_axis(const Node& node) {
  expect_keys(node, "the data sheet of a seven-axis arm",
              with_common({"shoulder_height", "upper_arm", "elbow_offset", "forearm",
                           "wrist_offset", "flange"}));
  SevenAxisSheet s;
  need_length(node, "shoulder_height", s.shoulder_height);
  need_length(node, "upper_arm", s.upper_arm);
  need_length(node, "forearm", s.forearm);
  need_length(node, "flange", s.flange);
  read_offset(node, "elbow_offset", "in front", "behind", s.elbow_offset);
  read_offset(node, "wrist_offset", "in front", "behind", s.wrist_offset);
  return links_from(s, read_axes(node, sense_words(s), -1));
}

std::vector<Link> read_scara(const Node& node) {
  expect_keys(node, "the data sheet of a SCARA",
              with_common({"inner_arm", "outer_arm", "arm_height", "flange_height"}));
  ScaraSheet s;
  need_length(node, "inner_arm", s.inner_arm);
  need_length(node, "outer_arm", s.outer_arm);
  need_length(node, "arm_height", s.arm_height);
  need_length(node, "flange_height", s.flange_height);
  return links_from(s, read_axes(node, sense_words(s), 2));
}

std::vector<Link> read_planar(const Node& node) {
  expect_keys(node, "the data sheet of a planar arm",
              with_common({"plane", "first_height", "lengths"}));
  PlanarSheet s;
  if (const Node* plane = node.find("plane")) {
    const std::string text = as_text(*plane, "a plane");
    s.upright = text == "upright";
    if (!s.upright && text != "level")
      throw plane->placed(
          unknown_name("plane", text, std::vector<std::string>{"upright", "level"}));
  }
  read_length(node, "first_height", s.first_height);
  for (const Node& item : as_list(need(node, "this data sheet", "lengths"), "lengths"))
    s.lengths.push_back(as_quantity(item, dimension::length));
  return links_from(s, read_axes(node, sense_words(s), -1));
}

}  // namespace

std::vector<Link> read_data_sheet(const Node& node, const Colour& colour) {
  if (node.kind != Node::Kind::map) throw node.error("expected a data sheet as a group of keys");
  const Node& family = need(node, "a data sheet", "family");
  const std::string name = as_text(family, "a family of arms");
  std::vector<Link> links;
  try {
    if (name == "six_axis") {
      links = read_six_axis(node);
    } else if (name == "seven_axis") {
      links = read_seven_axis(node);
    } else if (name == "scara") {
      links = read_scara(node);
    } else if (name == "planar") {
      links = read_planar(node);
    } else {
      throw family.placed(
          unknown_name("family of arms", name,
                       std::vector<std::string>{"six_axis", "seven_axis", "scara", "planar"}));
    }
  } catch (const InputError& error) {
    if (error.place().line != 0) throw;
    throw node_at(node, error.subject()).placed(error);
  }
  if (const Node* thickness = node.find("thickness")) {
    const double across = as_quantity(*thickness, dimension::length);
    if (!(across > 0.0)) throw thickness->error("a thickness must be above zero");
    add_limbs(links, across, colour);
  }
  return links;
}

}  // namespace er
