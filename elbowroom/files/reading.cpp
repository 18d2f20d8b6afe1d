#include "elbowroom/files/reading.hpp"

#include <fmt/format.h>

#include <Eigen/LU>
#include <algorithm>
#include <charconv>

namespace er {
namespace {

// The keys that say a rotation: rpy, the 24 orders of three angles, rotation (in the order of the
// arm), axis_angle, quaternion and matrix.
const std::vector<std::string>& rotation_keys() {
  static const std::vector<std::string> kKeys = [] {
    std::vector<std::string> keys{"rpy", "rotation", "axis_angle", "quaternion", "matrix"};
    for (const RotationOrder& order : all_rotation_orders()) keys.push_back(name_of(order));
    return keys;
  }();
  return kKeys;
}

Matrix3 read_quaternion(const Node& node) {
  const auto& items = as_list(node, "w, x, y, z");
  if (items.size() != 4)
    throw node.error(fmt::format("expected w, x, y, z, found {} values", items.size()));
  Eigen::Vector4d wxyz;
  for (Eigen::Index i = 0; i < 4; ++i)
    wxyz[i] = as_quantity(items[static_cast<std::size_t>(i)], dimension::number);
  try {
    return rotation_from_quaternion(wxyz);
  } catch (const InputError& error) {
    throw node.placed(error);
  }
}

Matrix3 read_axis_angle(const Node& node) {
  expect_keys(node, "an axis with an angle", {"axis", "angle"});
  const Node& axis_node = need(node, "an axis with an angle", "axis");
  const Vector3 axis = as_vector(axis_node, dimension::number, "an axis");
  if (!(axis.norm() > 1e-9)) throw axis_node.error("the axis has no direction");
  return rotation_about(axis.normalized(), as_quantity(need(node, "an axis with an angle", "angle"),
                                                       dimension::angle));
}

Matrix3 read_matrix(const Node& node) {
  const auto& rows = as_list(node, "three rows");
  if (rows.size() != 3)
    throw node.error(fmt::format("expected three rows of a matrix, found {}", rows.size()));
  Matrix3 r;
  for (Eigen::Index i = 0; i < 3; ++i)
    r.row(i) = as_vector(rows[static_cast<std::size_t>(i)], dimension::number, "a row");
  // Printed matrices have four to six digits: let those pass and take the nearest rotation.
  const double off = (r * r.transpose() - Matrix3::Identity()).cwiseAbs().maxCoeff();
  if (off > 1e-3)
    throw node.error(
        "this is no rotation matrix: its rows are not of length 1 and square to each "
        "other");
  if (r.determinant() < 0.0)
    throw node.error("this matrix mirrors (its determinant is -1), so it is no rotation",
                     "check the sign of a row");
  return nearest_rotation(r);
}

}  // namespace

std::optional<Matrix3> read_rotation(const Node& map, const RotationOrder& usual) {
  std::optional<Matrix3> found;
  std::string first;
  for (const Node::Entry& entry : map.entries) {
    const std::string& key = entry.key;
    const Node& node = entry.value;
    if (std::find(rotation_keys().begin(), rotation_keys().end(), key) == rotation_keys().end())
      continue;
    if (found)
      throw node.error(fmt::format("a rotation is given twice, as {} and as {}", first, key),
                       "keep one");
    first = key;
    if (key == "quaternion") {
      found = read_quaternion(node);
    } else if (key == "axis_angle") {
      found = read_axis_angle(node);
    } else if (key == "matrix") {
      found = read_matrix(node);
    } else {
      const RotationOrder order = key == "rotation" ? usual : rotation_order_named(key);
      found = rotation_from(order, as_vector(node, dimension::angle, "three angles"));
    }
  }
  return found;
}

std::vector<std::string> with_rotation_keys(std::vector<std::string> keys) {
  keys.insert(keys.end(), rotation_keys().begin(), rotation_keys().end());
  return keys;
}

Pose read_pose(const Node& node, const RotationOrder& usual) {
  if (node.kind == Node::Kind::list)
    return Pose::at(as_vector(node, dimension::length, "a position"));
  expect_keys(node, "a pose", with_rotation_keys({"position"}));
  Pose pose;
  if (const Node* position = node.find("position"))
    pose.position = as_vector(*position, dimension::length, "a position");
  if (const auto rotation = read_rotation(node, usual)) pose.rotation = *rotation;
  return pose;
}

Colour read_colour(const Node& node) {
  const std::string text = as_text(node, "a colour such as \"#c8553d\"");
  unsigned value = 0;
  const auto [end, error] = std::from_chars(text.data() + 1, text.data() + text.size(), value, 16);
  const bool sized = text.size() == 7 || text.size() == 9;
  if (!sized || text[0] != '#' || error != std::errc{} || end != text.data() + text.size())
    throw node.error(fmt::format("'{}' is not a colour", text),
                     "write it like \"#c8553d\", or \"#c8553d80\" with its opacity, in quotes");
  if (text.size() == 7) value = value << 8U | 0xFFU;
  const auto channel = [&](unsigned shift) { return ((value >> shift) & 0xFFU) / 255.0; };
  return {channel(24), channel(16), channel(8), channel(0)};
}

Posture read_posture(const Node& node, const Arm& arm, int derivative) {
  const auto& items = as_list(node, "joint values");
  if (static_cast<int>(items.size()) != arm.dof())
    throw node.error(fmt::format("found {} joint value{}, arm '{}' has {} moving joints",
                                 items.size(), items.size() == 1 ? "" : "s", arm.name(), arm.dof()),
                     "give one value per moving joint, in chain order");
  Posture posture(arm.dof());
  for (int k = 0; k < arm.dof(); ++k)
    posture[k] = as_quantity(items[static_cast<std::size_t>(k)],
                             per(value_dimension(arm.moving_joint(k).kind), derivative));
  return posture;
}

double read_unit(const Node& node) {
  const Node* unit = node.find("unit");
  if (unit == nullptr) return 1.0;
  try {
    return metres_in(as_text(*unit, "the unit of a file"));
  } catch (const InputError& error) {
    throw unit->placed(error);
  }
}

double read_speed(const Node& node) {
  std::string text = as_text(node, "a speed such as 50 %");
  const auto percent = text.find('%');
  double share = 0.0;
  if (percent != std::string::npos && percent + 1 == text.size())
    share =
        at_place(node, [&] { return parse_quantity(text.substr(0, percent), dimension::number); }) /
        100.0;
  if (!(share > 0.0) || share > 1.0)
    throw node.error(fmt::format("expected a speed above 0 % and at most 100 %, found '{}'", text),
                     "write it like 50 %, of the velocity limits");
  return share;
}

}  // namespace er
