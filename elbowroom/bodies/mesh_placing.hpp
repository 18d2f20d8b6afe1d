// A mesh that was not exported in the arm's base frame: how it would have to lie.
#pragma once

#include <optional>
#include <vector>

#include "elbowroom/bodies/round_features.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

struct MeshPlacing {
  Pose at = {};         ///< of the mesh's frame in the arm's base frame
  int axes = 0;         ///< different lines that turning joints have, all at zero
  int matched = 0;      ///< of these, with a bore or boss about them, as it would lie
  bool is_only = true;  ///< no other way to turn it gives as many
};

/// Two bores or bosses put on two axes that are not parallel say how all of a mesh lies; of all
/// such pairs the one is taken that puts bores or bosses on the most axes. Nothing where it lies as
/// well as it is, where that gives less than three axes or less than half of them, or where all
/// axes are parallel.
std::optional<MeshPlacing> placing_on(const std::vector<RoundFeature>& features, const Arm& arm);

}  // namespace er
