// How far hulls stand out of the body that they stand for.
#pragma once

#include <limits>

#include "elbowroom/bodies/split.hpp"

namespace er {

struct Bulge {
  double most = 0.0;   ///< m: no point of the hull is further from the body than this, and
  double least = 0.0;  ///< m: one is as far as this,
  Vector3 at = Vector3::Zero();  ///< here
  double volume = 0.0;  ///< m^3 that the hull holds beyond the body; 0 where that is not closed
};

/// When a measurement is good enough, m: either bound is wanted no better than these say.
struct BulgeWanted {
  double tolerance = 1e-4;                               ///< between `most` and `least`,
  double share = 0.0;                                    ///< or so much of `least`
  double good = 0.0;                                     ///< `most` below this will do
  double bad = std::numeric_limits<double>::infinity();  ///< `least` above this will do
  int halvings = 5000;                                   ///< of triangles, at most
};

/// How far triangles are from a solid, in which they are not off, or from a skin.
class BulgeMeasure {
 public:
  /// A solid, if it is closed and not to be a skin; else a skin.
  explicit BulgeMeasure(Surface surface, bool as_skin = false);
  /// A body, with its hollows filled.
  explicit BulgeMeasure(const MeshBody& body);

  [[nodiscard]] bool is_solid() const { return is_solid_; }
  [[nodiscard]] const MeshData& mesh() const { return *skin_.data; }

  /// The triangles of a hull are halved until the bounds are good enough, or as often as may be;
  /// `most` holds either way. The volume is left out.
  [[nodiscard]] Bulge of(const Hull& hull, const BulgeWanted& wanted = {}) const;
  /// The same of triangles that face outwards.
  [[nodiscard]] Bulge of(const Surface& surface, const BulgeWanted& wanted = {}) const;

 private:
  class Search;
  Mesh skin_;
  bool is_solid_;
};

/// Of the hull of a whole body, with its volume.
Bulge bulge_of(const Hull& hull, const MeshBody& body, double tolerance = 1e-4);

}  // namespace er
