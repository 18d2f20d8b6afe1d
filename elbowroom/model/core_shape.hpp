// A shape seen by the distance algorithms: a core (point, segment, box, round with two flat ends,
// corners, triangle or half-space) in the world, thickened by a radius. Spheres and capsules lose
// all their curvature this way. Of a mesh or a cloud, this is its convex hull.
#pragma once

#include <span>

#include "elbowroom/model/shape.hpp"

namespace er {

struct CoreShape {
  enum class Kind { point, segment, box, cylinder, cone, corners, triangle, half_space };

  /// What the shape shares must outlive this.
  CoreShape(const Shape& shape, const Pose& pose);
  /// The smallest convex shape that holds some points, given in the frame `pose`, with a ball of
  /// `thickness` about each. The points must outlive this.
  CoreShape(std::span<const Vector3> points, double thickness, const Pose& pose);
  /// One triangle of a mesh, or one ball of a cloud.
  static CoreShape triangle_of(const MeshData& mesh, int face, const Pose& pose);
  static CoreShape ball_of(const CloudData& cloud, int point, const Pose& pose);

  /// The core's point furthest along `direction` (world, any length but zero). Not of half-spaces.
  [[nodiscard]] Vector3 support(const Vector3& direction) const;
  /// The largest of direction . p over the whole shape; infinite for a half-space along all but its
  /// normal.
  [[nodiscard]] double furthest(const Vector3& direction) const;

  /// A point or segment has no volume, and two of them overlap only in a set without volume.
  [[nodiscard]] bool is_thin() const { return kind == Kind::point || kind == Kind::segment; }

  Kind kind = Kind::point;
  Matrix3 rotation = Matrix3::Identity();
  Vector3 centre = Vector3::Zero();
  Vector3 half = Vector3::Zero();  ///< box: half edges; segment and rounds: half length in z
  double disc = 0.0;               ///< cylinder, cone: radius of its lower end
  double upper_disc = 0.0;         ///< cone: radius of its upper end
  double radius = 0.0;             ///< added all round
  std::span<const Vector3> corners = {};
  Matrix3 triangle = {};  ///< its corners, as columns, in the world

 private:
  CoreShape() = default;
};

}  // namespace er
