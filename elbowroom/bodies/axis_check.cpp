#include "elbowroom/bodies/axis_check.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "elbowroom/base/units.hpp"
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

// A link's nearest turning joint on the way to the base, itself left out; -1: none.
int turning_before(const Arm& arm, int link) {
  int at = arm.links()[static_cast<std::size_t>(link)].parent_index;
  while (at >= 0 && arm.links()[static_cast<std::size_t>(at)].joint.kind == JointKind::fixed)
    at = arm.links()[static_cast<std::size_t>(at)].parent_index;
  return at;
}

// Links that are joined rigidly count as one.
int rigid_root(const Arm& arm, int link) {
  while (link > 0 && arm.links()[static_cast<std::size_t>(link)].joint.kind == JointKind::fixed &&
         arm.links()[static_cast<std::size_t>(link)].parent_index >= 0)
    link = arm.links()[static_cast<std::size_t>(link)].parent_index;
  return link;
}

std::string direction_text(const Vector3& along) {
  for (Eigen::Index k = 0; k < 3; ++k)
    if (std::abs(along[k]) > 1.0 - 1e-4) return std::string(1, "xyz"[k]);
  return fmt::format("[{:.3f}, {:.3f}, {:.3f}]", along.x(), along.y(), along.z());
}

}  // namespace

std::vector<AxisFit> check_axes(const Bodies& bodies, const std::vector<int>& link_of,
                                const Arm& arm, const AxisCheckOptions& options) {
  struct OnLink {
    RoundFeature feature;
    int root;
  };
  std::vector<OnLink> features;
  for (const MeshBody& body : bodies.list) {
    const int link = link_of[static_cast<std::size_t>(body.number - 1)];
    if (link < 0) continue;
    for (const RoundFeature& one : round_features(body))
      features.push_back({one, rigid_root(arm, link)});
  }
  std::vector<Pose> at = link_poses(arm, Posture::Zero(arm.dof()));
  const Pose to_base = arm.mount().inverse();
  for (Pose& pose : at) pose = to_base * pose;
  std::vector<Vector3> shift(at.size(), Vector3::Zero());  // by which joints are elsewhere
  std::vector<AxisFit> out;
  for (std::size_t l = 0; l < at.size(); ++l) {
    const Link& link = arm.links()[l];
    if (link.parent_index >= 0) shift[l] = shift[static_cast<std::size_t>(link.parent_index)];
    if (link.joint.kind != JointKind::revolute) continue;
    AxisFit fit{.link = static_cast<int>(l), .joint = link.joint.name};
    const Axis axis{at[l].position, at[l].rotation * link.joint.axis};
    const int own = static_cast<int>(l);
    const int before = link.parent_index < 0 ? -1 : rigid_root(arm, link.parent_index);
    double least = options.furthest;
    for (const OnLink& one : features) {
      if (one.root != own && one.root != before) continue;
      const double tilt = angle_between_lines(axis.way, one.feature.axis);
      if (tilt > options.steepest) continue;
      const Vector3 off = axis.square_to(one.feature.middle - axis.point);
      const double left = (off - axis.square_to(shift[l])).norm();
      // Of several about one axis the largest; they come first.
      if (left >= least - 1e-6) continue;
      least = left;
      fit.feature = one.feature;
      fit.off = off;
      fit.tilt = tilt;
    }
    if (fit.feature) {
      const Vector3 left = fit.off - axis.square_to(shift[l]);
      if (left.norm() > options.believed_off) {
        const int from = turning_before(arm, own);
        const Vector3 origin =
            from < 0 ? Vector3(Vector3::Zero()) : at[static_cast<std::size_t>(from)].position;
        DimensionDoubt doubt{
            .from = from < 0 ? "" : arm.links()[static_cast<std::size_t>(from)].joint.name,
            .along = left.normalized()};
        doubt.described = doubt.along.dot(axis.point - origin);
        if (doubt.described < 0.0) {
          doubt.along = -doubt.along;
          doubt.described = -doubt.described;
        }
        doubt.measured = doubt.described + doubt.along.dot(left);
        doubt.opposite = doubt.described > options.believed_off &&
                         std::abs(doubt.measured + doubt.described) <
                             std::max(options.believed_off, 0.02 * doubt.described);
        fit.doubt = doubt;
        shift[l] += left;
      }
    }
    out.push_back(std::move(fit));
  }
  return out;
}

Arm corrected(const Arm& arm, const std::vector<AxisFit>& fits) {
  ArmDescription out = arm.description();
  out.stances.clear();
  const std::vector<Pose> at = link_poses(arm, Posture::Zero(arm.dof()));
  for (const AxisFit& fit : fits) {
    if (!fit.doubt) continue;
    Link& link = out.links[static_cast<std::size_t>(fit.link)];
    const int parent = arm.links()[static_cast<std::size_t>(fit.link)].parent_index;
    if (parent < 0) continue;
    const Vector3 shift = (fit.doubt->measured - fit.doubt->described) * fit.doubt->along;
    link.joint.origin.position +=
        at[static_cast<std::size_t>(parent)].rotation.transpose() * (arm.mount().rotation * shift);
  }
  return Arm::build(std::move(out));
}

std::string text_of(const AxisFit& fit, const AxisCheckOptions& options) {
  if (!fit.feature) return "nothing round is near its axis";
  std::string out = fmt::format("{:.2f} mm off", 1e3 * fit.off.norm());
  if (fit.off.norm() > options.believed_off)
    out += fmt::format(" along {}", direction_text(fit.off.normalized()));
  if (fit.tilt > options.believed_tilt) out += fmt::format(", {} tilted", text_angle(fit.tilt));
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
