#include "elbowroom/kinematics/comparison.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/base/random.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

// The line of a joint's axis at zero posture, from the base link.
struct AxisLine {
  Vector3 point;
  Vector3 direction;
};

std::vector<AxisLine> axis_lines(const Arm& arm) {
  const auto poses = link_poses(arm.mounted_at({}), Posture::Zero(arm.dof()));
  std::vector<AxisLine> lines;
  for (int k = 0; k < arm.dof(); ++k) {
    const Pose& pose = poses[static_cast<std::size_t>(arm.moving_link(k))];
    lines.push_back({pose.position, pose.rotation * arm.moving_joint(k).axis});
  }
  return lines;
}

class Comparer {
 public:
  Comparer(const Arm& a, const Arm& b, const ComparisonOptions& options)
      : a_(a.mounted_at({})), b_(b.mounted_at({})), options_(options) {}

  Comparison run() {
    if (a_.dof() != b_.dof()) {
      differ("chain", fmt::format("{} moving joints against {}", a_.dof(), b_.dof()));
      out_.worst_position = out_.worst_angle = std::nan("");
      return std::move(out_);
    }
    compare_joints();
    compare_masses();
    compare_tips();
    return std::move(out_);
  }

 private:
  void differ(std::string subject, std::string text) {
    out_.differences.push_back({std::move(subject), std::move(text)});
  }

  void compare_joints() {
    const auto lines_a = axis_lines(a_);
    const auto lines_b = axis_lines(b_);
    for (int k = 0; k < a_.dof(); ++k) {
      const Joint& ja = a_.moving_joint(k);
      const Joint& jb = b_.moving_joint(k);
      const std::string subject = ja.name == jb.name
                                      ? fmt::format("joint {}", ja.name)
                                      : fmt::format("joint {} ({} there)", ja.name, jb.name);
      if (ja.kind != jb.kind || ja.continuous != jb.continuous) {
        const auto kind = [](const Joint& j) {
          return j.continuous ? "continuous" : std::string(name_of(j.kind));
        };
        differ(subject, fmt::format("{} against {}", kind(ja), kind(jb)));
        continue;
      }
      compare_axis(subject, ja.kind, lines_a[static_cast<std::size_t>(k)],
                   lines_b[static_cast<std::size_t>(k)]);
      compare_limits(subject, ja, k);
    }
  }

  void compare_axis(const std::string& subject, JointKind kind, const AxisLine& la,
                    const AxisLine& lb) {
    const double angle =
        std::atan2(la.direction.cross(lb.direction).norm(), la.direction.dot(lb.direction));
    if (angle > std::numbers::pi - options_.angle) {
      differ(subject, "it counts the other way");
    } else if (angle > options_.angle) {
      differ(subject, fmt::format("its axis is tilted by {:.4f} deg", to_deg(angle)));
    }
    if (kind == JointKind::prismatic) return;  // where its axis lies makes no difference
    const Vector3 apart = lb.point - la.point;
    const double off = (apart - apart.dot(la.direction) * la.direction).norm();
    if (off > options_.length)
      differ(subject, fmt::format("its axis lies {:.4f} mm off", to_mm(off)));
  }

  void compare_limits(const std::string& subject, const Joint& joint, int k) {
    const auto check = [&](const char* what, double x, double y, const char* per, bool relative) {
      if (x == y) return;
      const double slack = relative ? options_.share * std::max(std::abs(x), std::abs(y))
                           : joint.kind == JointKind::prismatic ? options_.length
                                                                : options_.angle;
      if (std::isfinite(x) && std::isfinite(y) && std::abs(x - y) <= slack) return;
      const auto text = [&](double v) {
        return std::isfinite(v) ? text_value(joint, v) + per : std::string("not stated");
      };
      differ(subject, fmt::format("{} {} against {}", what, text(x), text(y)));
    };
    const Limits& la = a_.limits();
    const Limits& lb = b_.limits();
    check("lower limit", la.lower[k], lb.lower[k], "", false);
    check("upper limit", la.upper[k], lb.upper[k], "", false);
    const auto check_ways = [&](const char* what, const char* per, const WayLimits& x,
                                const WayLimits& y) {
      const bool alike = x.low == -x.high && y.low == -y.high;
      if (alike) return check(what, x.high, y.high, per, true);
      check(fmt::format("{} going down", what).c_str(), x.low, y.low, per, true);
      check(fmt::format("{} going up", what).c_str(), x.high, y.high, per, true);
    };
    check_ways("velocity", "/s", la.velocity_of(k), lb.velocity_of(k));
    check_ways("acceleration", "/s^2", la.acceleration_of(k), lb.acceleration_of(k));
    check("jerk", la.jerk[k], lb.jerk[k], "/s^3", true);
    const bool slides = joint.kind == JointKind::prismatic;
    const double ta = la.torque[k];
    const double tb = lb.torque[k];
    const bool near = std::isfinite(ta) && std::isfinite(tb) &&
                      std::abs(ta - tb) <= options_.share * std::max(ta, tb);
    const auto text = [&](double v) {
      return std::isfinite(v) ? fmt::format("{:g} {}", v, slides ? "N" : "N m") : "not stated";
    };
    if (ta != tb && !near)
      differ(subject,
             fmt::format("{} {} against {}", slides ? "force" : "torque", text(ta), text(tb)));
  }

  // All that moves with one joint, as one body: fixed links may be cut up differently.
  static Inertial carried_by(const Arm& arm, int moving) {
    Inertial sum;
    const auto poses = link_poses(arm, Posture::Zero(arm.dof()));
    for (std::size_t i = 0; i < arm.links().size(); ++i) {
      int link = static_cast<int>(i);
      while (link > 0 && arm.links()[static_cast<std::size_t>(link)].posture_index < 0)
        link = arm.links()[static_cast<std::size_t>(link)].parent_index;
      const int carrier =
          link == 0 ? -1 : arm.links()[static_cast<std::size_t>(link)].posture_index;
      if (carrier == moving) sum = joined(sum, moved(arm.links()[i].inertial, poses[i]));
    }
    return sum;
  }

  void compare_masses() {
    for (int k = -1; k < a_.dof(); ++k) {
      const Inertial ia = carried_by(a_, k);
      const Inertial ib = carried_by(b_, k);
      const std::string subject =
          k < 0 ? "base" : fmt::format("what joint {} carries", a_.moving_joint(k).name);
      if (std::abs(ia.mass - ib.mass) > options_.share * std::max(ia.mass, ib.mass)) {
        differ(subject, fmt::format("mass {:.6g} kg against {:.6g} kg", ia.mass, ib.mass));
        continue;
      }
      if (const double off = (ia.centre - ib.centre).norm(); off > options_.length)
        differ(subject, fmt::format("its centre of mass lies {:.4f} mm off", to_mm(off)));
      const double size = std::max(ia.inertia.norm(), ib.inertia.norm());
      if ((ia.inertia - ib.inertia).norm() > 1e-6 * size + 1e-15)
        differ(subject, "its moments of inertia are not the same");
    }
  }

  void compare_tips() {
    std::vector<std::pair<Tool, Tool>> pairs;
    for (const Tool& tool : a_.tools())
      for (const Tool& other : b_.tools())
        if (tool.name == other.name) pairs.emplace_back(tool, other);
    if (pairs.empty())
      pairs.emplace_back(
          Tool{.name = "the last link", .link_index = static_cast<int>(a_.links().size()) - 1},
          Tool{.name = "the last link", .link_index = static_cast<int>(b_.links().size()) - 1});
    SpreadSequence postures(finite(a_.search_lower(), -1.0), finite(a_.search_upper(), 1.0));
    for (const auto& [tool, other] : pairs) {
      double position = 0.0;
      double angle = 0.0;
      for (int n = 0; n < options_.postures; ++n) {
        const Posture q = n == 0 ? Posture(Posture::Zero(a_.dof())) : postures.next();
        const Pose pa = tool_pose(a_, tool, q);
        const Pose pb = tool_pose(b_, other, q);
        position = std::max(position, (pa.position - pb.position).norm());
        angle = std::max(angle, rotation_vector(pa.rotation.transpose() * pb.rotation).norm());
      }
      if (position > options_.length || angle > options_.angle)
        differ(tool.name == "the last link" ? tool.name : fmt::format("tool {}", tool.name),
               fmt::format("up to {:.4f} mm and {:.4f} deg apart", to_mm(position), to_deg(angle)));
      out_.worst_position = std::max(out_.worst_position, position);
      out_.worst_angle = std::max(out_.worst_angle, angle);
      out_.tools.push_back(tool.name);
    }
  }

  static Posture finite(Posture bounds, double otherwise) {
    for (Eigen::Index k = 0; k < bounds.size(); ++k)
      if (!std::isfinite(bounds[k])) bounds[k] = otherwise;
    return bounds;
  }

  Arm a_;
  Arm b_;
  ComparisonOptions options_;
  Comparison out_;
};

}  // namespace

Comparison compare(const Arm& a, const Arm& b, const ComparisonOptions& options) {
  return Comparer(a, b, options).run();
}

std::string Comparison::report(const Arm& a, const Arm& b) const {
  if (same())
    return fmt::format(
        "yes: '{}' and '{}' are the same arm; {} at most {:.1e} mm and {:.1e} deg apart\n",
        a.name(), b.name(), fmt::join(tools, ", "), to_mm(worst_position), to_deg(worst_angle));
  std::string text = fmt::format("no: '{}' and '{}' differ in {} thing{}\n", a.name(), b.name(),
                                 differences.size(), differences.size() == 1 ? "" : "s");
  for (const Difference& one : differences)
    text += fmt::format("  {}: {}\n", one.subject, one.text);
  return text;
}

}  // namespace er
