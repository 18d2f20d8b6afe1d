// A shape seen by the distance algorithms: a core (point, segment, box, flat-ended cylinder or
// hull) in the world, thickened by a radius. Spheres and capsules lose all their curvature this
// way.
#pragma once

#include "elbowroom/model/shape.hpp"

namespace er {

struct CoreShape {
  enum class Kind { point, segment, box, cylinder, hull };

  CoreShape(const Shape& shape, const Pose& pose);

  /// The core's point furthest along `direction` (world, any length but zero).
  [[nodiscard]] Vector3 support(const Vector3& direction) const;
  /// The largest of direction . p over the whole shape.
  [[nodiscard]] double furthest(const Vector3& direction) const;

  /// A point or segment has no volume, and two of them overlap only in a set without volume.
  [[nodiscard]] bool is_thin() const { return kind == Kind::point || kind == Kind::segment; }

  Kind kind;
  Matrix3 rotation;
  Vector3 centre;
  Vector3 half = Vector3::Zero();  ///< box: half edges; segment and cylinder: half length in z
  double disc = 0.0;               ///< cylinder: radius of its ends
  double radius = 0.0;             ///< added all round
  const HullData* hull = nullptr;  ///< must outlive this
};

}  // namespace er
