// Bodies of a mesh as parts of the links of an arm.
#pragma once

#include <optional>
#include <vector>

#include "elbowroom/bodies/split.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

struct BodiesOnLinks {
  FileOrigin origin = {};              ///< what the shapes say that they were made from
  bool as_meshes = false;              ///< else the hull of each body
  std::optional<double> density = {};  ///< kg/m^3: the mass of links that state none
  Colour colour = {};                  ///< of bodies that have none of their own
};

/// Adds each body to the parts of its link. `link_of` has a link for each body, by its number less
/// one; -1 leaves it out. Bodies in the arm's base frame, all joints at zero, metres. With a
/// density, links that state no mass weigh what their bodies weigh. What is inside of a body of the
/// same link weighs, but is no part: nothing can meet it. A mass that is stated for a link without
/// parts is spread over its bodies. Throws InputError for a body that cannot be the shape that is
/// asked for, or has no volume to weigh.
void add_bodies(ArmDescription& arm, const Bodies& bodies, const std::vector<int>& link_of,
                const BodiesOnLinks& options);

}  // namespace er
