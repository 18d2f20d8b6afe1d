// Several hulls that follow a body which is hollow or bent.
#pragma once

#include <vector>

#include "elbowroom/bodies/bulge.hpp"

namespace er {

struct HullSetOptions {
  double within = 5e-3;  ///< m: wanted that no hull stands out of the body further than this
  int most = 64;         ///< hulls
};

struct HullSet {
  std::vector<Hull> hulls = {};
  Bulge bulge = {};  ///< of the one that stands out most; `volume`: of all together, at most

  [[nodiscard]] bool is_within(double distance) const { return bulge.most <= distance; }
};

/// Hulls that hold all of a body between them. The body is cut by planes, in each step the piece
/// whose hull stands out most, by the plane that leaves the two hulls the least void in front of
/// the surface; among the planes are those of its own flat faces. Then those are joined whose
/// common hull does not stand out too far. A hollow without a way out is filled.
/// Throws InputError for a body that is open, or a sheet.
HullSet hulls_along(const MeshBody& body, const HullSetOptions& options = {});

}  // namespace er
