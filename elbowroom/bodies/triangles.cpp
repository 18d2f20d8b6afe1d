#include "elbowroom/bodies/triangles.hpp"

#include <Eigen/Eigenvalues>
#include <Eigen/Geometry>

namespace er {
namespace {

std::vector<Triangle> triangles_over(const std::vector<Vector3>& corners,
                                     const std::vector<std::array<int, 3>>& faces) {
  std::vector<Triangle> out;
  out.reserve(faces.size());
  for (const auto& [a, b, c] : faces)
    out.push_back({corners[static_cast<std::size_t>(a)], corners[static_cast<std::size_t>(b)],
                   corners[static_cast<std::size_t>(c)]});
  return out;
}

}  // namespace

double area_of(const Triangle& t) { return 0.5 * (t[1] - t[0]).cross(t[2] - t[0]).norm(); }
Vector3 middle_of(const Triangle& t) { return (t[0] + t[1] + t[2]) / 3.0; }

std::vector<Vector3> corners_of(const AlignedBox& box) {
  std::vector<Vector3> out;
  for (const double x : {box.low.x(), box.high.x()})
    for (const double y : {box.low.y(), box.high.y()})
      for (const double z : {box.low.z(), box.high.z()}) out.emplace_back(x, y, z);
  return out;
}

std::vector<Triangle> triangles_of(const Surface& surface) {
  return triangles_over(surface.corners, surface.faces);
}
std::vector<Triangle> triangles_of(const Hull& hull) {
  return triangles_over(hull.data->corners, hull.data->faces);
}

Spread spread_of(std::span<const Triangle> triangles) {
  Spread out;
  for (const Triangle& t : triangles) {
    out.area += area_of(t);
    out.middle += area_of(t) * middle_of(t);
  }
  if (!(out.area > 0.0)) return out;
  out.middle /= out.area;
  Matrix3 moments = Matrix3::Zero();
  for (const Triangle& t : triangles) {
    const Vector3 from = middle_of(t) - out.middle;
    moments += area_of(t) * from * from.transpose();
  }
  out.axes = Eigen::SelfAdjointEigenSolver<Matrix3>(moments).eigenvectors();
  if (out.axes.determinant() < 0.0) out.axes.col(2) *= -1.0;
  return out;
}

}  // namespace er
