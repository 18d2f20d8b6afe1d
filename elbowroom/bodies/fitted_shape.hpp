// A box, cylinder, capsule or sphere about a body.
#pragma once

#include <optional>

#include "elbowroom/bodies/bulge.hpp"

namespace er {

struct FittedShape {
  Part part = {};  ///< in the frame of the body
  Bulge bulge = {};
};

/// The smallest of the boxes, cylinders, capsules and spheres that hold a body and are tried: boxes
/// square to a face of its hull, round ones along the sides of these. Nothing where none stands out
/// by `within` (m) or less.
std::optional<FittedShape> fitted_about(const MeshBody& body, double within);

}  // namespace er
