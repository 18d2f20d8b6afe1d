#include "elbowroom/draw/bodies_picture.hpp"

#include <algorithm>
#include <array>

#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

const Colour kDescribed{0.93, 0.45, 0.10};
const Colour kMeasured{0.10, 0.35, 0.85};

// Neighbours in the list are easy to tell apart.
constexpr std::array<Colour, 8> kColours{{{0.42, 0.55, 0.66},
                                          {0.85, 0.80, 0.68},
                                          {0.55, 0.66, 0.45},
                                          {0.74, 0.50, 0.44},
                                          {0.48, 0.44, 0.60},
                                          {0.80, 0.68, 0.36},
                                          {0.38, 0.60, 0.58},
                                          {0.66, 0.66, 0.68}}};

Vector3 moved_out(const MeshInspection& inspection, const MeshBody& body, double apart) {
  const Vector3 middle = 0.5 * (inspection.bodies.low + inspection.bodies.high);
  const MeshBody* outer = &body;
  double aside = 0.0;
  while (outer->inside_of > 0) {
    outer = &inspection.bodies.numbered(outer->inside_of);
    aside += outer->size().y();
  }
  return apart * (outer->box.middle() - middle) - (apart > 0.0 ? aside : 0.0) * Vector3::UnitY();
}

void add_axis(Scene& scene, const Vector3& middle, const Vector3& way, double half, double radius,
              const Colour& colour) {
  scene.add_tube(middle - half * way, middle + half * way, colour, radius);
}

}  // namespace

Scene bodies_scene(const MeshInspection& inspection, double apart) {
  CellDescription cell;
  for (std::size_t i = 0; i < inspection.bodies.list.size(); ++i) {
    const MeshBody& body = inspection.bodies.list[i];
    const std::size_t group = inspection.links.empty() || inspection.links[i] < 0
                                  ? i
                                  : static_cast<std::size_t>(inspection.links[i]);
    Part part{.shape = mesh_of(body.surface.corners, body.surface.faces, true),
              .colour = kColours[group % kColours.size()]};
    if (inspection.links.empty() && body.surface.colour) part.colour = *body.surface.colour;
    cell.fixtures.push_back({.name = "body " + std::to_string(body.number),
                             .at = Pose::at(moved_out(inspection, body, apart)),
                             .parts = {part}});
  }
  Scene scene(Cell::build(cell), {});
  if (inspection.asked.arm == nullptr || apart > 0.0) return scene;
  const Arm& arm = *inspection.asked.arm;
  const double size = (inspection.bodies.high - inspection.bodies.low).norm();
  const Pose to_base = arm.mount().inverse();
  const std::vector<Pose> at = link_poses(arm, Posture::Zero(arm.dof()));
  for (const AxisFit& fit : inspection.axes) {
    const auto l = static_cast<std::size_t>(fit.link);
    const Pose frame = to_base * at[l];
    const Vector3 way = frame.rotation * arm.links()[l].joint.axis;
    const double half = 0.5 * (fit.feature ? fit.feature->length : 0.0) + 0.15 * size;
    const Vector3 middle =
        fit.feature ? Vector3(frame.position + way.dot(fit.feature->middle - frame.position) * way)
                    : frame.position;
    add_axis(scene, middle, way, half, 0.0022 * size, kDescribed);
    if (fit.feature && fit.off.norm() > AxisCheckOptions{}.believed_off)
      add_axis(scene, fit.feature->middle, fit.feature->axis, half, 0.0022 * size, kMeasured);
  }
  return scene;
}

}  // namespace er
