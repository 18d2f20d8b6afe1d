// Triangles by themselves, and how they are spread.
#pragma once

#include <array>
#include <span>
#include <vector>

#include "elbowroom/model/surface.hpp"

namespace er {

using Triangle = std::array<Vector3, 3>;

double area_of(const Triangle& triangle);
Vector3 middle_of(const Triangle& triangle);
std::vector<Vector3> corners_of(const AlignedBox& box);

std::vector<Triangle> triangles_of(const Surface& surface);
std::vector<Triangle> triangles_of(const Hull& hull);

/// Their area, the middle of it, and the axes along which it is spread (a rotation): of what is
/// round about an axis, that is one of them.
struct Spread {
  double area = 0.0;
  Vector3 middle = Vector3::Zero();
  Matrix3 axes = Matrix3::Identity();
};
Spread spread_of(std::span<const Triangle> triangles);

}  // namespace er
