#include "elbowroom/collision/findings.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/base/quantile.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/checked_pairs.hpp"
#include "elbowroom/collision/distance.hpp"
#include "elbowroom/collision/mesh_order.hpp"
#include "elbowroom/collision/point_distance.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

using std::numbers::pi;

// True when a number of degrees is what radians look like that nobody converted: 3.1416 deg.
bool looks_like_radians(double radians) {
  const double degrees = std::abs(to_deg(radians));
  for (const double usual :
       {pi / 6, pi / 4, pi / 3, pi / 2, 2 * pi / 3, 3 * pi / 4, 5 * pi / 6, pi, 1.5 * pi, 2 * pi})
    if (std::abs(degrees - usual) < 0.006) return true;
  return false;
}

class Checker {
 public:
  Checker(const Cell& cell, const Arm& arm)
      : cell_(cell), arm_(arm), zero_(link_poses(arm, Posture::Zero(arm.dof()))) {}

  std::vector<Finding> run() {
    for (std::size_t i = 1; i < arm_.links().size(); ++i)
      if (arm_.links()[i].posture_index >= 0) check_joint(arm_.links()[i]);
    check_against_the_rest();
    check_axes();
    for (std::size_t i = 0; i < arm_.links().size(); ++i) check_link(i);
    check_mesh_order();
    check_overlaps_at_zero();
    check_tools();
    return std::move(findings_);
  }

 private:
  void find(Severity severity, const std::string& subject, std::string text, std::string advice,
            const Place& place) {
    findings_.push_back(
        {severity, arm_.name() + subject, std::move(text), std::move(advice), place});
  }

  // ---- limits

  void check_joint(const Link& link) {
    const Joint& joint = link.joint;
    const std::string subject = fmt::format(", joint {}", joint.name);
    const JointLimits& limits = joint.limits;
    const bool follows = !joint.follow.joint.empty();
    const auto missing = [&](const char* key, const char* verbs) {
      find(Severity::missing, subject, fmt::format("no {} is stated", key),
           fmt::format("{} cannot do without; add {}:", verbs, key), link.place);
    };
    if (!follows) {
      if (!joint.continuous && (!std::isfinite(limits.lower) || !std::isfinite(limits.upper)))
        missing("range", "reach, route and survey");
      if (!std::isfinite(limits.velocity)) missing("velocity", "pace and rehearse");
      if (!std::isfinite(limits.acceleration)) missing("acceleration", "pace and rehearse");
    }
    if (limits.lower == limits.upper)
      find(Severity::odd, subject, "its two limits are the same, so it cannot move",
           "widen the range, or make it a fixed joint", link.place);
    if (joint.kind == JointKind::prismatic) {
      check_slide(subject, limits, link.place);
    } else {
      check_turn(subject, limits, link.place);
    }
  }

  void check_slide(const std::string& subject, const JointLimits& limits, const Place& place) {
    const double range = limits.upper - limits.lower;
    if (std::isfinite(range) && range > 20.0)
      find(Severity::odd, subject, fmt::format("it slides over {:.0f} m", range),
           "check the unit: 300 m is a street, 300 mm a lift", place);
    if (std::isfinite(limits.velocity) && limits.velocity > 20.0)
      find(Severity::odd, subject, fmt::format("its speed limit is {:.0f} m/s", limits.velocity),
           "check the unit: mm/s may be meant", place);
  }

  void check_turn(const std::string& subject, const JointLimits& limits, const Place& place) {
    const double range = limits.upper - limits.lower;
    if (std::isfinite(range) && range > 8.0 * pi)
      find(Severity::odd, subject, fmt::format("the range spans {:.1f} turns", range / (2 * pi)),
           "check the unit: 90 rad is 14 turns, 90 deg a quarter", place);
    if (std::isfinite(range) && range < to_rad(14.0) &&
        (looks_like_radians(limits.lower) || looks_like_radians(limits.upper)))
      find(Severity::odd, subject,
           fmt::format("the range is {} to {}", text_angle(limits.lower), text_angle(limits.upper)),
           "check the unit: these figures look like radians", place);
    if (std::isfinite(limits.velocity) && limits.velocity > 10.0 * pi)
      find(Severity::odd, subject,
           fmt::format("the speed limit is {:.0f} deg/s", to_deg(limits.velocity)),
           "check the unit: few arms turn a joint five times a second", place);
  }

  // A figure in a wrong unit stands out from those of the same arm.
  void check_against_the_rest() {
    std::vector<double> offsets;
    std::vector<double> speeds;
    for (const Link& link : arm_.links()) {
      const double offset = link.joint.origin.position.norm();
      if (link.parent_index >= 0 && offset > 0.0) offsets.push_back(offset);
      const double speed = link.joint.limits.velocity;
      if (link.joint.kind == JointKind::revolute && std::isfinite(speed)) speeds.push_back(speed);
    }
    if (offsets.size() < 3 && speeds.size() < 3) return;
    const double usual_offset = offsets.empty() ? 0.0 : median(offsets);
    const double usual_speed = speeds.empty() ? 0.0 : median(speeds);
    for (const Link& link : arm_.links()) {
      const double offset = link.joint.origin.position.norm();
      if (link.parent_index >= 0 && offsets.size() >= 3 && offset > 20.0 * usual_offset &&
          offset > 1.0)
        find(Severity::odd, "." + link.name,
             fmt::format("its joint is {} from the one before, {:.0f} times as far as is usual in "
                         "this arm",
                         text_length(offset), offset / usual_offset),
             "check the unit of at:, mm or m", link.place);
      const double speed = link.joint.limits.velocity;
      if (link.joint.kind == JointKind::revolute && speeds.size() >= 3 &&
          speed < 0.05 * usual_speed)
        find(Severity::odd, fmt::format(", joint {}", link.joint.name),
             fmt::format("the speed limit is {:.1f} deg/s, that of others {:.0f} deg/s",
                         to_deg(speed), to_deg(usual_speed)),
             "check the unit: rad/s may be meant", link.place);
    }
  }

  static double to_rad(double degrees) { return degrees * pi / 180.0; }

  // ---- axes

  struct Axis {
    const Link* link;
    Vector3 point;
    Vector3 direction;
  };

  // The joints that turn, on the way to the first tool or the last link, at zero posture.
  [[nodiscard]] std::vector<Axis> turning_axes() const {
    std::vector<Axis> axes;
    for (const int link : arm_.links_to(arm_.end_link())) {
      const Link& here = arm_.links()[static_cast<std::size_t>(link)];
      if (here.posture_index < 0 || here.joint.kind != JointKind::revolute) continue;
      const Pose& pose = zero_[static_cast<std::size_t>(link)];
      axes.push_back({&here, pose.position, pose.rotation * here.joint.axis});
    }
    return axes;
  }

  void check_axes() {
    const std::vector<Axis> axes = turning_axes();
    for (std::size_t i = 1; i < axes.size(); ++i) {
      const Axis& a = axes[i - 1];
      const Axis& b = axes[i];
      if (a.direction.cross(b.direction).norm() > 1e-6) continue;
      const Vector3 apart = b.point - a.point;
      const double off = (apart - apart.dot(a.direction) * a.direction).norm();
      const std::string subject = fmt::format(", joint {}", b.link->joint.name);
      if (off < 1e-6) {
        find(Severity::odd, subject,
             fmt::format("it turns about the same line as joint {}, so one of the two adds nothing",
                         a.link->joint.name),
             "a joint copied from its neighbour needs its own axis: and at:", b.link->place);
      } else if (axes.size() >= 6 && i + 2 >= axes.size()) {
        find(Severity::odd, subject,
             fmt::format("its axis is parallel to that of joint {}; in a wrist the axes cross",
                         a.link->joint.name),
             "check axis: and the rotation in at:", b.link->place);
      }
    }
  }

  // ---- shapes and masses

  [[nodiscard]] std::vector<int> children_of(std::size_t link) const {
    std::vector<int> children;
    for (std::size_t k = 0; k < arm_.links().size(); ++k)
      if (arm_.links()[k].parent_index == static_cast<int>(link))
        children.push_back(static_cast<int>(k));
    return children;
  }

  // True when this link or one that hangs on it has a shape or a tool.
  [[nodiscard]] bool moves_something(std::size_t link) const {
    const Link& here = arm_.links()[link];
    if (!here.parts.empty()) return true;
    for (const Tool& tool : arm_.tools())
      if (tool.link_index == static_cast<int>(link)) return true;
    const auto children = children_of(link);
    return std::any_of(children.begin(), children.end(),
                       [&](int k) { return moves_something(static_cast<std::size_t>(k)); });
  }

  void check_link(std::size_t index) {
    const Link& link = arm_.links()[index];
    const std::string subject = "." + link.name;
    const bool collides =
        std::any_of(link.parts.begin(), link.parts.end(), [](const Part& p) { return p.collides; });
    if (link.posture_index >= 0 && !moves_something(index)) {
      find(Severity::odd, fmt::format(", joint {}", link.joint.name),
           "nothing moves when it moves: neither its link nor any after it has a shape or a tool",
           "hang the shapes on the link that this joint carries", link.place);
    } else if (!collides) {
      find(Severity::odd, subject, "it has no parts that count for collisions",
           "nothing can be said about what it hits; give it a shape", link.place);
    }
    check_parts_are_near(index, subject);
    check_mass(link, subject);
  }

  // A shape should lie along the stretch from its own joint to the next ones.
  void check_parts_are_near(std::size_t index, const std::string& subject) {
    const Link& link = arm_.links()[index];
    std::vector<Vector3> ends{Vector3::Zero()};
    for (const int child : children_of(index))
      ends.push_back(arm_.links()[static_cast<std::size_t>(child)].joint.origin.position);
    for (const Tool& tool : arm_.tools())
      if (tool.link_index == static_cast<int>(index)) ends.push_back(tool.tip.position);
    double length = 0.0;
    for (const Vector3& end : ends) length = std::max(length, end.norm());
    for (const Part& part : link.parts) {
      double nearest = std::numeric_limits<double>::infinity();
      for (const Vector3& end : ends)
        nearest = std::min(nearest, segment_distance(Vector3::Zero(), end, part.at.position));
      const double gap = nearest - bounding_radius(part.shape);
      if (gap > std::max(0.15, length))
        find(Severity::odd, subject,
             fmt::format("its {} lies {:.0f} mm away from it", name_of(part.shape), to_mm(gap)),
             "shapes are placed from the link's own joint: check at:, and the unit", link.place);
    }
  }

  void check_mesh_order() {
    const std::optional<MeshOrder> order = better_mesh_order(arm_);
    if (!order) return;
    std::string moves;
    const Link* first = nullptr;
    for (std::size_t l = 0; l < order->fits.size(); ++l) {
      const int fits = order->fits[l];
      if (fits < 0 || fits == static_cast<int>(l)) continue;
      if (first == nullptr) first = &arm_.links()[l];
      moves += fmt::format("{}those of {} fit {}", moves.empty() ? "" : ", ", arm_.links()[l].name,
                           arm_.links()[static_cast<std::size_t>(fits)].name);
    }
    find(Severity::wrong, "",
         fmt::format("its shapes from files lie {:.0f} mm, all together, from the joints of their "
                     "links, and would lie {:.0f} mm in another order: {}",
                     to_mm(order->now), to_mm(order->then), moves),
         "give each link the file that fits it", first->place);
  }

  void check_mass(const Link& link, const std::string& subject) {
    if (const std::string fault = fault_of(link.inertial); !fault.empty())
      find(Severity::wrong, subject, "no body has this inertia: " + fault,
           "check mass and inertia:, and that they are about the centre of mass", link.place);
    if (!(link.inertial.mass > 0.0) || link.parts.empty()) return;
    Vector3 low = Vector3::Constant(std::numeric_limits<double>::infinity());
    Vector3 high = -low;
    for (const Part& part : link.parts) {
      const Vector3 half = half_extent(part.shape, part.at.rotation);
      low = low.cwiseMin(part.at.position - half);
      high = high.cwiseMax(part.at.position + half);
    }
    const Vector3& c = link.inertial.centre;
    const double out = (low - c).cwiseMax(c - high).maxCoeff();
    if (out > 1e-3)
      find(Severity::odd, subject,
           fmt::format("its centre of mass lies {:.0f} mm outside of its shapes", to_mm(out)),
           "check centre:, which is in the link's own frame", link.place);
  }

  void check_overlaps_at_zero() {
    const bool allowed = arm_.limit_breach(Posture::Zero(arm_.dof())).empty();
    if (!allowed) return;  // the arm never stands there
    for (std::size_t a = 0; a < arm_.links().size(); ++a)
      for (std::size_t b = a + 1; b < arm_.links().size(); ++b)
        if (!are_joined(arm_, static_cast<int>(a), static_cast<int>(b))) check_overlap(a, b);
  }

  void check_overlap(std::size_t a, std::size_t b) {
    if (cell_.contact_is_meant(link_name(arm_, static_cast<int>(a)),
                               link_name(arm_, static_cast<int>(b))))
      return;
    double deepest = 0.0;
    for (const Part& pa : arm_.links()[a].parts)
      for (const Part& pb : arm_.links()[b].parts)
        if (pa.collides && pb.collides)
          deepest = std::min(
              deepest, distance(pa.shape, zero_[a] * pa.at, pb.shape, zero_[b] * pb.at).distance);
    if (deepest < -1e-4)
      find(Severity::odd, "." + arm_.links()[b].name,
           fmt::format("it lies {:.1f} mm deep in {} at zero posture", to_mm(-deepest),
                       arm_.links()[a].name),
           "if they truly touch list the pair under contacts:, else trim the shapes",
           arm_.links()[b].place);
  }

  void check_tools() {
    if (arm_.tools().empty())
      find(Severity::missing, "", "it has no tool",
           "reach and survey place tools; add one under tools:", arm_.place());
    for (const Tool& tool : arm_.tools())
      if (tool.tip.position.norm() < 1e-9 &&
          !arm_.links()[static_cast<std::size_t>(tool.link_index)].parts.empty())
        find(Severity::odd, fmt::format(", tool {}", tool.name),
             fmt::format("it has no length: its tip is the origin of link {}", tool.link),
             "measure from the link's frame to the tip and give it as tip:", tool.place);
  }

  const Cell& cell_;
  const Arm& arm_;
  std::vector<Pose> zero_;
  std::vector<Finding> findings_;
};

}  // namespace

std::string_view name_of(Severity severity) {
  switch (severity) {
    case Severity::wrong:
      return "wrong";
    case Severity::missing:
      return "missing";
    case Severity::odd:
      return "odd";
  }
  return "unknown";
}

std::vector<Finding> findings_of(const Cell& cell, const Arm& arm) {
  return Checker(cell, arm).run();
}

}  // namespace er
