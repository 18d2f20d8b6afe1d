// Whether shapes that come from files are on the links they belong to.
#pragma once

#include <optional>
#include <vector>

#include "elbowroom/model/arm.hpp"

namespace er {

struct MeshOrder {
  /// For each link the one that its shapes would fit; -1: they come from no file.
  std::vector<int> fits = {};
  double now = 0.0;   ///< m that shapes are off the joints and middle lines of their links,
  double then = 0.0;  ///< and would be
};

/// Another order of the links' files along the chain, if shapes would then be at the joints of
/// their links where they are far from them now. Each may keep its place in its link, as files of
/// single links do, or its place at zero, as those of a whole arm do. Arms of more than 12 links
/// with shapes from files are not looked at.
std::optional<MeshOrder> better_mesh_order(const Arm& arm);

}  // namespace er
