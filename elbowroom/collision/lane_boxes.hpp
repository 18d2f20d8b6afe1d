// Boxes eight by eight, for kernels that tell which of many overlap one.
#pragma once

#include <limits>
#include <span>
#include <vector>

#include "elbowroom/model/box_tree.hpp"

namespace er {

/// Box i is in place i % 8 of eight i / 8; those eights have boxes about them, again in eights, and
/// so on up to a single eight. Lengths are floats, in metres, rounded outward.
struct LaneBoxes {
  static constexpr float kNone = std::numeric_limits<float>::infinity();
  struct Eight {
    float low[3][8];  ///< kNone where there is no box
    float high[3][8];
  };
  struct Level {
    int first = 0;  ///< of its eights
    int count = 0;
  };
  std::vector<Eight> eights = {};
  std::vector<Level> levels = {};  ///< that of the boxes themselves first; none: no boxes
};

/// Near boxes should be near in the list, too. `centre` is what lengths count from.
LaneBoxes lane_boxes(std::span<const AlignedBox> boxes, const Vector3& centre);

}  // namespace er
