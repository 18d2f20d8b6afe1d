// How far a hull stands out of the mesh that it was made of.
#pragma once

#include "elbowroom/bodies/split.hpp"

namespace er {

struct Bulge {
  double most = 0.0;   ///< m: no point of the hull is further from the body than this, and
  double least = 0.0;  ///< m: one is as far as this,
  Vector3 at = Vector3::Zero();  ///< here
  double volume = 0.0;  ///< m^3 that the hull holds beyond the body; 0 where that is not closed
};

/// Halves the triangles of the hull until `most` and `least` are within a tolerance (m) of each
/// other, or 5,000 times; `most` holds either way.
Bulge bulge_of(const Hull& hull, const MeshBody& body, double tolerance = 1e-4);

}  // namespace er
