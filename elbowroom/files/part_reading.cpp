#include "elbowroom/files/part_reading.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/files/cloud_file.hpp"
#include "elbowroom/files/mesh_file.hpp"
#include "elbowroom/files/reading.hpp"
#include "elbowroom/model/hull.hpp"

namespace er {
namespace {

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

double length_of(const Node& node, const char* kind, const char* key) {
  return as_quantity(need(node, kind, key), dimension::length);
}

// A shape along z: with two ends, with a base, or centred. `overhang` is what it has beyond its
// length at each end.
template <class Between, class Centred>
PlacedShape read_along(const char* kind, const Node& node, const Vector3* next, double overhang,
                       Between between, Centred centred) {
  if (const Node* to = node.find("to")) {
    for (const char* key : {"length", "base"})
      if (const Node* extra = node.find(key))
        throw extra->error(fmt::format("a {} with two ends has no {}", kind, key),
                           "give from: and to:, or length:");
    const Node* from = node.find("from");
    const Vector3 start = from == nullptr ? Vector3(Vector3::Zero()) : read_end(*from, next);
    const Vector3 end = read_end(*to, next);
    try {
      const Part part = between(start, end);
      return {part.shape, part.at};
    } catch (const InputError& error) {
      throw node.placed(error);
    }
  }
  if (const Node* from = node.find("from"))
    throw from->error(fmt::format("this {} begins but does not end", kind), "give to:, too");
  const double length = length_of(node, kind, "length");
  PlacedShape out{centred(length), {}};
  if (const Node* base = node.find("base"))
    out.at.position = as_vector(*base, dimension::length, "a base") +
                      (0.5 * length + overhang) * Vector3::UnitZ();
  return out;
}

PlacedShape read_box(const Node& node, const Vector3*) {
  expect_keys(node, "a box", {"size", "base"});
  const Vector3 size =
      as_vector(need(node, "a box", "size"), dimension::length, "the size of a box");
  PlacedShape out{Box{size}, {}};
  if (const Node* base = node.find("base"))
    out.at.position =
        as_vector(*base, dimension::length, "a base") + 0.5 * size.z() * Vector3::UnitZ();
  return out;
}

PlacedShape read_sphere(const Node& node, const Vector3*) {
  expect_keys(node, "a sphere", {"radius"});
  return {Sphere{length_of(node, "a sphere", "radius")}, {}};
}

PlacedShape read_cylinder(const Node& node, const Vector3* next) {
  expect_keys(node, "a cylinder", {"radius", "length", "from", "to", "base"});
  const double radius = length_of(node, "a cylinder", "radius");
  return read_along(
      "cylinder", node, next, 0.0,
      [&](const Vector3& from, const Vector3& to) { return cylinder_between(from, to, radius); },
      [&](double length) {
        return Cylinder{radius, length};
      });
}

PlacedShape read_capsule(const Node& node, const Vector3* next) {
  expect_keys(node, "a capsule", {"radius", "length", "from", "to", "base"});
  const double radius = length_of(node, "a capsule", "radius");
  return read_along(
      "capsule", node, next, radius,
      [&](const Vector3& from, const Vector3& to) { return capsule_between(from, to, radius); },
      [&](double length) {
        return Capsule{radius, length};
      });
}

PlacedShape read_cone(const Node& node, const Vector3* next) {
  expect_keys(node, "a cone", {"radius", "top", "length", "from", "to", "base"});
  const double radius = length_of(node, "a cone", "radius");
  double top = 0.0;
  if (const Node* upper = node.find("top")) top = as_quantity(*upper, dimension::length);
  return read_along(
      "cone", node, next, 0.0,
      [&](const Vector3& from, const Vector3& to) { return cone_between(from, to, radius, top); },
      [&](double length) {
        return Cone{radius, top, length};
      });
}

PlacedShape read_half_space(const Node& node, const Vector3*) {
  expect_keys(node, "a half-space", {"normal"});
  const Node& normal = need(node, "a half-space", "normal");
  const Vector3 way = as_vector(normal, dimension::number, "a normal");
  if (!(way.norm() > 0.0) || !way.allFinite())
    throw normal.error("this normal has no direction",
                       "write the way out of what is filled, such as [0, 0, 1] for a floor");
  if (way.normalized() == Vector3::UnitZ()) return {HalfSpace{}, {}};
  return {HalfSpace{}, {rotation_with_z(way.normalized()), Vector3::Zero()}};
}

FileOrigin mesh_named_in(const Node& node, const char* kind) {
  FileOrigin out{.file = as_text(need(node, kind, "file"), "a mesh file"),
                 .scale = Vector3::Constant(read_unit(node))};
  if (const Node* detail = node.find("detail")) {
    out.detail = as_quantity(*detail, dimension::length);
    if (!(out.detail > 0.0))
      throw detail->error("a detail must be above zero", "leave out detail: to take all of it");
  }
  const Node* bodies = node.find("bodies");
  if (bodies == nullptr) return out;
  for (const Node& one : as_list(*bodies, "bodies"))
    out.bodies.push_back(as_whole(one, "the number of a body"));
  if (out.bodies.empty())
    throw bodies->error("no body of the mesh is named", "leave out bodies: to take all of it");
  return out;
}

PlacedShape read_hull_of_points(const Node& node, const Node& list) {
  for (const char* key : {"file", "unit", "bodies", "detail"})
    if (const Node* extra = node.find(key))
      throw extra->error(fmt::format("a hull of points has no {}", key), "give file:, or points:");
  std::vector<Vector3> points;
  for (const Node& one : as_list(list, "points"))
    points.push_back(as_vector(one, dimension::length, "a point"));
  try {
    return {hull_of(points), {}};
  } catch (const InputError& error) {
    throw list.placed(error);
  }
}

PlacedShape read_hull_part(const Node& node, const Vector3*) {
  expect_keys(node, "a hull", {"file", "unit", "bodies", "detail", "points"});
  if (const Node* points = node.find("points")) return read_hull_of_points(node, *points);
  const FileOrigin from = mesh_named_in(node, "a hull");
  return {read_hull(from, node.find("file")->place), {}};
}

PlacedShape read_mesh_part(const Node& node, const Vector3*) {
  expect_keys(node, "a mesh", {"file", "unit", "bodies", "detail", "skin"});
  const FileOrigin from = mesh_named_in(node, "a mesh");
  const Node* skin = node.find("skin");
  return {read_mesh(from, skin != nullptr && as_yes(*skin), node.find("file")->place), {}};
}

PlacedShape read_cloud_part(const Node& node, const Vector3*) {
  expect_keys(node, "a cloud", {"file", "unit", "radius"});
  const Node& file = need(node, "a cloud", "file");
  const Node& radius = need(node, "a cloud", "radius");
  const double size = as_quantity(radius, dimension::length);
  if (!(size > 0.0)) throw radius.error("the radius of a cloud's points must be above zero");
  return {read_cloud(as_text(file, "a file of points"), read_unit(node), size, file.place), {}};
}

struct Kind {
  const char* key;
  PlacedShape (*read)(const Node&, const Vector3*);
};
constexpr Kind kKinds[] = {
    {"box", read_box},         {"sphere", read_sphere},  {"cylinder", read_cylinder},
    {"capsule", read_capsule}, {"cone", read_cone},      {"half_space", read_half_space},
    {"hull", read_hull_part},  {"mesh", read_mesh_part}, {"cloud", read_cloud_part}};

}  // namespace

Part read_part(const Node& node, const Colour& colour, const Vector3* next) {
  std::vector<std::string> keys;
  for (const Kind& kind : kKinds) keys.emplace_back(kind.key);
  const std::string shape_keys = fmt::format("{}", fmt::join(keys, ", "));
  keys.insert(keys.end(), {"at", "colour", "material", "texture", "for"});
  expect_keys(node, "a part", keys);
  Part part;
  part.colour = colour;
  int shapes = 0;
  Pose inner;
  for (const Kind& kind : kKinds) {
    const Node* shape = node.find(kind.key);
    if (shape == nullptr) continue;
    const PlacedShape placed = kind.read(*shape, next);
    part.shape = placed.shape;
    inner = placed.at;
    ++shapes;
  }
  if (shapes != 1)
    throw node.error(fmt::format("a part is one shape, found {}", shapes),
                     fmt::format("give one of: {}", shape_keys));
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

}  // namespace er
