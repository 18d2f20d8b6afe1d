// Several pictures of one arm in one: a joint swept through its range, or random postures.
#pragma once

#include <vector>

#include "elbowroom/draw/render.hpp"

namespace er {

struct StripOptions {
  int width = 1280;  ///< of the whole picture, pixels
  int height = 800;
  int tiles = 8;  ///< 2 to 32; in two rows when there are more than three
};

/// A picture and the postures in it, from the left, the upper row first.
struct Strip {
  Image image;
  std::vector<Posture> postures;
};

/// The arm alone with one joint going from its lower to its upper limit (a continuous one through a
/// turn), the others as in `posture`. An arrow shows the joint's axis, its head the positive end,
/// so that a turn is positive when it goes clockwise for who looks along the arrow; an orange mark
/// turns with the link, a grey one stays, so that the sense shows even on a round part; every link
/// has its frame (x red, y green, z blue). All tiles are seen from one place.
Strip joint_strip(const Arm& arm, int joint, const Posture& posture,
                  const StripOptions& options = {});

/// The arm alone at postures drawn evenly from its ranges.
Strip random_strip(const Arm& arm, std::uint64_t seed, const StripOptions& options = {});

}  // namespace er
