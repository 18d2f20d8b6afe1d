#include "elbowroom/bodies/bodies_on_links.hpp"

#include <fmt/format.h>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/hull.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

// The links' frames in the base's, all joints at zero.
std::vector<Pose> places_at_zero(const ArmDescription& description) {
  ArmDescription bare = description;  // what else it has may not be right yet
  bare.mount = {};
  bare.stances.clear();
  bare.tools.clear();
  const Arm arm = Arm::build(std::move(bare));
  return link_poses(arm, Posture::Zero(arm.dof()));
}

// Nothing can meet what is inside of a body that is a part of the same link.
bool is_hidden(const MeshBody& body, const Bodies& bodies, const std::vector<int>& link_of) {
  const auto link = [&](const MeshBody& one) {
    return link_of[static_cast<std::size_t>(one.number - 1)];
  };
  return body.inside_of > 0 && link(bodies.outermost(body)) == link(body);
}

Inertial weight_of(const MeshBody& body, double density) {
  if (!(body.volume > 0.0))
    throw InputError(
        fmt::format("it has no volume, and so no mass: it is {}",
                    body.health.is_closed() ? "a sheet" : body.health.text(body.surface)),
        "mend the mesh, leave out density:, or leave out this body");
  return inertial_within(body.surface.corners, body.surface.faces, density);
}

Shape shape_of(const MeshBody& body, const BodiesOnLinks& options) {
  FileOrigin origin = options.origin;
  origin.bodies = {body.number};
  if (options.as_meshes)
    return mesh_of(body.surface.corners, body.surface.faces, false, std::move(origin));
  auto hull = std::make_shared<HullData>(*hull_of(body.surface.corners).data);
  hull->origin = std::move(origin);
  return Hull{hull};
}

}  // namespace

void add_bodies(ArmDescription& arm, const Bodies& bodies, const std::vector<int>& link_of,
                const BodiesOnLinks& options) {
  const std::vector<Pose> at = places_at_zero(arm);
  std::vector<Inertial> weights(arm.links.size());
  std::vector<bool> bare;
  for (const Link& link : arm.links) bare.push_back(link.parts.empty());
  for (const MeshBody& body : bodies.list) {
    const int link = link_of[static_cast<std::size_t>(body.number - 1)];
    if (link < 0) continue;
    const auto l = static_cast<std::size_t>(link);
    const Pose in_link = at[l].inverse();
    try {
      if (!is_hidden(body, bodies, link_of))
        arm.links[l].parts.push_back({.shape = shape_of(body, options),
                                      .at = in_link,
                                      .colour = body.surface.colour.value_or(options.colour)});
      if (options.density)
        weights[l] = joined(weights[l], moved(weight_of(body, *options.density), in_link));
    } catch (const InputError& error) {
      throw InputError(fmt::format("body {}: {}", body.number, error.message()), error.advice());
    }
  }
  for (std::size_t l = 0; l < weights.size(); ++l) {
    Link& link = arm.links[l];
    if (weights[l].mass > 0.0 && link.inertial.mass == 0.0) link.inertial = weights[l];
    // A mass that was stated had no shape to be spread over yet.
    if (bare[l] && link.inertial.mass > 0.0 && link.inertial.inertia.isZero(0.0))
      link.inertial = inertial_of(link.parts, link.inertial.mass);
  }
}

}  // namespace er
