#include "elbowroom/files/reading.hpp"

#include <fmt/format.h>

#include <Eigen/LU>
#include <algorithm>
#include <charconv>

#include "elbowroom/files/mesh_file.hpp"

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

// A shape, and where its own keys put it: by its ends, by its base, or about the part's frame.
struct PlacedShape {
  Shape shape = Box{};
  Pose at = {};
};

// One end of a round shape: a point, or "next", the joint of the next link.
Vector3 read_end(const Node& node, const Vector3* next) {
  if (node.kind != Node::Kind::scalar) return as_vector(node, dimension::length, "an end");
  const std::string text = as_text(node, "an end");
  if (text == "joint") return Vector3::Zero();
  if (text != "next")
    throw node.error(fmt::format("an end is a point, 'joint' or 'next', found '{}'", text),
                     "write it like [0 mm, 0 mm, 300 mm]; 'next' is the joint of the next link");
  if (next == nullptr) throw node.error("there is no next joint here", "give the end as a point");
  return *next;
}

PlacedShape read_round(const std::string& kind, const Node& node, const Vector3* next) {
  expect_keys(node, kind, {"radius", "length", "from", "to", "base"});
  const double radius = as_quantity(need(node, kind, "radius"), dimension::length);
  const Node* to = node.find("to");
  if (to != nullptr) {
    for (const char* key : {"length", "base"})
      if (const Node* extra = node.find(key))
        throw extra->error(fmt::format("a {} with two ends has no {}", kind, key),
                           "give from: and to:, or length:");
    const Node* from = node.find("from");
    const Vector3 start = from == nullptr ? Vector3(Vector3::Zero()) : read_end(*from, next);
    const Vector3 end = read_end(*to, next);
    try {
      const Part part = kind == "cylinder" ? cylinder_between(start, end, radius)
                                           : capsule_between(start, end, radius);
      return {part.shape, part.at};
    } catch (const InputError& error) {
      throw node.placed(error);
    }
  }
  if (const Node* from = node.find("from"))
    throw from->error(fmt::format("this {} begins but does not end", kind), "give to:, too");
  const double length = as_quantity(need(node, kind, "length"), dimension::length);
  PlacedShape out;
  if (kind == "cylinder") {
    out.shape = Cylinder{radius, length};
  } else {
    out.shape = Capsule{radius, length};
  }
  const double overhang = kind == "capsule" ? radius : 0.0;
  if (const Node* base = node.find("base"))
    out.at.position = as_vector(*base, dimension::length, "a base") +
                      (0.5 * length + overhang) * Vector3::UnitZ();
  return out;
}

PlacedShape read_shape(const std::string& kind, const Node& node, const Vector3* next) {
  PlacedShape out;
  if (kind == "box") {
    expect_keys(node, "box", {"size", "base"});
    const Vector3 size =
        as_vector(need(node, "box", "size"), dimension::length, "the size of a box");
    out.shape = Box{size};
    if (const Node* base = node.find("base"))
      out.at.position =
          as_vector(*base, dimension::length, "a base") + 0.5 * size.z() * Vector3::UnitZ();
    return out;
  }
  if (kind == "sphere") {
    expect_keys(node, "sphere", {"radius"});
    out.shape = Sphere{as_quantity(need(node, "sphere", "radius"), dimension::length)};
    return out;
  }
  if (kind == "hull") {
    expect_keys(node, "hull", {"file", "unit"});
    const Node& file = need(node, "hull", "file");
    double scale = 1.0;
    if (const Node* unit = node.find("unit")) {
      const std::string text = as_text(*unit, "the unit of a mesh");
      try {
        const Quantity one = in_unit(1.0, text);
        if (!(one.dimension == dimension::length))
          throw InputError(fmt::format("'{}' is no unit of length", text), "such as mm or m");
        scale = one.si;
      } catch (const InputError& error) {
        throw unit->placed(error);
      }
    }
    out.shape = read_hull(as_text(file, "a mesh file"), Vector3::Constant(scale), file.place);
    return out;
  }
  return read_round(kind, node, next);
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

Part read_part(const Node& node, const Colour& colour, const Vector3* next) {
  static const std::vector<std::string> kShapes{"box", "sphere", "cylinder", "capsule", "hull"};
  expect_keys(node, "a part",
              {"box", "sphere", "cylinder", "capsule", "hull", "at", "colour", "material",
               "texture", "for"});
  Part part;
  part.colour = colour;
  int shapes = 0;
  Pose inner;
  for (const std::string& kind : kShapes) {
    const Node* shape = node.find(kind);
    if (shape == nullptr) continue;
    const PlacedShape placed = read_shape(kind, *shape, next);
    part.shape = placed.shape;
    inner = placed.at;
    ++shapes;
  }
  if (shapes != 1)
    throw node.error(fmt::format("a part is one shape, found {}", shapes),
                     fmt::format("give one of: {}", fmt::join(kShapes, ", ")));
  if (const Node* at = node.find("at")) part.at = read_pose(*at);
  part.at = part.at * inner;
  if (const Node* own = node.find("colour")) part.colour = read_colour(*own);
  if (const Node* name = node.find("material")) part.material = as_text(*name, "a name");
  if (const Node* file = node.find("texture")) part.texture = as_text(*file, "a file name");
  if (const Node* purpose = node.find("for")) {
    static const std::vector<std::string> kPurposes{"both", "looks", "collision"};
    const std::string text = as_text(*purpose, "what the part is for");
    if (std::find(kPurposes.begin(), kPurposes.end(), text) == kPurposes.end())
      throw purpose->placed(unknown_name("purpose of a part", text, kPurposes));
    part.looks = text != "collision";
    part.collides = text != "looks";
  }
  return part;
}

std::vector<Part> read_parts(const Node& node, const Colour& colour, const Vector3* next) {
  std::vector<Part> parts;
  for (const Node& item : as_list(node, "parts")) parts.push_back(read_part(item, colour, next));
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

}  // namespace er
