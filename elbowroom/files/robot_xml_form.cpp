// Robot XML files named in a cell file: as the chain of an arm, or frozen as a fixture.
#include <fmt/format.h>

#include "elbowroom/files/find_file.hpp"
#include "elbowroom/files/robot_xml.hpp"

namespace er {
namespace {

RobotXmlOptions read_options(const Node& node, std::string& file, Place& place,
                             const std::vector<std::string>& keys) {
  RobotXmlOptions options;
  const Node* name = &node;
  if (node.kind == Node::Kind::map) {
    expect_keys(node, "a robot XML file", keys);
    name = &need(node, "a robot XML file", "file");
    if (const Node* base = node.find("base")) options.base = as_text(*base, "a link name");
    if (const Node* tip = node.find("tip")) options.tip = as_text(*tip, "a link name");
  }
  file = as_text(*name, "a file name");
  place = name->place;
  return options;
}

}  // namespace

void read_robot_xml_form(const Node& node, ArmDescription& arm, std::vector<Note>& notes) {
  std::string file;
  Place place;
  const RobotXmlOptions options = read_options(node, file, place, {"file", "base", "tip"});
  RobotXml robot = read_robot_xml(find_file(file, place.file, place), options);
  arm.links = std::move(robot.links);
  notes.insert(notes.end(), robot.notes.begin(), robot.notes.end());
}

std::vector<Part> read_frozen_robot_xml(const Node& node, std::vector<Note>& notes) {
  std::string file;
  Place place;
  const RobotXmlOptions options =
      read_options(node, file, place, {"file", "base", "tip", "posture"});
  const RobotXml robot = read_robot_xml(find_file(file, place.file, place), options);
  notes.insert(notes.end(), robot.notes.begin(), robot.notes.end());
  const Arm arm = Arm::build({.name = "frozen", .links = robot.links});
  Posture posture = Posture::Zero(arm.dof());
  if (const Node* values = node.find("posture")) {
    std::vector<std::string> known;
    for (int k = 0; k < arm.dof(); ++k) known.push_back(arm.moving_joint(k).name);
    expect_keys(*values, "the posture of this mechanism", known);
    for (int k = 0; k < arm.dof(); ++k)
      if (const Node* value = values->find(known[static_cast<std::size_t>(k)]))
        posture[k] = as_quantity(*value, value_dimension(arm.moving_joint(k).kind));
  }
  if (const std::string breach = arm.limit_breach(posture); !breach.empty())
    throw node.error(breach, "freeze it within its range");
  std::vector<Pose> poses(arm.links().size());
  std::vector<Part> parts;
  for (std::size_t i = 0; i < poses.size(); ++i) {
    const Link& link = arm.links()[i];
    const Pose local = pose_at(link.joint, joint_value(link, posture));
    poses[i] = i == 0 ? local : poses[static_cast<std::size_t>(link.parent_index)] * local;
    for (Part part : link.parts) {
      part.at = poses[i] * part.at;
      parts.push_back(part);
    }
  }
  return parts;
}

}  // namespace er
