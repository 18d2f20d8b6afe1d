// Meshes and hulls with fewer triangles, which still hold all of what they were made of.
#pragma once

#include "elbowroom/model/mesh.hpp"
#include "elbowroom/model/surface.hpp"

namespace er {

/// Edges collapsed by meshoptimizer until quadrics (M. Garland and P. S. Heckbert, "Surface
/// simplification using quadric error metrics", 1997) estimate an error (m), which is no bound.
Surface collapsed(const Surface& surface, double error);

struct Simplified {
  Surface surface = {};
  double off = 0.0;  ///< m: no point of the source is further from it, or its inside, than this
};

/// With fewer triangles, while no point of the source is further than `detail` (m) from it. Corners
/// are some of the source's. What was closed stays closed, and what lies deeper inside of it stays
/// inside. Where that cannot be had, the source as it is. A solid faces outwards then. How far it
/// is off is measured; from a skin, which holds nothing, points inside of it are off, too.
Simplified simplified(Surface surface, double detail, bool as_skin = false);

/// A mesh with the detail that the origin asks for (0: all of it), and as thick as it is off the
/// surface and that is off what it stands for: so nothing of either sticks out. Throws InputError
/// as mesh_of does.
Mesh mesh_in_detail(Surface surface, bool is_skin, FileOrigin origin);

/// A convex solid of fewer corners that holds a hull, and stands out of it by no more than `detail`
/// (m): planes are laid on the hull where what they leave stands out most. The hull itself where
/// that would not have fewer.
Hull coarser(const Hull& hull, double detail);

/// A hull that holds a cube about each corner of another: all that is no further than `by` (m) from
/// it, and nothing further than sqrt(3) `by`.
Hull padded(const Hull& hull, double by);

/// The hull of a surface, padded by what that is off what it stands for, with the detail that the
/// origin asks for. Throws InputError as hull_of does.
Hull hull_in_detail(const Surface& surface, FileOrigin origin);

}  // namespace er
