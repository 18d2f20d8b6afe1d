#include "elbowroom/model/denavit_hartenberg.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

constexpr double kNil = 1e-9;  // m or rad; what is nearer to zero than this is zero

Pose screw_x(double a, double alpha) {
  return {rotation_about(Vector3::UnitX(), alpha), a * Vector3::UnitX()};
}
Pose screw_z(double theta, double d) {
  return {rotation_about(Vector3::UnitZ(), theta), d * Vector3::UnitZ()};
}

// Worked-out figures carry rounding in their last digits: 1e-12 m or rad is far below all else.
double tidy(double metres) { return std::round(metres * 1e12) / 1e12 + 0.0; }
double tidy_angle(double radians) {
  // In degrees, so that a right angle is one.
  constexpr double kDegree = std::numbers::pi / 180.0;
  return (std::round(to_deg(radians) * 1e10) / 1e10 + 0.0) * kDegree;
}

struct Line {
  Vector3 point = Vector3::Zero();
  Vector3 direction = Vector3::UnitZ();
};

// The axes of the joints on the way to a link, from the base, at zero posture.
struct Axes {
  std::vector<Line> lines;
  std::vector<const Link*> links;
  Pose tip;
};

Axes axes_to(const Arm& arm, const Tool& tool) {
  Axes axes;
  Pose pose;
  for (const int index : arm.links_to(tool.link_index)) {
    if (index == 0) continue;
    const Link& link = arm.links()[static_cast<std::size_t>(index)];
    pose = pose * pose_at(link.joint, 0.0);
    if (link.posture_index < 0) continue;
    axes.lines.push_back({pose.position, pose.rotation * link.joint.axis});
    axes.links.push_back(&link);
  }
  axes.tip = pose * tool.tip;
  return axes;
}

double signed_angle(const Vector3& from, const Vector3& to, const Vector3& about) {
  return tidy_angle(std::atan2(about.dot(from.cross(to)), from.dot(to)));
}

struct DhFrame {
  Vector3 origin = Vector3::Zero();
  Vector3 x = Vector3::UnitX();
  Vector3 z = Vector3::UnitZ();

  [[nodiscard]] Pose pose() const {
    Pose out;
    out.rotation << x, z.cross(x), z;
    out.position = origin;
    return out;
  }
};

// Frame 0: z along the first axis, at the foot of the base's origin, x as near to the base's as it
// can be.
DhFrame first_frame(const Line& axis) {
  DhFrame frame;
  frame.z = axis.direction;
  frame.origin = axis.point - axis.point.dot(axis.direction) * axis.direction;
  Vector3 x = Vector3::UnitX() - frame.z.x() * frame.z;
  if (x.norm() < 1e-3) x = Vector3::UnitY() - frame.z.y() * frame.z;
  frame.x = x.normalized();
  return frame;
}

// The next frame: x along the common normal from this frame's z to the next line.
DhFrame next_frame(const DhFrame& here, const Line& next, bool is_tip) {
  DhFrame out;
  out.z = next.direction;
  const Vector3 across = here.z.cross(next.direction);
  const Vector3 apart = next.point - here.origin;
  if (across.norm() < kNil) {  // parallel: any common normal does; the tip gets its own point
    const Vector3 normal = apart - apart.dot(here.z) * here.z;
    out.x = normal.norm() < kNil ? here.x : normal.normalized();
    out.origin = is_tip ? next.point : Vector3(here.origin + normal);
    return out;
  }
  const double along_next = apart.cross(here.z).dot(across) / across.squaredNorm();
  out.origin = next.point + along_next * next.direction;
  const double along_here = apart.cross(next.direction).dot(across) / across.squaredNorm();
  const Vector3 normal = out.origin - (here.origin + along_here * here.z);
  if (normal.norm() > kNil) {
    out.x = (normal - normal.dot(next.direction) * next.direction).normalized();
  } else {
    out.x = across.normalized();
    if (out.x.dot(here.x) < -kNil) out.x = -out.x;
  }
  return out;
}

DhRow row_between(const DhFrame& from, const DhFrame& to) {
  DhRow row;
  row.theta = signed_angle(from.x, to.x, from.z);
  row.alpha = signed_angle(from.z, to.z, to.x);
  row.a = tidy((to.origin - from.origin).dot(to.x));
  row.d = tidy((to.origin - from.origin).dot(from.z));
  return row;
}

}  // namespace

std::string_view name_of(DhForm form) { return form == DhForm::standard ? "standard" : "modified"; }

std::vector<Link> links_from(const DhTable& table) {
  std::vector<Link> links{{.name = table.base_link}};
  Pose stretch = table.base;  // from the last link's frame to where the row begins
  for (std::size_t i = 0; i < table.rows.size(); ++i) {
    const DhRow& row = table.rows[i];
    Link link;
    link.name = row.link.empty() ? fmt::format("link_{}", i + 1) : row.link;
    link.joint.name = row.joint;
    link.joint.kind = row.kind;
    link.joint.limits = row.limits;
    link.joint.continuous = row.continuous;
    link.joint.damping = row.damping;
    link.joint.friction = row.friction;
    if (table.form == DhForm::modified) stretch = stretch * screw_x(row.a, row.alpha);
    link.joint.origin = stretch * screw_z(row.theta, row.d);
    set_zero_and_sense(link.joint, 0.0, row.reversed);
    links.push_back(std::move(link));
    stretch = table.form == DhForm::standard ? screw_x(row.a, row.alpha) : Pose{};
  }
  const bool has_stretch = stretch.position.norm() > 0.0 || !stretch.rotation.isIdentity(0.0);
  if (!table.rows.empty() && table.form == DhForm::standard && has_stretch) {
    Link flange{.name = "flange"};
    flange.joint.origin = stretch;
    links.push_back(std::move(flange));
  }
  return links;
}

Verdict<DhTable> dh_table_of(const Arm& arm, const Tool& tool, DhForm form) {
  const Axes axes = axes_to(arm, tool);
  if (axes.lines.empty())
    return Reason{Cause::not_sayable,
                  fmt::format("no: no joint moves tool '{}', so there is no table", tool.name)};
  for (const Link* link : axes.links)
    if (!link->joint.follow.joint.empty())
      return Reason{Cause::not_sayable,
                    fmt::format("no: joint {} follows joint {}, which a Denavit-Hartenberg table "
                                "cannot say",
                                link->joint.name, link->joint.follow.joint)};
  DhTable table;
  table.form = form;
  table.base_link = arm.links().front().name;
  DhFrame frame = first_frame(axes.lines.front());
  table.base = frame.pose();
  for (std::size_t i = 0; i < axes.lines.size(); ++i) {
    const bool last = i + 1 == axes.lines.size();
    const Line tip{axes.tip.position, axes.tip.rotation.col(2)};
    const DhFrame next = next_frame(frame, last ? tip : axes.lines[i + 1], last);
    DhRow row = row_between(frame, next);
    const Link& link = *axes.links[i];
    row.kind = link.joint.kind;
    row.limits = link.joint.limits;
    row.continuous = link.joint.continuous;
    row.damping = link.joint.damping;
    row.friction = link.joint.friction;
    row.joint = link.joint.name;
    row.link = link.name;
    table.rows.push_back(row);
    frame = next;
  }
  table.end = frame.pose().inverse() * axes.tip;
  if (form == DhForm::modified) {  // a and alpha of each row move down by one
    table.end = screw_x(table.rows.back().a, table.rows.back().alpha) * table.end;
    for (std::size_t i = table.rows.size(); i-- > 0;) {
      table.rows[i].a = i == 0 ? 0.0 : table.rows[i - 1].a;
      table.rows[i].alpha = i == 0 ? 0.0 : table.rows[i - 1].alpha;
    }
  }
  return table;
}

std::string text_of(const DhTable& table) {
  const bool standard = table.form == DhForm::standard;
  Table text({"<joint", "<kind", "theta deg", "d mm", standard ? "a mm" : "a before mm",
              standard ? "alpha deg" : "alpha before deg", "<moves"});
  for (const DhRow& row : table.rows) {
    const bool slides = row.kind == JointKind::prismatic;
    text.row({row.joint, std::string(name_of(row.kind)),
              fmt::format("{:.3f}", to_deg(row.theta) + 0.0),
              fmt::format("{:.3f}", to_mm(row.d) + 0.0), fmt::format("{:.3f}", to_mm(row.a) + 0.0),
              fmt::format("{:.3f}", to_deg(row.alpha) + 0.0),
              fmt::format("{} {} q", slides ? "d" : "theta", row.reversed ? "-" : "+")});
  }
  const auto pose = [](const Pose& p) {
    const Vector3 mm = p.position * 1e3;
    const Vector3 rpy = rpy_of(p.rotation) * to_deg(1.0);
    return fmt::format("[{:.3f}, {:.3f}, {:.3f}] mm, rpy [{:.3f}, {:.3f}, {:.3f}] deg",
                       mm.x() + 0.0, mm.y() + 0.0, mm.z() + 0.0, rpy.x() + 0.0, rpy.y() + 0.0,
                       rpy.z() + 0.0);
  };
  return text.text() + fmt::format("  frame 0 in the base: {}\n  tip in the last frame: {}\n",
                                   pose(table.base), pose(table.end));
}

}  // namespace er
