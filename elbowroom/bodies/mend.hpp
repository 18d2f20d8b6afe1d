// What is wrong with a surface as the skin of a solid, and what of it is mended without guessing.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/model/surface.hpp"

namespace er {

/// Corners that lie at the same place have the same number (join_corners).
struct SurfaceHealth {
  EdgeFaults edges = {};
  int slivers = 0;      ///< triangles of no area
  double area = 0.0;    ///< m^2
  double volume = 0.0;  ///< m^3, signed; nothing of worth where it is not closed

  [[nodiscard]] bool is_closed() const { return edges.none(); }
  /// "closed", or "open: 12 edges without a neighbour, such as the one from [..] to [..] mm".
  [[nodiscard]] std::string text(const Surface& surface) const;
};
SurfaceHealth health_of(const Surface& surface);

struct Mended {
  Surface surface = {};
  std::vector<std::string> done = {};  ///< "2 triangles dropped that were there twice"
};

/// Joins corners at the same place; those of open edges, too, that lie within a millionth of the
/// surface's size of each other; drops triangles without three different corners, or that are there
/// twice; makes neighbours agree which side is out; closes holes of three and four edges. What is
/// out as a whole is not decided here (bodies_of does). Throws InputError as check_surface does,
/// and where no triangle is left.
Mended mend(Surface surface);

}  // namespace er
