// The walk along a chain to a frame at its end, in one posture.
#pragma once

#include <array>

#include "elbowroom/base/pose.hpp"
#include "elbowroom/base/posture.hpp"
#include "elbowroom/model/chain_walk.hpp"

namespace er {

struct FrameWalk {
  using Four = std::array<double, 4>;       ///< x, y, z, and one to fill vector registers
  std::array<Four, kMaxMovingLinks> axis;   ///< of each step, in the world
  std::array<Four, kMaxMovingLinks> point;  ///< m, on that axis
  Pose frame;
};

/// From `base` along a chain's steps to a frame in that of the last one, which is `end`. One row of
/// the frame that walks a vector lane. The same bits on every instruction set. Allocates nothing.
void walk_to_frame(const Pose& base, const ChainWalk& walk, const Pose& end,
                   const PostureRef& posture, FrameWalk& out);

}  // namespace er
