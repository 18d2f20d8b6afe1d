#include "elbowroom/draw/bodies_picture.hpp"

#include <algorithm>
#include <array>

#include "elbowroom/draw/ghosts.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

const Colour kDescribed{0.93, 0.45, 0.10};
const Colour kMeasured{0.10, 0.35, 0.85};
const Colour kBone{0.16, 0.17, 0.20};

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

Scene scene_of_bodies(const MeshInspection& inspection, double apart) {
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
  return {Cell::build(cell), {}};
}

double size_of(const MeshInspection& inspection) {
  return (inspection.bodies.high - inspection.bodies.low).norm();
}

void add_axes(const MeshInspection& inspection, Scene& scene) {
  const Arm& arm = *inspection.arm;
  const double size = size_of(inspection);
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
}

// From each joint to the next.
Scene bones_of(const Arm& arm, double radius) {
  Scene out(Cell::build({}), {});
  const std::vector<Pose> at = link_poses(arm, Posture::Zero(arm.dof()));
  for (std::size_t l = 0; l < at.size(); ++l)
    if (const int parent = arm.links()[l].parent_index; parent >= 0)
      out.add_tube(at[static_cast<std::size_t>(parent)].position, at[l].position, kBone, radius);
  return out;
}

}  // namespace

Image render_bodies(const MeshInspection& inspection, double apart, const RenderOptions& options) {
  Scene scene = scene_of_bodies(inspection, apart);
  if (!inspection.arm || apart > 0.0) return render(scene, View{}, options);
  add_axes(inspection, scene);
  std::vector<GhostScene> ghosts;
  if (std::any_of(inspection.axes.begin(), inspection.axes.end(),
                  [](const AxisFit& fit) { return fit.doubt.has_value(); })) {
    const double radius = 0.012 * size_of(inspection);
    ghosts.push_back({bones_of(*inspection.arm, radius), true});
    ghosts.push_back({bones_of(corrected(*inspection.arm, inspection.axes), radius), false});
  }
  return render_with_ghosts(scene, ghosts, View{}, options);
}

}  // namespace er
