#include "elbowroom/files/robot_xml_shapes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "elbowroom/files/find_file.hpp"
#include "elbowroom/files/mesh_file.hpp"

namespace er {
namespace {

bool same(const Box& a, const Box& b) { return a.size == b.size; }
bool same(const Sphere& a, const Sphere& b) { return a.radius == b.radius; }
bool same(const Hull& a, const Hull& b) { return a.data->origin == b.data->origin; }
// Cylinders and capsules; the format has no others.
template <class Round>
bool same(const Round& a, const Round& b) {
  if constexpr (std::is_same_v<Round, Cylinder> || std::is_same_v<Round, Capsule>)
    return a.radius == b.radius && a.length == b.length;
  return false;
}

bool same(const Part& a, const Part& b) {
  if (a.shape.index() != b.shape.index() || (a.at.position - b.at.position).norm() > 0.0 ||
      a.at.rotation != b.at.rotation)
    return false;
  return std::visit(
      [&](const auto& one) { return same(one, std::get<std::decay_t<decltype(one)>>(b.shape)); },
      a.shape);
}

}  // namespace

RobotXmlShapes::RobotXmlShapes(XmlValues& xml, const pugi::xml_node& robot) : xml_(xml) {
  for (const pugi::xml_node& node : robot.children("material"))
    materials_[node.attribute("name").value()] = read_material(node);
}

RobotXmlShapes::Material RobotXmlShapes::read_material(const pugi::xml_node& node) {
  xml_.expect_children(node, {"color", "texture"});
  Material out;
  out.texture = node.child("texture").attribute("filename").value();
  if (const pugi::xml_node colour = node.child("color")) {
    const auto rgba = xml_.numbers(colour, "rgba", 4, {0.7, 0.7, 0.7, 1.0});
    const auto channel = [](double v) { return std::clamp(v, 0.0, 1.0); };
    out.colour = {channel(rgba[0]), channel(rgba[1]), channel(rgba[2]), channel(rgba[3])};
  }
  return out;
}

// A material is said where it is used, or by name; what is said where it is first used holds for
// the name from then on.
void RobotXmlShapes::paint(const pugi::xml_node& node, Part& part) {
  part.material = node.attribute("name").value();
  Material material = read_material(node);
  const bool says_something = material.colour || !material.texture.empty();
  if (says_something && !part.material.empty()) materials_.emplace(part.material, material);
  if (!says_something)
    if (const auto named = materials_.find(part.material); named != materials_.end())
      material = named->second;
  part.texture = material.texture;
  if (material.colour) part.colour = *material.colour;
}

Shape RobotXmlShapes::geometry(const pugi::xml_node& parent) {
  const pugi::xml_node node = parent.child("geometry");
  if (!node) throw xml_.error(parent, fmt::format("<{}> has no <geometry>", parent.name()));
  for (const pugi::xml_node& shape : node.children()) {
    const std::string_view kind = shape.name();
    Shape out;
    if (kind == "box") {
      out = Box{xml_.vector(shape, "size", Vector3::Zero())};
    } else if (kind == "sphere") {
      out = Sphere{xml_.needed(shape, "radius")};
    } else if (kind == "cylinder") {
      out = Cylinder{xml_.needed(shape, "radius"), xml_.needed(shape, "length")};
    } else if (kind == "capsule") {
      out = Capsule{xml_.needed(shape, "radius"), xml_.needed(shape, "length")};
    } else if (kind == "mesh") {
      return mesh(shape);
    } else {
      continue;
    }
    try {
      check_shape(out, "");
    } catch (const InputError& error) {
      throw xml_.error(shape, error.message());
    }
    return out;
  }
  throw xml_.error(node, "<geometry> holds none of box, cylinder, sphere, capsule, mesh");
}

Shape RobotXmlShapes::mesh(const pugi::xml_node& node) {
  std::string name = node.attribute("filename").value();
  if (name.empty()) throw xml_.error(node, "<mesh> needs the attribute filename");
  const std::string written = name;
  // "package://NAME/path": NAME is a folder somewhere on the search path, or above this file.
  if (const std::string scheme = "package://"; name.rfind(scheme, 0) == 0)
    name = find_in_package(name.substr(scheme.size()), node);
  if (const std::string scheme = "file://"; name.rfind(scheme, 0) == 0)
    name = name.substr(scheme.size());
  Hull hull = read_hull({.file = name, .scale = xml_.vector(node, "scale", Vector3::Ones())},
                        xml_.place_of(node));
  auto data = std::make_shared<HullData>(*hull.data);
  data->origin.file = written;
  return Hull{data};
}

std::string RobotXmlShapes::find_in_package(const std::string& path,
                                            const pugi::xml_node& node) const {
  const std::size_t slash = path.find('/');
  const std::string inside = slash == std::string::npos ? path : path.substr(slash + 1);
  const std::string package = path.substr(0, slash);
  std::vector<std::filesystem::path> folders = search_path();
  std::error_code code;
  for (auto folder = std::filesystem::absolute(xml_.file(), code).parent_path();
       folder.has_relative_path(); folder = folder.parent_path()) {
    if (folder.filename() == package) folders.push_back(folder.parent_path());
    folders.push_back(folder);
  }
  std::string looked;
  for (const auto& folder : folders) {
    const auto candidate = folder / path;
    if (std::filesystem::is_regular_file(candidate, code)) return candidate.string();
  }
  for (const auto& folder : search_path()) looked += " " + (folder / path).string();
  throw xml_.error(node, fmt::format("there is no mesh '{}' of package '{}'", inside, package),
                   fmt::format("put the folder that holds '{}' into ELBOWROOM_PATH{}", package,
                               looked.empty() ? "" : "; looked for:" + looked));
}

std::vector<Part> RobotXmlShapes::parts(const pugi::xml_node& link) {
  std::vector<Part> all;
  for (const pugi::xml_node& node : link.children("visual")) {
    xml_.expect_children(node, {"origin", "geometry", "material"});
    Part part{.shape = geometry(node), .at = xml_.origin(node), .collides = false};
    if (const pugi::xml_node material = node.child("material")) paint(material, part);
    all.push_back(part);
  }
  const std::size_t visuals = all.size();
  for (const pugi::xml_node& node : link.children("collision")) {
    xml_.expect_children(node, {"origin", "geometry"});
    Part part{.shape = geometry(node), .at = xml_.origin(node), .looks = false};
    // What looks and collides alike is one part.
    const auto twin = std::find_if(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(visuals),
                                   [&](const Part& p) { return !p.collides && same(p, part); });
    if (twin != all.begin() + static_cast<std::ptrdiff_t>(visuals)) {
      twin->collides = true;
    } else {
      all.push_back(part);
    }
  }
  return all;
}

Inertial RobotXmlShapes::inertial(const pugi::xml_node& link) {
  const pugi::xml_node node = link.child("inertial");
  if (!node) return {};
  xml_.expect_children(node, {"origin", "mass", "inertia"});
  Inertial out;
  if (const pugi::xml_node mass = node.child("mass")) out.mass = xml_.needed(mass, "value");
  if (const pugi::xml_node i = node.child("inertia")) {
    const double xy = xml_.attribute(i, "ixy", 0.0);
    const double xz = xml_.attribute(i, "ixz", 0.0);
    const double yz = xml_.attribute(i, "iyz", 0.0);
    const double xx = xml_.attribute(i, "ixx", 0.0);
    const double yy = xml_.attribute(i, "iyy", 0.0);
    const double zz = xml_.attribute(i, "izz", 0.0);
    out.inertia << xx, xy, xz, xy, yy, yz, xz, yz, zz;  // nothing here may throw
  }
  if (out.mass < 0.0) throw xml_.error(node, fmt::format("a mass of {:g} kg", out.mass));
  return moved(out, xml_.origin(node));
}

}  // namespace er
