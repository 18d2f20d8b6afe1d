// The bodies of a mesh, coloured by the links that they belong to, with the axes of the joints.
#pragma once

#include "elbowroom/bodies/mesh_inspection.hpp"
#include "elbowroom/draw/scene.hpp"

namespace er {

/// `apart` moves each body away from the middle of all by so many times its distance from there,
/// and those inside of others out beside them; 0 leaves all where they are. The axes of the arm as
/// it is described are orange, those that the mesh has elsewhere blue. Where shapes were asked for,
/// those are drawn.
Scene bodies_scene(const MeshInspection& inspection, double apart = 0.0);

}  // namespace er
