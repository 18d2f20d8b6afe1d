#include "elbowroom/files/waypoint_file.hpp"

#include "elbowroom/files/document.hpp"
#include "elbowroom/files/end_reading.hpp"
#include "elbowroom/files/expansion.hpp"
#include "elbowroom/files/reading.hpp"

namespace er {
namespace {

// "0" for all joints, or one quantity each.
Posture read_derivative(const Node& node, const Arm& arm, int order) {
  if (node.kind == Node::Kind::scalar && as_quantity(node, dimension::number) == 0.0)
    return Posture::Zero(arm.dof());
  return read_posture(node, arm, order);
}

AskedWaypoint read_waypoint(const Node& node, const Arm& arm, const EndReader& ends) {
  static const std::vector<std::string> others{"name",  "velocity", "acceleration", "after",
                                               "speed", "stop",     "wait"};
  ReadEnd end = ends.read(node, EndKinds::one_target, others);
  AskedWaypoint out{.name = std::move(end.name), .posture = end.posture};
  if (!end.targets.empty()) out.target = std::move(end.targets.front());
  if (node.kind != Node::Kind::map) return out;
  if (const Node* name = node.find("name")) out.name = as_text(*name, "a name");
  if (const Node* value = node.find("velocity")) out.velocity = read_derivative(*value, arm, 1);
  if (const Node* value = node.find("acceleration"))
    out.acceleration = read_derivative(*value, arm, 2);
  if (const Node* value = node.find("after")) {
    out.after = as_quantity(*value, dimension::time);
    if (!(*out.after > 0.0)) throw value->error("a duration is above zero");
  }
  if (const Node* value = node.find("speed")) out.speed = read_speed(*value);
  if (const Node* value = node.find("stop")) out.stop = as_yes(*value);
  if (const Node* value = node.find("wait")) {
    out.wait = as_quantity(*value, dimension::time);
    if (!(out.wait > 0.0)) throw value->error("a wait is above zero");
  }
  return out;
}

}  // namespace

WaypointList load_waypoints(const std::filesystem::path& path, const Cell& cell) {
  const Node root = read_expanded(path);
  expect_kind(root, "waypoints");
  expect_keys(root, "a waypoint file", root_keys({"name", "arm", "targets", "waypoints"}));
  const Node* name = root.find("arm");
  const Arm& arm = at_place(name != nullptr ? *name : root, [&]() -> const Arm& {
    return cell.arm(name != nullptr ? as_text(*name, "an arm name") : std::string{});
  });
  WaypointList out{.arm = arm.name()};
  const EndReader ends(arm, targets_named_in(root, path, cell));
  const Node& list = need(root, "a waypoint file", "waypoints");
  for (const Node& item : as_list(list, "waypoints"))
    out.waypoints.push_back(read_waypoint(item, arm, ends));
  if (out.waypoints.size() < 2) throw list.error("a motion needs two waypoints or more");
  return out;
}

}  // namespace er
