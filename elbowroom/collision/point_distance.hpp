// How far a point is from a shape.
#pragma once

#include "elbowroom/model/shape.hpp"

namespace er {

/// A lower bound on the signed distance of a point from a shape, in the shape's frame: exact, but
/// for hulls, where it is exact inside and over a face, and clouds, where it is zero inside.
double point_distance(const Shape& shape, const Vector3& point);

/// From a point to a stretch of a line, which may be a point, and to a triangle.
double segment_distance(const Vector3& from, const Vector3& to, const Vector3& point);
double triangle_distance(const std::array<Vector3, 3>& corners, const Vector3& point);

/// The triangle of a mesh that is nearest to a point of its frame, and how far that is, m, never
/// below zero. Allocates nothing.
struct NearestFace {
  int face = -1;
  double distance = 0.0;
};
NearestFace nearest_face(const MeshData& mesh, const Vector3& point);

}  // namespace er
