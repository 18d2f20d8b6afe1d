// The bodies of a mesh, coloured by the links that they belong to, with the axes of the joints.
#pragma once

#include "elbowroom/bodies/mesh_inspection.hpp"
#include "elbowroom/draw/render.hpp"

namespace er {

/// `apart` moves each body away from the middle of all by so many times its distance from there,
/// and those inside of others out beside them; 0 leaves all where they are. The axes of the arm as
/// it is described are orange, those that the mesh has elsewhere blue. Where shapes were asked for,
/// those are drawn. Where a dimension is in doubt, the bones of the arm from joint to joint are
/// seen through the bodies: red as it is described, grey as it would be by the mesh, with an offset
/// turned over where that has the opposite sign.
Image render_bodies(const MeshInspection& inspection, double apart = 0.0,
                    const RenderOptions& options = {});

}  // namespace er
