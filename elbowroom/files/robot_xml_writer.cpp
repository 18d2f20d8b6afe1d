#include <fmt/format.h>

#include <cmath>
#include <pugixml.hpp>
#include <set>
#include <sstream>

#include "elbowroom/files/robot_xml.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

// The shortest text that reads back as the same number; never "-0".
std::string text(double value) { return fmt::format("{}", value + 0.0); }
std::string text(const Vector3& v) {
  return fmt::format("{} {} {}", text(v.x()), text(v.y()), text(v.z()));
}

class RobotXmlWriter {
 public:
  explicit RobotXmlWriter(const Arm& arm) : arm_(arm) {}

  Written write() {
    pugi::xml_node robot = document_.append_child("robot");
    robot.append_attribute("name") = arm_.name().c_str();
    for (const Link& link : arm_.links())
      if (!is_between(link)) write_link(robot, link);
    for (const Link& link : arm_.links())
      if (link.parent_index >= 0 && !is_between(link)) write_joint(robot, link);
    note_what_is_lost();
    std::ostringstream out;
    document_.save(out, "  ");
    return {out.str(), std::move(lost_)};
  }

 private:
  void lose(std::string what, std::string why) {
    lost_.push_back({{}, arm_.name(), std::move(what), std::move(why)});
  }

  // The links between the parts of a planar or floating joint are no links of the file.
  [[nodiscard]] bool is_between(const Link& link) const {
    if (link.joint.part_of.empty()) return false;
    for (const Link& other : arm_.links())
      if (other.parent == link.name && other.joint.part_of == link.joint.part_of) return true;
    return false;
  }

  static void write_origin(pugi::xml_node node, const Pose& pose) {
    if (pose.position.isZero(0.0) && pose.rotation.isIdentity(0.0)) return;
    pugi::xml_node origin = node.append_child("origin");
    origin.append_attribute("xyz") = text(pose.position).c_str();
    origin.append_attribute("rpy") = text(rpy_of(pose.rotation)).c_str();
  }

  void write_link(pugi::xml_node robot, const Link& link) {
    pugi::xml_node node = robot.append_child("link");
    node.append_attribute("name") = link.name.c_str();
    if (link.inertial.mass > 0.0) {
      pugi::xml_node inertial = node.append_child("inertial");
      write_origin(inertial, Pose::at(link.inertial.centre));
      inertial.append_child("mass").append_attribute("value") = text(link.inertial.mass).c_str();
      pugi::xml_node inertia = inertial.append_child("inertia");
      const Matrix3& i = link.inertial.inertia;
      const auto put = [&](const char* key, double value) {
        inertia.append_attribute(key) = text(value).c_str();
      };
      put("ixx", i(0, 0));
      put("ixy", i(0, 1));
      put("ixz", i(0, 2));
      put("iyy", i(1, 1));
      put("iyz", i(1, 2));
      put("izz", i(2, 2));
    }
    for (const Part& part : link.parts) {
      if (part.looks) write_part(node, "visual", part);
      if (part.collides) write_part(node, "collision", part);
    }
  }

  static void write_mesh(pugi::xml_node geometry, const FileOrigin& from) {
    pugi::xml_node shape = geometry.append_child("mesh");
    shape.append_attribute("filename") = from.file.c_str();
    if (!(from.scale - Vector3::Ones()).isZero(0.0))
      shape.append_attribute("scale") = text(from.scale).c_str();
  }

  void write_part(pugi::xml_node link, const char* kind, const Part& part) {
    if (const auto* capsule = std::get_if<Capsule>(&part.shape)) {
      capsules_ = true;
      Part piece = part;
      piece.shape = Cylinder{capsule->radius, capsule->length};
      write_part(link, kind, piece);
      piece.shape = Sphere{capsule->radius};
      for (const double side : {-0.5, 0.5}) {
        piece.at = part.at * Pose::at({0.0, 0.0, side * capsule->length});
        write_part(link, kind, piece);
      }
      return;
    }
    if (std::holds_alternative<Cone>(part.shape) || std::holds_alternative<Cloud>(part.shape)) {
      without_word_.insert(std::string(name_of(part.shape)) + "s");
      return;
    }
    const FileOrigin* const from = origin_of(part.shape);
    if (from != nullptr && from->file.empty()) {
      without_word_.insert("hulls of points");
      return;
    }
    if (from != nullptr && !from->bodies.empty()) {  // the format takes whole files alone
      without_word_.insert("single bodies of a mesh file");
      return;
    }
    pugi::xml_node node = link.append_child(kind);
    write_origin(node, part.at);
    pugi::xml_node geometry = node.append_child("geometry");
    if (const auto* box = std::get_if<Box>(&part.shape)) {
      geometry.append_child("box").append_attribute("size") = text(box->size).c_str();
    } else if (const auto* sphere = std::get_if<Sphere>(&part.shape)) {
      geometry.append_child("sphere").append_attribute("radius") = text(sphere->radius).c_str();
    } else if (const auto* cylinder = std::get_if<Cylinder>(&part.shape)) {
      pugi::xml_node shape = geometry.append_child("cylinder");
      shape.append_attribute("radius") = text(cylinder->radius).c_str();
      shape.append_attribute("length") = text(cylinder->length).c_str();
    } else if (from != nullptr) {
      write_mesh(geometry, *from);
    }
    if (std::string_view(kind) != "visual") return;
    const Colour& c = part.colour;
    const std::string name =
        !part.material.empty()
            ? part.material
            : fmt::format("colour_{:02x}{:02x}{:02x}", static_cast<int>(std::lround(c.red * 255)),
                          static_cast<int>(std::lround(c.green * 255)),
                          static_cast<int>(std::lround(c.blue * 255)));
    pugi::xml_node material = node.append_child("material");
    material.append_attribute("name") = name.c_str();
    material.append_child("color").append_attribute("rgba") =
        fmt::format("{} {} {} {}", text(c.red), text(c.green), text(c.blue), text(c.opacity))
            .c_str();
    if (!part.texture.empty())
      material.append_child("texture").append_attribute("filename") = part.texture.c_str();
  }

  void write_joint(pugi::xml_node robot, const Link& link) {
    // A planar or floating joint begins with its first part and is written once, with its last.
    const Link* first = &link;
    int parts = 1;
    while (!link.joint.part_of.empty()) {
      const Link& below = arm_.links()[static_cast<std::size_t>(first->parent_index)];
      if (below.joint.part_of != link.joint.part_of) break;
      first = &below;
      ++parts;
    }
    const bool compound = parts > 1;
    const Joint& joint = link.joint;
    const std::string type = compound           ? (parts == 3 ? "planar" : "floating")
                             : joint.continuous ? "continuous"
                                                : std::string(name_of(joint.kind));
    pugi::xml_node node = robot.append_child("joint");
    node.append_attribute("name") = (compound ? joint.part_of : joint.name).c_str();
    node.append_attribute("type") = type.c_str();
    write_origin(node, first->joint.origin);
    node.append_child("parent").append_attribute("link") = first->parent.c_str();
    node.append_child("child").append_attribute("link") = link.name.c_str();
    if (joint.kind == JointKind::fixed || type == "floating") return;
    node.append_child("axis").append_attribute("xyz") = text(joint.axis).c_str();
    if (compound) return;
    const JointLimits& limits = joint.limits;
    const bool ranged = std::isfinite(limits.lower) || std::isfinite(limits.upper);
    if (ranged || std::isfinite(limits.velocity) || std::isfinite(limits.torque)) {
      pugi::xml_node limit = node.append_child("limit");
      if (std::isfinite(limits.lower)) limit.append_attribute("lower") = text(limits.lower).c_str();
      if (std::isfinite(limits.upper)) limit.append_attribute("upper") = text(limits.upper).c_str();
      if (std::isfinite(limits.torque))
        limit.append_attribute("effort") = text(limits.torque).c_str();
      if (std::isfinite(limits.velocity))
        limit.append_attribute("velocity") = text(limits.velocity).c_str();
      if (!ranged && !joint.continuous)
        lose(fmt::format("the open range of joint {}", joint.name),
             "beside other limits the format reads a missing range as zero");
    }
    if (!joint.follow.joint.empty()) {
      pugi::xml_node mimic = node.append_child("mimic");
      mimic.append_attribute("joint") = joint.follow.joint.c_str();
      mimic.append_attribute("multiplier") = text(joint.follow.ratio).c_str();
      mimic.append_attribute("offset") = text(joint.follow.offset).c_str();
    }
    if (joint.damping > 0.0 || joint.friction > 0.0) {
      pugi::xml_node dynamics = node.append_child("dynamics");
      dynamics.append_attribute("damping") = text(joint.damping).c_str();
      dynamics.append_attribute("friction") = text(joint.friction).c_str();
    }
  }

  void note_what_is_lost() {
    const char* why = "the format has no word for it";
    const auto lose_all = [&](std::size_t count, const char* what) {
      if (count > 0) lose(fmt::format("{} {}{}", count, what, count == 1 ? "" : "s"), why);
    };
    lose_all(arm_.tools().size(), "tool");
    lose_all(arm_.stances().size(), "stance");
    lose_all(arm_.stations().size(), "station");
    if (!arm_.mount().position.isZero(0.0) || !arm_.mount().rotation.isIdentity(0.0))
      lose("where the arm is mounted", "the file begins at the base link");
    bool acceleration = false;
    bool jerk = false;
    bool by_way = false;
    for (const Link& link : arm_.links()) {
      acceleration |= std::isfinite(link.joint.limits.acceleration);
      jerk |= std::isfinite(link.joint.limits.jerk);
      by_way |= link.joint.limits.velocity_ways.has_value();
    }
    if (acceleration) lose("limits of acceleration", why);
    if (jerk) lose("limits of jerk", why);
    if (by_way)
      lose("speed limits that differ by the way", "each is written as what holds either way");
    for (const std::string& shapes : without_word_) lose(shapes, why);
    if (capsules_)
      lose("capsules", "each is written as a cylinder and two spheres, the same solid");
  }

  const Arm& arm_;
  pugi::xml_document document_;
  std::vector<Note> lost_;
  bool capsules_ = false;
  std::set<std::string> without_word_;  // shapes that the format does not have
};

}  // namespace

Written robot_xml_of(const Arm& arm) { return RobotXmlWriter(arm).write(); }

}  // namespace er
