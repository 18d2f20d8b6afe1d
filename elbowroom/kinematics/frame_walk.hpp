// Walks in one posture, one row of the frame that walks a vector lane: along a chain to a frame at
// its end, and through a tree of links; and the Jacobians of such frames.
#pragma once

#include <span>

#include "elbowroom/model/arm.hpp"

namespace er {

/// A frame that links carry, and where its Jacobian goes: 6 x columns, column after column, rows as
/// in forward.hpp.
struct JacobianColumns {
  double* out = nullptr;
  int columns = 0;
};

/// From `base` along a chain's steps to a frame in that of the last one, which is `end`; and its
/// Jacobian, if it is asked for. The same bits on every instruction set. Allocates nothing.
Pose walk_to_frame(const Pose& base, const ChainWalk& walk, const Pose& end,
                   const PostureRef& posture, const JacobianColumns& jacobian = {});

/// The poses of all links of a tree, parents before those that hang on them.
void place_links(const Pose& base, std::span<const LinkMotion> motions, const PostureRef& posture,
                 std::span<Pose> out);

/// The Jacobian at `tip` (world) of a frame that the links on `way` carry, from their poses.
void placed_jacobian(std::span<const LinkMotion> motions, std::span<const int> way,
                     std::span<const Pose> links, const Vector3& tip,
                     const JacobianColumns& jacobian);

}  // namespace er
