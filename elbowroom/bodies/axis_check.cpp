#include "elbowroom/bodies/axis_check.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "elbowroom/base/units.hpp"
#include "elbowroom/bodies/joint_placing.hpp"
#include "elbowroom/collision/checked_pairs.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

struct Axis {
  Vector3 point = Vector3::Zero();
  Vector3 way = Vector3::UnitZ();

  [[nodiscard]] Vector3 square_to(const Vector3& v) const { return v - way.dot(v) * way; }
};

double angle_between_lines(const Vector3& a, const Vector3& b) {
  return std::atan2(a.cross(b).norm(), std::abs(a.dot(b)));
}

std::string direction_text(const Vector3& along) {
  for (Eigen::Index k = 0; k < 3; ++k)
    if (std::abs(along[k]) > 1.0 - 1e-4)
      return fmt::format("{}{}", along[k] < 0.0 ? "-" : "", "xyz"[k]);
  return fmt::format("[{:.3f}, {:.3f}, {:.3f}]", along.x(), along.y(), along.z());
}

// What is left of an axis' offset when the joints before it are where the mesh has them.
DimensionDoubt doubt_of(const Vector3& left, const Axis& axis, const std::string& from,
                        const Vector3& origin, const AxisCheckOptions& options) {
  DimensionDoubt out{.from = from, .along = left.normalized()};
  out.described = out.along.dot(axis.point - origin);
  if (out.described < 0.0) {
    out.along = -out.along;
    out.described = -out.described;
  }
  out.measured = out.described + out.along.dot(left);
  out.opposite =
      out.described > options.believed_off &&
      std::abs(out.measured + out.described) < std::max(options.believed_off, 0.02 * out.described);
  return out;
}

}  // namespace

bool is_tilted(const AxisFit& fit, const AxisCheckOptions& options) {
  return fit.tilt > options.believed_tilt;
}

bool is_right(const AxisFit& fit, const AxisCheckOptions& options) {
  return fit.feature && fit.off.norm() <= options.believed_off && !is_tilted(fit, options);
}

std::vector<AxisFit> check_axes(const std::vector<RoundFeature>& features,
                                const std::vector<int>& link_of, const Arm& arm,
                                const AxisCheckOptions& options) {
  const auto group_of = [&](const RoundFeature& feature) {
    const int link = link_of[static_cast<std::size_t>(feature.body - 1)];
    return link < 0 ? -1 : rigid_group(arm, link);
  };
  const std::vector<Pose> at = link_poses(arm, Posture::Zero(arm.dof()));
  std::vector<Vector3> shift(at.size(), Vector3::Zero());  // by which joints are elsewhere
  std::vector<AxisFit> out;
  for (std::size_t l = 0; l < at.size(); ++l) {
    const Link& link = arm.links()[l];
    if (link.parent_index >= 0) shift[l] = shift[static_cast<std::size_t>(link.parent_index)];
    if (link.joint.kind != JointKind::revolute) continue;
    AxisFit fit{.link = static_cast<int>(l), .joint = link.joint.name};
    const Axis axis{at[l].position, at[l].rotation * link.joint.axis};
    const int before = link.parent_index < 0 ? -1 : rigid_group(arm, link.parent_index);
    double least = options.furthest;
    const auto take = [&](const RoundFeature& one) {
      fit.feature = one;
      fit.off = axis.square_to(one.middle - axis.point);
      fit.tilt = angle_between_lines(axis.way, one.axis);
    };
    const auto chosen = options.chosen.find(fit.link);
    if (chosen != options.chosen.end()) take(chosen->second);
    for (const RoundFeature& one : features) {
      if (chosen != options.chosen.end()) break;
      const int group = group_of(one);
      if (group < 0 || (group != fit.link && group != before)) continue;
      if (angle_between_lines(axis.way, one.axis) > options.steepest) continue;
      const Vector3 off = axis.square_to(one.middle - axis.point);
      const double left = (off - axis.square_to(shift[l])).norm();
      // Of several about one axis the largest; they come first.
      if (left >= least - 1e-6) continue;
      least = left;
      take(one);
    }
    const Vector3 left = fit.off - axis.square_to(shift[l]);
    if (fit.feature && left.norm() > options.believed_off) {
      const bool moves =
          before >= 0 && arm.links()[static_cast<std::size_t>(before)].posture_index >= 0;
      const auto from = static_cast<std::size_t>(before);
      fit.doubt = doubt_of(left, axis, moves ? arm.links()[from].joint.name : "",
                           moves ? at[from].position : arm.mount().position, options);
      shift[l] += left;
    }
    out.push_back(std::move(fit));
  }
  return out;
}

Arm corrected(const Arm& arm, const std::vector<AxisFit>& fits) {
  const Posture zero = Posture::Zero(arm.dof());
  std::vector<Pose> at = link_poses(arm, zero);
  std::vector<Vector3> shift(at.size(), Vector3::Zero());
  for (std::size_t l = 0; l < at.size(); ++l) {
    const Link& link = arm.links()[l];
    if (link.parent_index >= 0) shift[l] = shift[static_cast<std::size_t>(link.parent_index)];
    const auto fit = std::find_if(fits.begin(), fits.end(), [&](const AxisFit& one) {
      return one.link == static_cast<int>(l);
    });
    if (fit != fits.end() && fit->doubt)
      shift[l] += (fit->doubt->measured - fit->doubt->described) * fit->doubt->along;
    if (fit != fits.end() && fit->feature && is_tilted(*fit)) {
      const Vector3 is = at[l].rotation * link.joint.axis;
      const Vector3 wanted =
          is.dot(fit->feature->axis) < 0.0 ? Vector3(-fit->feature->axis) : fit->feature->axis;
      at[l].rotation = Eigen::Quaterniond::FromTwoVectors(is, wanted) * at[l].rotation;
    }
    at[l].position += shift[l];
  }
  ArmDescription out = arm.description();
  out.stances.clear();
  out.links = links_placed(arm, zero, at);
  return Arm::build(std::move(out));
}

std::string text_of(const AxisFit& fit, const AxisCheckOptions& options) {
  if (!fit.feature) return "nothing round is near its axis";
  if (is_right(fit, options)) return "right";
  std::string out = fmt::format("{:.2f} mm off", 1e3 * fit.off.norm());
  if (fit.off.norm() > options.believed_off)
    out += fmt::format(" along {}", direction_text(fit.off.normalized()));
  if (is_tilted(fit, options)) out += fmt::format(", {} tilted", text_angle(fit.tilt));
  if (!fit.doubt) {
    if (fit.off.norm() > options.believed_off) out += ", as joints before it are";
    return out;
  }
  const DimensionDoubt& doubt = *fit.doubt;
  const std::string from = doubt.from.empty() ? "the mount" : doubt.from;
  if (doubt.opposite)
    return out + fmt::format("; {:.4g} mm from {} along {} has the opposite sign by the mesh",
                             1e3 * doubt.described, from, direction_text(doubt.along));
  return out + fmt::format(
                   "; from {} along {} it is {:.5g} mm in the description, {:.5g} mm by the mesh",
                   from, direction_text(doubt.along), 1e3 * doubt.described, 1e3 * doubt.measured);
}

}  // namespace er
