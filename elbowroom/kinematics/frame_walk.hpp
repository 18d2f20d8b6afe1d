// Walks in one posture, one row of the frame that walks a vector lane: along a chain to a frame at
// its end, and through a tree of frames.
#pragma once

#include <array>
#include <span>

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

/// From `base` along a chain's steps to a frame in that of the last one, which is `end`. The same
/// bits on every instruction set. Allocates nothing.
void walk_to_frame(const Pose& base, const ChainWalk& walk, const Pose& end,
                   const PostureRef& posture, FrameWalk& out);

/// A frame in that of another one, which comes before it; -1: in the base. (No Pose, which would be
/// filled twice.)
struct PlacedFrame {
  std::array<double, 9> rotation;  ///< by columns
  std::array<double, 3> position;
  int parent;
};
/// The first `done` poses of `out` are there already; the others are made from `frames`, one each.
void place_frames(const Pose& base, std::span<const PlacedFrame> frames, std::size_t done,
                  std::span<Pose> out);

}  // namespace er
