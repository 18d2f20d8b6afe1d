#include "elbowroom/files/kinematics_code.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <iomanip>
#include <map>
#include <optional>
#include <set>
#include <sstream>

#include "elbowroom/files/code_vector.hpp"

namespace er {
namespace {

constexpr const char* kOpening =
    R"(// Forward kinematics of the arm {arm}, written out by elbowroom for this arm alone.
//
// It needs no library: C++17 by GCC (12 or later) or Clang. It computes in vectors of four doubles, so
// -O2 -mavx2 -mfma make it quicker where the processor has these; -ffast-math would make it wrong. It
// allocates nothing and takes the same time for any posture.
//
// Metres and radians, in the world: the arm's mount and every dimension are written in, so write it
// anew when these change. Exact to a few roundings (1e-15 of the arm's size) as long as no joint is
// turned by more than a million radians. It knows no limits.
#pragma once

#include <array>
#include <cstdint>
#include <cstring>

#ifdef __FAST_MATH__
#error "compile this file without -ffast-math: its sines need every rounding where it is"
#endif

namespace {space} {{

constexpr int kJoints = {joints};
/// In the order of a posture{units}.
constexpr std::array<const char*, kJoints> kJointNames = {{{joint_names}}};
constexpr int kLinks = {links};
constexpr std::array<const char*, kLinks> kLinkNames = {{{link_names}}};

/// The pose of a frame in the world as a matrix of 4 x 4, column after column: its x axis, y axis and
/// z axis, each with a 0 behind it, and its origin with a 1.
struct Frame {{
  double matrix[16];
}};

)";

// The sine and cosine are those of base/lanes-inl.hpp.
constexpr const char* kLanes = R"(namespace lanes {

typedef double Four __attribute__((vector_size(32)));
typedef std::int64_t Bits __attribute__((vector_size(32)));

// Reduced by quarter turns (pi/2 in three parts of 33 bits), then the polynomials of Sun's library.
inline void sines_and_cosines(const Four& angle, Four& sine, Four& cosine) {
  // A double this large has no fraction: adding it rounds, and leaves the whole number in its last bits.
  const double large = 0x1.8p52;
  const Four shifted = angle * 6.36619772367581382433e-01 + large;
  const Four k = shifted - large;
  Four r = angle - k * 1.57079632673412561417e+00;
  r = r - k * 6.07710050630396597660e-11;
  r = r - k * 2.02226624879595063154e-21;
  const Four z = r * r;
  const Four zz = z * z;
  const Four p0 = 8.33333333332248946124e-03 * z - 1.66666666666666324348e-01;
  const Four p1 = 2.75573137070700676789e-06 * z - 1.98412698298579493134e-04;
  const Four p2 = 1.58969099521155010221e-10 * z - 2.50507602534068634195e-08;
  const Four s = r + (r * z) * (p0 + zz * (p1 + zz * p2));
  const Four q0 = 4.16666666666666019037e-02 - 1.38888888888741095749e-03 * z;
  const Four q1 = 2.48015872894767294178e-05 - 2.75573143513906633035e-07 * z;
  const Four q2 = 2.08757232129817482790e-09 - 1.13596475577881948265e-11 * z;
  const Four q = q0 + zz * (q1 + zz * q2);
  const Four half = 0.5 * z;
  const Four w = 1.0 - half;
  const Four c = w + (((1.0 - w) - half) + zz * q);
  // The quadrant is k mod 4: its lowest bit exchanges the two, the next one is the sine's sign, and
  // that of k + 1 the cosine's.
  const Bits quadrant = reinterpret_cast<Bits>(shifted);
  const Bits exchanged = -(quadrant & 1);
  const Bits sign = {INT64_MIN, INT64_MIN, INT64_MIN, INT64_MIN};
  const Bits s_bits = reinterpret_cast<Bits>(s);
  const Bits c_bits = reinterpret_cast<Bits>(c);
  const Bits sine_bits =
      ((s_bits & ~exchanged) | (c_bits & exchanged)) ^ ((quadrant << 62) & sign);
  const Bits cosine_bits =
      ((c_bits & ~exchanged) | (s_bits & exchanged)) ^ (((quadrant + 1) << 62) & sign);
  sine = reinterpret_cast<Four>(sine_bits);
  cosine = reinterpret_cast<Four>(cosine_bits);
}

inline void cross(const Four& a, const Four& b, Four& out) {
  const Four a_yzx = __builtin_shufflevector(a, a, 1, 2, 0, 3);
  const Four b_yzx = __builtin_shufflevector(b, b, 1, 2, 0, 3);
  const Four zxy = a * b_yzx - a_yzx * b;
  out = __builtin_shufflevector(zxy, zxy, 1, 2, 0, 3);
}

inline void store(const Four& x, const Four& y, const Four& z, const Four& origin, Frame& out) {
  std::memcpy(out.matrix, &x, sizeof x);
  std::memcpy(out.matrix + 4, &y, sizeof y);
  std::memcpy(out.matrix + 8, &z, sizeof z);
  std::memcpy(out.matrix + 12, &origin, sizeof origin);
}

// Three numbers and, where another column comes, one too many, which that column overwrites.
inline void store(const Four& v, double* out) { std::memcpy(out, &v, sizeof v); }
inline void store_last(const Four& v, double* out) { std::memcpy(out, &v, 3 * sizeof(double)); }

}  // namespace lanes
using lanes::Four;

)";

// As part of a name in C++.
std::string identifier(const std::string& name, const char* kind) {
  std::string out;
  for (const char c : name) out += std::isalnum(static_cast<unsigned char>(c)) != 0 ? c : '_';
  if (out.empty() || std::isdigit(static_cast<unsigned char>(out[0])) != 0)
    out = fmt::format("{}_{}", kind, out);
  return out;
}

std::string quoted(const std::string& name) {
  std::ostringstream out;
  out << std::quoted(name);
  return out.str();
}

void store_frame(const CodeFrame& frame, const std::string& to, CodeLines& lines) {
  lines.add(fmt::format("lanes::store({}, {}, {}, {}, {});", frame.axis[0].text(),
                        frame.axis[1].text(), frame.axis[2].text(), frame.position.text(), to));
}

// The frames of some links of an arm, as code.
class LinksInCode {
 public:
  // Those on the way to one link, or (-1) all.
  LinksInCode(const Arm& arm, int to, CodeLines& lines)
      : arm_(arm), frames_(arm.links().size()), lines_(lines) {
    std::vector<int> wanted;
    for (int l = 0; l < static_cast<int>(frames_.size()); ++l) wanted.push_back(l);
    if (to >= 0) wanted = arm.links_to(to);
    work_out_sines(wanted);
    for (const int l : wanted) walk(static_cast<std::size_t>(l));
  }

  [[nodiscard]] const CodeFrame& frame(int link) const {
    return *frames_[static_cast<std::size_t>(link)];
  }

 private:
  // "1.5 * posture[2] + 0.1"
  static std::string value_text(const Link& link) {
    std::string out = fmt::format("posture[{}]", link.posture_index);
    if (link.posture_ratio != 1.0)
      out = fmt::format("{} * {}", code_literal(link.posture_ratio), out);
    if (link.posture_offset != 0.0)
      out += fmt::format(" {} {}", link.posture_offset < 0.0 ? '-' : '+',
                         code_literal(std::abs(link.posture_offset)));
    return out;
  }

  // Four joints that turn at a time.
  void work_out_sines(const std::vector<int>& wanted) {
    std::vector<std::string> angles;
    for (const int l : wanted) {
      const Link& link = arm_.links()[static_cast<std::size_t>(l)];
      if (link.posture_index < 0 || link.joint.kind != JointKind::revolute) continue;
      turn_number_[l] = angles.size();
      angles.push_back(value_text(link));
    }
    for (std::size_t i = 0; i < angles.size(); i += 4) {
      angles.resize(std::max(angles.size(), i + 4), code_literal(0.0));
      const std::size_t k = i / 4;
      lines_.add(fmt::format("Four s{0};\n  Four c{0};", k));
      lines_.add(fmt::format("lanes::sines_and_cosines(Four{{{}, {}, {}, {}}}, s{}, c{});",
                             angles[i], angles[i + 1], angles[i + 2], angles[i + 3], k, k));
    }
  }

  void walk(std::size_t l) {
    const Link& link = arm_.links()[l];
    const CodeFrame before =
        link.parent_index < 0 ? CodeFrame::of(arm_.mount()) : frame(link.parent_index);
    CodeFrame here = before.moved_by(link.joint.origin, lines_);
    if (link.posture_index >= 0 && link.joint.kind == JointKind::revolute) {
      const std::size_t number = turn_number_.at(static_cast<int>(l));
      const auto scalar = [&](char of) {
        return fmt::format("{}{}[{}]", of, number / 4, number % 4);
      };
      here = here.turned(link.joint.axis, scalar('c'), scalar('s'), lines_);
    } else if (link.posture_index >= 0) {
      const std::string by = fmt::format("by{}", l);
      lines_.add(fmt::format("const double {} = {};", by, value_text(link)));
      here = here.slid(link.joint.axis, by, lines_);
    }
    frames_[l] = here;
  }

  const Arm& arm_;
  std::vector<std::optional<CodeFrame>> frames_;
  std::map<int, std::size_t> turn_number_;  // of the links that turn
  CodeLines& lines_;
};

// Column after column, each joint's velocity and turning of the tip.
void store_jacobian(const Arm& arm, const Tool& tool, const LinksInCode& links,
                    const CodeFrame& tip, CodeLines& lines) {
  std::vector<std::vector<CodeTerm>> velocity(static_cast<std::size_t>(arm.dof()));
  std::vector<std::vector<CodeTerm>> turning = velocity;
  for (const int l : arm.links_to(tool.link_index)) {
    const Link& link = arm.links()[static_cast<std::size_t>(l)];
    if (link.posture_index < 0) continue;
    const auto column = static_cast<std::size_t>(link.posture_index);
    const CodeVector axis = links.frame(l).direction(link.joint.axis, lines);
    if (link.joint.kind == JointKind::revolute) {
      const CodeVector to_tip = lines.sum(
          {{.vector = tip.position}, {.number = -1.0, .vector = links.frame(l).position}});
      velocity[column].push_back(
          {.number = link.posture_ratio, .vector = lines.cross(axis, to_tip)});
      turning[column].push_back({.number = link.posture_ratio, .vector = axis});
    } else {
      velocity[column].push_back({.number = link.posture_ratio, .vector = axis});
    }
  }
  for (std::size_t column = 0; column < velocity.size(); ++column) {
    const bool last = column + 1 == velocity.size();
    lines.add(fmt::format("lanes::store({}, jacobian + {});", lines.sum(velocity[column]).text(),
                          6 * column));
    lines.add(fmt::format("lanes::store{}({}, jacobian + {});", last ? "_last" : "",
                          lines.sum(turning[column]).text(), 6 * column + 3));
  }
}

// What one function works out.
struct Asked {
  bool links = false;  // all of them
  const Tool* tool = nullptr;
  bool jacobian = false;
};

CodeLines body_of(const Arm& arm, const Asked& asked) {
  CodeLines lines;
  const LinksInCode links(arm, asked.links ? -1 : asked.tool->link_index, lines);
  for (int l = 0; asked.links && l < static_cast<int>(arm.links().size()); ++l)
    store_frame(links.frame(l), fmt::format("frames[{}]", l), lines);
  if (asked.tool == nullptr) return lines;
  const CodeFrame tip = links.frame(asked.tool->link_index).moved_by(asked.tool->tip, lines);
  store_frame(tip, "tip", lines);
  if (asked.jacobian) store_jacobian(arm, *asked.tool, links, tip, lines);
  return lines;
}

std::string function(const std::string& comment, const std::string& name,
                     const std::string& results, const CodeLines& body) {
  return fmt::format(
      "/// {}\ninline void {}([[maybe_unused]] const double* posture, {}) {{\n{}}}\n\n", comment,
      name, results, body.text());
}

std::string link_frames_function(const Arm& arm) {
  return function("All links. `posture` holds kJoints numbers, `frames` kLinks.", "link_frames",
                  "Frame* frames", body_of(arm, {.links = true}));
}

std::string tool_functions(const Arm& arm, const Tool& tool, const std::string& name) {
  const std::string of_jacobian = "Frame& tip,\n    [[maybe_unused]] double* jacobian";
  return function(fmt::format("The tip of {}.", tool.name), name + "_frame", "Frame& tip",
                  body_of(arm, {.tool = &tool})) +
         function(
             fmt::format("The tip of {}, and its Jacobian, 6 x kJoints, column after column: "
                         "for one unit a second\n/// of a joint's, the velocity of the tip (3), "
                         "then how fast it turns (3), in the world's axes.",
                         tool.name),
             name + "_jacobian", of_jacobian, body_of(arm, {.tool = &tool, .jacobian = true})) +
         function("All links, the tip and its Jacobian in one walk.", name + "_jacobian",
                  "Frame* frames, " + of_jacobian,
                  body_of(arm, {.links = true, .tool = &tool, .jacobian = true}));
}

}  // namespace

Written kinematics_code_of(const Arm& arm) {
  std::vector<std::string> joint_names;
  std::string slides;
  for (int k = 0; k < arm.dof(); ++k) {
    const Joint& joint = arm.moving_joint(k);
    joint_names.push_back(quoted(joint.name));
    if (joint.kind == JointKind::prismatic) slides += (slides.empty() ? "" : ", ") + joint.name;
  }
  std::vector<std::string> link_names;
  for (const Link& link : arm.links()) link_names.push_back(quoted(link.name));
  const std::string space = identifier(arm.name(), "arm") + "_kinematics";
  std::string text = fmt::format(
      kOpening, fmt::arg("arm", arm.name()), fmt::arg("space", space),
      fmt::arg("joints", arm.dof()), fmt::arg("joint_names", fmt::join(joint_names, ", ")),
      fmt::arg("units", slides.empty() ? " (rad)" : fmt::format(" (rad; {}: m)", slides)),
      fmt::arg("links", arm.links().size()), fmt::arg("link_names", fmt::join(link_names, ", ")));
  text += kLanes + link_frames_function(arm);

  std::vector<Tool> tools = arm.tools();
  if (tools.empty()) tools.push_back(arm.end_tool());
  std::set<std::string> taken;
  for (const Tool& tool : tools) {
    std::string name = identifier(tool.name, "tool");
    while (!taken.insert(name).second) name += '_';
    text += tool_functions(arm, tool, name);
  }
  text += fmt::format("}}  // namespace {}\n", space);
  return {text,
          {{.subject = "limits, masses, shapes and stances",
            .text = "only what places frames is written",
            .advice = "ask the library, or keep the cell file beside it"}}};
}

}  // namespace er
