#include "elbowroom/files/reading.hpp"

#include <fmt/format.h>

#include <charconv>

namespace er {
namespace {

// Roll, pitch, yaw or a quaternion, whichever of the two keys is there.
std::optional<Matrix3> read_rotation(const Node& map) {
  const Node* rpy = map.find("rpy");
  const Node* quaternion = map.find("quaternion");
  if (rpy != nullptr && quaternion != nullptr)
    throw quaternion->error("a rotation is given twice, as rpy and as quaternion", "keep one");
  if (rpy != nullptr) {
    const Vector3 angles = as_vector(*rpy, dimension::angle, "roll, pitch and yaw");
    return rotation_from_rpy(angles[0], angles[1], angles[2]);
  }
  if (quaternion != nullptr) {
    const auto& items = as_list(*quaternion, "w, x, y, z");
    if (items.size() != 4)
      throw quaternion->error(fmt::format("expected w, x, y, z, found {} values", items.size()));
    Eigen::Vector4d wxyz;
    for (Eigen::Index i = 0; i < 4; ++i)
      wxyz[i] = as_quantity(items[static_cast<std::size_t>(i)], dimension::number);
    try {
      return rotation_from_quaternion(wxyz);
    } catch (const InputError& error) {
      throw error.at(quaternion->place);
    }
  }
  return std::nullopt;
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

Shape read_shape(const std::string& kind, const Node& node) {
  const auto length = [&](const char* key) {
    return as_quantity(need(node, kind, key), dimension::length);
  };
  if (kind == "box") {
    expect_keys(node, "box", {"size"});
    return Box{as_vector(need(node, "box", "size"), dimension::length, "the size of a box")};
  }
  if (kind == "sphere") {
    expect_keys(node, "sphere", {"radius"});
    return Sphere{length("radius")};
  }
  expect_keys(node, kind, {"radius", "length"});
  if (kind == "cylinder") return Cylinder{length("radius"), length("length")};
  return Capsule{length("radius"), length("length")};
}

}  // namespace

Pose read_pose(const Node& node) {
  if (node.kind == Node::Kind::list)
    return Pose::at(as_vector(node, dimension::length, "a position"));
  expect_keys(node, "a pose", {"position", "rpy", "quaternion"});
  Pose pose;
  if (const Node* position = node.find("position"))
    pose.position = as_vector(*position, dimension::length, "a position");
  if (const auto rotation = read_rotation(node)) pose.rotation = *rotation;
  return pose;
}

Colour read_colour(const Node& node) {
  const std::string text = as_text(node, "a colour such as \"#c8553d\"");
  unsigned value = 0;
  const auto [end, error] = std::from_chars(text.data() + 1, text.data() + text.size(), value, 16);
  if (text.size() != 7 || text[0] != '#' || error != std::errc{} || end != text.data() + 7)
    throw node.error(fmt::format("'{}' is not a colour", text),
                     "write it like \"#c8553d\", in quotes");
  const auto channel = [&](unsigned shift) { return ((value >> shift) & 0xFFU) / 255.0; };
  return {channel(16), channel(8), channel(0)};
}

Part read_part(const Node& node, const Colour& colour) {
  static const std::vector<std::string> kShapes{"box", "sphere", "cylinder", "capsule"};
  expect_keys(node, "a part", {"box", "sphere", "cylinder", "capsule", "at", "colour", "for"});
  Part part;
  part.colour = colour;
  int shapes = 0;
  for (const std::string& kind : kShapes) {
    const Node* shape = node.find(kind);
    if (shape == nullptr) continue;
    part.shape = read_shape(kind, *shape);
    ++shapes;
  }
  if (shapes != 1)
    throw node.error(fmt::format("a part is one shape, found {}", shapes),
                     fmt::format("give one of: {}", fmt::join(kShapes, ", ")));
  if (const Node* at = node.find("at")) part.at = read_pose(*at);
  if (const Node* own = node.find("colour")) part.colour = read_colour(*own);
  if (const Node* purpose = node.find("for")) {
    static const std::vector<std::string> kPurposes{"both", "looks", "collision"};
    const std::string text = as_text(*purpose, "what the part is for");
    if (std::find(kPurposes.begin(), kPurposes.end(), text) == kPurposes.end())
      throw unknown_name("purpose of a part", text, kPurposes, purpose->place);
    part.looks = text != "collision";
    part.collides = text != "looks";
  }
  return part;
}

std::vector<Part> read_parts(const Node& node, const Colour& colour) {
  std::vector<Part> parts;
  for (const Node& item : as_list(node, "parts")) parts.push_back(read_part(item, colour));
  return parts;
}

Posture read_posture(const Node& node, const Arm& arm) {
  const auto& items = as_list(node, "joint values");
  if (static_cast<int>(items.size()) != arm.dof())
    throw node.error(fmt::format("found {} joint value{}, arm '{}' has {} moving joints",
                                 items.size(), items.size() == 1 ? "" : "s", arm.name(), arm.dof()),
                     "give one value per moving joint, in chain order");
  Posture posture(arm.dof());
  for (int k = 0; k < arm.dof(); ++k)
    posture[k] =
        as_quantity(items[static_cast<std::size_t>(k)], value_dimension(arm.moving_joint(k).kind));
  return posture;
}

TargetDefaults read_target_defaults(const Node& root, const Cell& cell, const Arm& arm) {
  TargetDefaults defaults;
  if (const Node* tool = root.find("tool")) {
    defaults.tool = as_text(*tool, "a tool name");
    try {
      (void)arm.tool(defaults.tool);
    } catch (const InputError& error) {
      throw error.at(tool->place);
    }
  }
  if (const Node* frame = root.find("in")) {
    defaults.frame = as_text(*frame, "a frame name");
    try {
      (void)cell.frame(defaults.frame);
    } catch (const InputError& error) {
      throw error.at(frame->place);
    }
  }
  if (const auto rotation = read_rotation(root)) defaults.rotation = *rotation;
  if (const Node* within = root.find("within"))
    read_tolerances(*within, defaults.position_tolerance, defaults.angle_tolerance);
  return defaults;
}

std::vector<Target> read_targets(const Node& node, const Cell& cell, const Arm& arm,
                                 const TargetDefaults& defaults) {
  std::vector<Target> targets;
  for (const Node& item : as_list(node, "targets")) {
    expect_keys(item, "a target",
                {"name", "tool", "in", "position", "rpy", "quaternion", "within"});
    const Node& name = need(item, "a target", "name");
    for (const Target& earlier : targets)
      if (earlier.name() == as_text(name, "a name"))
        throw name.error(fmt::format("the name '{}' is used twice", name.text));
    TargetDefaults own = read_target_defaults(item, cell, arm);
    if (item.find("tool") == nullptr) own.tool = defaults.tool;
    if (item.find("in") == nullptr) own.frame = defaults.frame;
    if (!read_rotation(item)) own.rotation = defaults.rotation;
    if (item.find("within") == nullptr) {
      own.position_tolerance = defaults.position_tolerance;
      own.angle_tolerance = defaults.angle_tolerance;
    }
    const Vector3 position =
        as_vector(need(item, "a target", "position"), dimension::length, "a position");
    targets.push_back(Target{}
                          .place(own.tool, cell.frame(own.frame) * Pose{own.rotation, position})
                          .within(own.position_tolerance, own.angle_tolerance)
                          .named(name.text));
  }
  return targets;
}

}  // namespace er
