#include "elbowroom/files/cell_writer.hpp"

#include <fmt/format.h>

#include <array>
#include <cmath>
#include <set>

#include "elbowroom/base/expression.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/model/cloud.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

// Of a grasp, with a comma before it; nothing where it is as it is.
std::string turn_text(const Band& turn) {
  if (turn.is_exact() && turn.lower == 0.0) return {};
  if (turn.is_free()) return ", turn: free";
  const auto end = [](double value) { return text_of_quantity(value, dimension::angle); };
  return turn.is_exact() ? fmt::format(", turn: {}", end(turn.lower))
                         : fmt::format(", turn: [{}, {}]", end(turn.lower), end(turn.upper));
}

std::string length(double v) { return text_of_quantity(v, dimension::length); }
std::string angle(double v) { return text_of_quantity(v, dimension::angle); }
std::string number(double v) { return text_of_quantity(v, dimension::number); }

template <class Write>
std::string triple(const Vector3& v, Write write) {
  return fmt::format("[{}, {}, {}]", write(v.x()), write(v.y()), write(v.z()));
}

// A rotation as rpy where that reads back as the same matrix, else as the matrix.
std::string rotation(const Matrix3& r) {
  const Vector3 rpy = rpy_of(r);
  Vector3 read;
  for (Eigen::Index i = 0; i < 3; ++i) read[i] = evaluate(angle(rpy[i]), dimension::angle);
  if ((rotation_from_rpy(read.x(), read.y(), read.z()) - r).cwiseAbs().maxCoeff() < 1e-14)
    return "rpy: " + triple(rpy, angle);
  std::string rows;
  for (Eigen::Index i = 0; i < 3; ++i)
    rows += (i > 0 ? ", " : "") + triple(Vector3(r.row(i)), number);
  return fmt::format("matrix: [{}]", rows);
}

bool is_nil(const Pose& pose) { return pose.position.isZero(0.0) && pose.rotation.isIdentity(0.0); }

std::string text(const Pose& pose) {
  if (pose.rotation.isIdentity(0.0)) return triple(pose.position, length);
  return fmt::format("{{position: {}, {}}}", triple(pose.position, length),
                     rotation(pose.rotation));
}

std::string text(const Colour& c) {
  const auto byte = [](double v) { return static_cast<int>(std::lround(v * 255)); };
  const std::string opacity = c.opacity < 1.0 ? fmt::format("{:02x}", byte(c.opacity)) : "";
  return fmt::format("\"#{:02x}{:02x}{:02x}{}\"", byte(c.red), byte(c.green), byte(c.blue),
                     opacity);
}

// The file that a hull, mesh or cloud was made from.
std::string text_of_source(const FileOrigin& from) {
  std::string out = fmt::format("file: \"{}\", unit: {}", from.file,
                                from.scale.x() == 1.0    ? "m"
                                : from.scale.x() == 1e-3 ? "mm"
                                                         : "cm");
  if (!from.bodies.empty()) out += fmt::format(", bodies: [{}]", fmt::join(from.bodies, ", "));
  if (from.detail > 0.0) out += fmt::format(", detail: {}", length(from.detail));
  return out;
}

std::string text(const Hull& hull) {
  if (!hull.data->origin.file.empty())
    return fmt::format("hull: {{{}}}", text_of_source(hull.data->origin));
  std::vector<std::string> points;
  for (const Vector3& corner : hull.data->corners) points.push_back(triple(corner, length));
  return fmt::format("hull: {{points: [{}]}}", fmt::join(points, ", "));
}

std::string text(const Shape& shape) {
  if (const auto* box = std::get_if<Box>(&shape))
    return fmt::format("box: {{size: {}}}", triple(box->size, length));
  if (const auto* ball = std::get_if<Sphere>(&shape))
    return fmt::format("sphere: {{radius: {}}}", length(ball->radius));
  if (const auto* c = std::get_if<Cylinder>(&shape))
    return fmt::format("cylinder: {{radius: {}, length: {}}}", length(c->radius),
                       length(c->length));
  if (const auto* c = std::get_if<Capsule>(&shape))
    return fmt::format("capsule: {{radius: {}, length: {}}}", length(c->radius), length(c->length));
  if (const auto* c = std::get_if<Cone>(&shape))
    return fmt::format("cone: {{radius: {}, top: {}, length: {}}}", length(c->radius),
                       length(c->top), length(c->length));
  if (std::holds_alternative<HalfSpace>(shape)) return "half_space: {normal: [0, 0, 1]}";
  if (const auto* mesh = std::get_if<Mesh>(&shape))
    return fmt::format("mesh: {{{}{}}}", text_of_source(mesh->data->origin),
                       mesh->data->is_skin ? ", skin: \"yes\"" : "");
  if (const auto* cloud = std::get_if<Cloud>(&shape))
    return fmt::format("cloud: {{{}, radius: {}}}", text_of_source(cloud->data->origin),
                       length(cloud->data->radius));
  return text(std::get<Hull>(shape));
}

// Quotes a text for YAML where it needs it.
std::string quoted(const std::string& raw) {
  const bool plain = !raw.empty() && raw.find_first_of(":#{}[],&*?|<>=!%@\\\"'") == raw.npos &&
                     raw.front() != ' ' && raw.back() != ' ' && raw.front() != '-';
  if (plain) return raw;
  std::string out = "\"";
  for (const char c : raw) {
    if (c == '"' || c == '\\') out += '\\';
    out += c;
  }
  return out + "\"";
}

class CellWriter {
 public:
  Written write(const Cell& cell, ChainForm form) {
    line(0, "elbowroom: cell/1");
    if (!cell.name().empty()) line(0, "name: " + quoted(cell.name()));
    if (!cell.arms().empty()) line(0, "arms:");
    for (const Arm& arm : cell.arms()) write_arm(arm, form);
    write_bodies("fixtures", cell.fixtures());
    write_bodies("pieces", cell.pieces());
    if (!cell.zones().empty()) line(0, "zones:");
    for (const Zone& zone : cell.zones()) {
      line(1, "- name: " + quoted(zone.name));
      if (!is_nil(zone.at)) line(2, "at: " + text(zone.at));
      if (zone.distance > 0.0) line(2, "distance: " + length(zone.distance));
      if (zone.caps_speed())
        line(2, "speed: " + text_of_quantity(zone.speed, per(dimension::length, 1)));
      write_parts(2, zone.parts);
    }
    if (!cell.frames().empty()) line(0, "frames:");
    for (const Frame& frame : cell.frames())
      line(1, fmt::format("- {{name: {}, at: {}}}", quoted(frame.name), text(frame.at)));
    write_contacts(cell, form);
    return {std::move(text_), std::move(lost_)};
  }

 private:
  void line(int depth, const std::string& what) {
    text_ += std::string(static_cast<std::size_t>(2 * depth), ' ') + what + "\n";
  }

  void write_parts(int depth, const std::vector<Part>& parts) {
    line(depth, parts.empty() ? "parts: []" : "parts:");
    for (const Part& part : parts) {
      std::string out = "- {" + text(part.shape);
      if (!is_nil(part.at)) out += ", at: " + text(part.at);
      out += ", colour: " + text(part.colour);
      if (!part.material.empty()) out += ", material: " + quoted(part.material);
      if (!part.texture.empty()) out += ", texture: " + quoted(part.texture);
      if (!part.collides) out += ", for: looks";
      if (!part.looks) out += ", for: collision";
      line(depth + 1, out + "}");
      if (const FileOrigin* from = origin_of(part.shape)) note_scale(*from);
    }
  }

  void note_scale(const FileOrigin& from) {
    const bool even = from.scale.x() == from.scale.y() && from.scale.x() == from.scale.z();
    const bool known = from.scale.x() == 1.0 || from.scale.x() == 1e-3 || from.scale.x() == 1e-2;
    if (!even || !known)
      lost_.push_back({{}, from.file, "the scale of this file", "a file has a unit: m, cm or mm"});
  }

  void write_bodies(const char* key, const std::vector<Body>& bodies) {
    if (!bodies.empty()) line(0, fmt::format("{}:", key));
    for (const Body& body : bodies) {
      line(1, "- name: " + quoted(body.name));
      if (!is_nil(body.at)) line(2, "at: " + text(body.at));
      if (body.mass > 0.0) line(2, "mass: " + text_of_quantity(body.mass, dimension::mass));
      write_parts(2, body.parts);
      if (!body.grasps.empty()) line(2, "grasps:");
      for (const Grasp& grasp : body.grasps)
        line(3, fmt::format("- {{name: {}, tip: {}{}}}", quoted(grasp.name), text(grasp.tip),
                            turn_text(grasp.turn)));
    }
  }

  void write_contacts(const Cell& cell, ChainForm form) {
    std::vector<std::string> lines;
    for (const MeantContact& contact : cell.contacts()) {
      // A table keeps only the links of its rows.
      const auto is_gone = [&](const std::string& name) {
        return form != ChainForm::links && name.find('.') != std::string::npos &&
               known_links_.count(name) == 0;
      };
      if (is_gone(contact.first) || is_gone(contact.second)) {
        lost_.push_back({{},
                         contact.first,
                         "that it may touch " + contact.second,
                         "a table does not have that link"});
      } else {
        lines.push_back(fmt::format("- [{}, {}]", quoted(contact.first), quoted(contact.second)));
      }
    }
    if (!lines.empty()) line(0, "contacts:");
    for (const std::string& one : lines) line(1, one);
  }

  static std::string limits_text(JointKind kind, const JointLimits& limits, double damping,
                                 double friction) {
    const Dimension value = value_dimension(kind);
    const bool slides = kind == JointKind::prismatic;
    std::string out;
    if (std::isfinite(limits.lower) && std::isfinite(limits.upper))
      out += fmt::format(", range: [{}, {}]", text_of_quantity(limits.lower, value),
                         text_of_quantity(limits.upper, value));
    const auto put = [&](const char* key, double v, Dimension dimension) {
      if (std::isfinite(v)) out += fmt::format(", {}: {}", key, text_of_quantity(v, dimension));
    };
    const auto put_ways = [&](const char* key, double either, const std::optional<WayLimits>& ways,
                              Dimension dimension) {
      if (!ways) return put(key, either, dimension);
      out += fmt::format(", {}: [{}, {}]", key, text_of_quantity(ways->low, dimension),
                         text_of_quantity(ways->high, dimension));
    };
    put_ways("velocity", limits.velocity, limits.velocity_ways, per(value, 1));
    put_ways("acceleration", limits.acceleration, limits.acceleration_ways, per(value, 2));
    put("jerk", limits.jerk, per(value, 3));
    put(slides ? "force" : "torque", limits.torque, slides ? dimension::force : dimension::torque);
    if (damping > 0.0)
      out += fmt::format(", damping: {} {}", number(damping), slides ? "N s/m" : "N m s/rad");
    if (friction > 0.0) put("friction", friction, slides ? dimension::force : dimension::torque);
    return out;
  }

  void write_arm(const Arm& arm, ChainForm form) {
    line(1, "- name: " + arm.name());
    if (!is_nil(arm.mount())) line(2, "mount: " + text(arm.mount()));
    if (!(arm.rotations() == RotationOrder{})) line(2, "rotations: " + name_of(arm.rotations()));
    if (!arm.stations().empty()) line(2, "stations:");
    for (const Station& station : arm.stations())
      line(3, fmt::format("{}: {}", station.name, text(station.mount)));
    if (form == ChainForm::links) {
      write_links(arm);
    } else {
      write_dh(arm, form == ChainForm::dh_standard ? DhForm::standard : DhForm::modified);
    }
    if (!arm.stances().empty()) line(2, "stances:");
    for (const Stance& stance : arm.stances()) {
      std::string values;
      for (int k = 0; k < arm.dof(); ++k)
        values += (k > 0 ? ", " : "") +
                  text_of_quantity(stance.posture[k], value_dimension(arm.moving_joint(k).kind));
      line(3, fmt::format("{}: [{}]", stance.name, values));
    }
  }

  void write_links(const Arm& arm) {
    line(2, "links:");
    for (const Link& link : arm.links()) {
      line(3, "- name: " + link.name);
      if (link.parent_index >= 0) {
        const bool after_parent =
            &arm.links()[static_cast<std::size_t>(link.parent_index)] + 1 == &link;
        if (!after_parent) line(4, "parent: " + link.parent);
        write_joint(arm, link);
      }
      if (link.held)
        lost_.push_back({{},
                         arm.name(),
                         "that " + link.name + " is a piece in the hand",
                         "it stands as a link of the arm, and is not checked against the wrist"});
      if (link.inertial.mass > 0.0) write_inertial(link.inertial);
      if (!link.parts.empty()) write_parts(4, link.parts);
    }
    if (!arm.tools().empty()) line(2, "tools:");
    for (const Tool& tool : arm.tools())
      line(3,
           fmt::format("- {{name: {}, link: {}, tip: {}}}", tool.name, tool.link, text(tool.tip)));
  }

  void write_joint(const Arm& arm, const Link& link) {
    const Joint& joint = link.joint;
    std::string out =
        fmt::format("joint: {{name: {}, kind: {}", joint.name,
                    joint.continuous ? "continuous" : std::string(name_of(joint.kind)));
    if (!is_nil(joint.origin)) out += ", at: " + text(joint.origin);
    if (joint.kind != JointKind::fixed) {
      out += ", axis: " + triple(joint.axis, number);
      out += limits_text(joint.kind, joint.limits, joint.damping, joint.friction);
    }
    if (!joint.follow.joint.empty()) {
      out += fmt::format(", follow: {{joint: {}", joint.follow.joint);
      if (joint.follow.ratio != 1.0) out += fmt::format(", ratio: {}", ratio_text(arm, link));
      if (joint.follow.offset != 0.0)
        out += ", offset: " + text_of_quantity(joint.follow.offset, value_dimension(joint.kind));
      out += "}";
    }
    line(4, out + "}");
    if (!joint.part_of.empty())
      lost_.push_back({{},
                       link.name,
                       fmt::format("that joint {} is part of {}", joint.name, joint.part_of),
                       "it stands as a joint of its own"});
  }

  static std::string ratio_text(const Arm& arm, const Link& link) {
    JointKind leader = link.joint.kind;
    for (const Link& other : arm.links())
      if (other.joint.name == link.joint.follow.joint) leader = other.joint.kind;
    const std::string plain = number(link.joint.follow.ratio);
    if (leader == link.joint.kind) return plain;
    return plain + (link.joint.kind == JointKind::prismatic ? " m/rad" : " rad/m");
  }

  void write_inertial(const Inertial& inertial) {
    line(4, "mass: " + text_of_quantity(inertial.mass, dimension::mass));
    line(4, "centre: " + triple(inertial.centre, length));
    const Matrix3& i = inertial.inertia;
    const auto moment = [](double v) { return text_of_quantity(v, dimension::inertia); };
    line(4, fmt::format("inertia: {{xx: {}, yy: {}, zz: {}, xy: {}, xz: {}, yz: {}}}",
                        moment(i(0, 0)), moment(i(1, 1)), moment(i(2, 2)), moment(i(0, 1)),
                        moment(i(0, 2)), moment(i(1, 2))));
  }

  void write_dh(const Arm& arm, DhForm form) {
    const auto lose = [&](std::string what, std::string why) {
      lost_.push_back({{}, arm.name(), std::move(what), std::move(why)});
    };
    Tool tool = arm.end_tool();
    if (arm.tools().empty()) tool.name = "tip";  // a table names one
    const DhTable table = dh_table_of(arm, tool, form).value();
    line(2, "dh:");
    line(3, fmt::format("form: {}", name_of(form)));
    line(3, "base_link: " + table.base_link);
    known_links_.insert(arm.name() + "." + table.base_link);
    for (const DhRow& row : table.rows) known_links_.insert(arm.name() + "." + row.link);
    if (!is_nil(table.base)) line(3, "base: " + text(table.base));
    line(3, "rows:");
    for (const DhRow& row : table.rows) {
      std::string out = fmt::format(
          "- {{joint: {}, link: {}, kind: {}, theta: {}, d: {}, a: {}, alpha: {}", row.joint,
          row.link, row.continuous ? "continuous" : std::string(name_of(row.kind)),
          angle(row.theta), length(row.d), length(row.a), angle(row.alpha));
      line(4, out + limits_text(row.kind, row.limits, row.damping, row.friction) + "}");
    }
    line(3, "tool: " + tool.name);
    line(3, "end: " + text(table.end));
    bool parts = false;
    bool mass = false;
    for (const Link& link : arm.links()) {
      parts |= !link.parts.empty();
      mass |= link.inertial.mass > 0.0;
    }
    if (parts) lose("the shapes of its links", "a table has no links to hang them on");
    if (mass) lose("masses", "a table has no links to hang them on");
    if (arm.tools().size() > 1) lose("all tools but the first", "a table ends at one tip");
    if (static_cast<std::size_t>(arm.dof()) > table.rows.size())
      lose("joints that do not move the first tool", "a table is one chain");
  }

  std::string text_;
  std::vector<Note> lost_;
  std::set<std::string> known_links_;  // of tables
};

struct NaturalUnit {
  Dimension dimension;
  const char* natural;
  const char* si;
};

}  // namespace

std::string text_of_quantity(double si, Dimension dimension) {
  static const std::array kUnits{
      NaturalUnit{dimension::length, "mm", "m"},
      NaturalUnit{per(dimension::length, 1), "mm/s", "m/s"},
      NaturalUnit{per(dimension::length, 2), "mm/s^2", "m/s^2"},
      NaturalUnit{per(dimension::length, 3), "mm/s^3", "m/s^3"},
      NaturalUnit{dimension::angle, "deg", "rad"},
      NaturalUnit{per(dimension::angle, 1), "deg/s", "rad/s"},
      NaturalUnit{per(dimension::angle, 2), "deg/s^2", "rad/s^2"},
      NaturalUnit{per(dimension::angle, 3), "deg/s^3", "rad/s^3"},
      NaturalUnit{dimension::mass, "kg", "kg"},
      NaturalUnit{dimension::force, "N", "N"},
      NaturalUnit{dimension::torque, "N m", "N m"},
      NaturalUnit{dimension::inertia, "kg m^2", "kg m^2"},
  };
  if (si == 0.0) return "0";
  for (const NaturalUnit& unit : kUnits) {
    if (!(unit.dimension == dimension)) continue;
    // Round to what a person would write, when that still reads back as the very same number.
    const double in_unit_value = si / in_unit(1.0, unit.natural).si;
    for (const int digits : {6, 9, 12, 15, 17}) {
      const std::string text = fmt::format("{:.{}g} {}", in_unit_value, digits, unit.natural);
      if (evaluate(text, dimension) == si) return text;
    }
    return fmt::format("{} {}", si, unit.si);
  }
  return fmt::format("{}", si);
}

Written cell_file_of(const Cell& cell, ChainForm form) { return CellWriter().write(cell, form); }

}  // namespace er
