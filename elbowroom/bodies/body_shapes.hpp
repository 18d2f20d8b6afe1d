// A body of a mesh as shapes to be held clear of things, and as what pictures show of it.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/bodies/split.hpp"
#include "elbowroom/model/shape.hpp"

namespace er {

enum class BodyShape {
  hull,     ///< its convex hull
  mesh,     ///< its triangles
  hulls,    ///< several hulls that follow it
  simplest  ///< a box, cylinder, capsule or sphere, else its hull, else several: the first that
            ///< does
};

struct ShapeChoice {
  BodyShape as = BodyShape::hull;
  double within = 5e-3;        ///< m that `hulls` and `simplest` may stand out of the body
  double detail = 0.0;         ///< m that a hull or mesh may be off it, to be of fewer corners
  bool looks_as_mesh = false;  ///< pictures show its triangles, whatever collides
  double looks_detail = 0.0;   ///< m that these may be off
};

struct ShapedBody {
  std::vector<Part> parts = {};  ///< in the body's frame; between them they hold all of it
  double out = 0.0;   ///< m: no point of theirs is further from the body; of `hulls` and `simplest`
  double adds = 0.0;  ///< m^3 that they hold beyond it, at most; of these, too

  /// "cylinder", "hull", "8 hulls": what collides.
  [[nodiscard]] std::string text() const;
};

/// Throws InputError for a body that cannot be that shape: an open one as mesh, or one in a plane.
ShapedBody shapes_of(const MeshBody& body, const ShapeChoice& choice, FileOrigin origin);

/// How far a body reaches beyond all parts that collide, m, by its corners; infinite where none
/// does.
double reach_beyond(const MeshBody& body, const std::vector<Part>& parts);

}  // namespace er
