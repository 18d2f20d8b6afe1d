// Which triangle is on the other side of each edge.
#pragma once

#include <vector>

#include "elbowroom/model/surface.hpp"

namespace er {

/// Where two triangles meet at an edge, each is the other's neighbour, whichever way they face.
/// Where more do, solids touch along the edge: then those are neighbours that enclose a solid
/// between them, with nothing else in between, provided that they agree which side is out.
class Neighbours {
 public:
  /// Corners at the same place have the same number (join_corners).
  explicit Neighbours(const Surface& surface);

  struct Next {
    int face = -1;  ///< -1: none
    bool agrees = true;
  };
  /// Over the edge from corner `k` of a triangle to its next one.
  [[nodiscard]] Next over(std::size_t face, int k) const {
    return next_[3 * face + static_cast<std::size_t>(k)];
  }

 private:
  std::vector<Next> next_;
};

}  // namespace er
