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

// Shapes of one body are told apart.
Colour shade(const Colour& colour, std::size_t k) {
  constexpr std::array<double, 4> kShades{1.0, 0.86, 1.12, 0.94};
  const double by = kShades[k % kShades.size()];
  return {std::min(1.0, by * colour.red), std::min(1.0, by * colour.green),
          std::min(1.0, by * colour.blue)};
}

Vector3 moved_out(const MeshInspection& inspection, const MeshBody& body, double apart) {
  const Vector3 middle = 0.5 * (inspection.bodies.low + inspection.bodies.high);
  const MeshBody& outer = inspection.bodies.outermost(body);
  const bool aside = apart > 0.0 && body.inside_of > 0;
  return apart * (outer.box.middle() - middle) -
         (aside ? outer.size().y() : 0.0) * Vector3::UnitY();
}

}  // namespace

Scene bodies_scene(const MeshInspection& inspection, double apart) {
  CellDescription cell;
  for (std::size_t i = 0; i < inspection.bodies.list.size(); ++i) {
    const MeshBody& body = inspection.bodies.list[i];
    const std::size_t group =
        inspection.proposed.empty() ? i : static_cast<std::size_t>(inspection.proposed[i].link);
    Colour colour = kColours[group % kColours.size()];
    if (inspection.proposed.empty() && body.surface.colour) colour = *body.surface.colour;
    std::vector<Part> parts;
    if (!inspection.shaped.empty()) parts = inspection.shaped[i].parts;
    for (std::size_t k = 0; k < parts.size(); ++k) parts[k].colour = shade(colour, k);
    if (parts.empty())
      parts.push_back(
          {.shape = mesh_of(body.surface.corners, body.surface.faces, true), .colour = colour});
    cell.fixtures.push_back({.name = "body " + std::to_string(body.number),
                             .at = Pose::at(moved_out(inspection, body, apart)),
                             .parts = std::move(parts)});
  }
  Scene scene(Cell::build(cell), {});
  if (!inspection.arm || apart > 0.0) return scene;
  const Arm& arm = *inspection.arm;
  const double size = (inspection.bodies.high - inspection.bodies.low).norm();
  const double radius = 0.0022 * size;
  const std::vector<Pose> at = link_poses(arm, Posture::Zero(arm.dof()));
  for (const AxisFit& fit : inspection.axes) {
    const auto l = static_cast<std::size_t>(fit.link);
    const Vector3 way = at[l].rotation * arm.links()[l].joint.axis;
    const double half = 0.5 * (fit.feature ? fit.feature->length : 0.0) + 0.15 * size;
    Vector3 middle = at[l].position;
    if (fit.feature) middle += way.dot(fit.feature->middle - middle) * way;
    scene.add_tube(middle - half * way, middle + half * way, kDescribed, radius);
    if (!fit.feature || is_right(fit)) continue;
    const Vector3 along = half * fit.feature->axis;
    scene.add_tube(fit.feature->middle - along, fit.feature->middle + along, kMeasured, radius);
  }
  return scene;
}

}  // namespace er
