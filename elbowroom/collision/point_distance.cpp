#include "elbowroom/collision/point_distance.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "elbowroom/collision/simplex.hpp"
#include "elbowroom/model/cloud.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

// Of a solid that is at most `outside` beyond each of its sides: the gap, or how deep inside.
double gap_beyond(const auto& outside) {
  return outside.cwiseMax(0.0).matrix().norm() + std::min(outside.maxCoeff(), 0.0);
}

// Of what is turned about z, cut along its axis: from a point to the slanted side, the ends, or,
// inside, the nearest of both.
double to_cone(const Cone& cone, double across, double up) {
  const double half = 0.5 * cone.length;
  const double end = up < 0.0 ? cone.radius : cone.top;
  const Eigen::Vector2d to_end(std::max(across - end, 0.0), std::abs(up) - half);
  const Eigen::Vector2d side(cone.top - cone.radius, cone.length);
  const Eigen::Vector2d from(across - cone.radius, up + half);
  const Eigen::Vector2d to_side =
      from - std::clamp(from.dot(side) / side.squaredNorm(), 0.0, 1.0) * side;
  const bool is_inside = to_end.y() < 0.0 && from.x() * side.y() - from.y() * side.x() < 0.0;
  const double away = std::sqrt(std::min(to_end.squaredNorm(), to_side.squaredNorm()));
  return is_inside ? -away : away;
}

// Of many elements under a tree: the nearest one, and how far it is.
NearestFace nearest_of(const BoxTree& tree, const Vector3& point, auto distance_to) {
  NearestFace nearest{-1, std::numeric_limits<double>::infinity()};
  tree.for_each_near(
      {point, point}, [&] { return nearest.distance; },
      [&](int item) {
        if (const double away = distance_to(item); away < nearest.distance) nearest = {item, away};
        return true;
      });
  return nearest;
}

double to_mesh(const MeshData& mesh, const Vector3& point) {
  const double away = nearest_face(mesh, point).distance;
  return encloses(mesh, point) ? -away : std::max(away - mesh.thickness, 0.0);
}

double to_cloud(const CloudData& cloud, const Vector3& point) {
  return nearest_of(cloud.tree, point,
                    [&](int i) {
                      return std::max(
                          (cloud.points[static_cast<std::size_t>(i)] - point).norm() - cloud.radius,
                          0.0);
                    })
      .distance;
}

double to_hull(const HullData& hull, const Vector3& point) {
  double furthest = -std::numeric_limits<double>::infinity();
  for (const HullPlane& plane : hull.planes)
    furthest = std::max(furthest, plane.normal.dot(point) - plane.offset);
  return std::max(furthest, (point - hull.middle).norm() - hull.radius);
}

}  // namespace

double segment_distance(const Vector3& from, const Vector3& to, const Vector3& point) {
  const Vector3 way = to - from;
  const double whole = way.squaredNorm();
  const double along = whole > 0.0 ? std::clamp((point - from).dot(way) / whole, 0.0, 1.0) : 0.0;
  return (point - from - along * way).norm();
}

double triangle_distance(const std::array<Vector3, 3>& corners, const Vector3& point) {
  Simplex simplex;
  simplex.count = 3;
  for (std::size_t k = 0; k < 3; ++k) simplex.points[k].v = corners[k] - point;
  return reduce_to_nearest(simplex).norm();
}

NearestFace nearest_face(const MeshData& mesh, const Vector3& point) {
  return nearest_of(mesh.tree, point,
                    [&](int face) { return triangle_distance(mesh.triangle(face), point); });
}

double point_distance(const Shape& shape, const Vector3& point) {
  if (const auto* box = std::get_if<Box>(&shape))
    return gap_beyond(point.array().abs() - 0.5 * box->size.array());
  if (const auto* sphere = std::get_if<Sphere>(&shape)) return point.norm() - sphere->radius;
  const double across = std::hypot(point.x(), point.y());
  if (const auto* cylinder = std::get_if<Cylinder>(&shape))
    return gap_beyond(
        Eigen::Array2d(across - cylinder->radius, std::abs(point.z()) - 0.5 * cylinder->length));
  if (const auto* capsule = std::get_if<Capsule>(&shape))
    return std::hypot(across, std::max(std::abs(point.z()) - 0.5 * capsule->length, 0.0)) -
           capsule->radius;
  if (const auto* cone = std::get_if<Cone>(&shape)) return to_cone(*cone, across, point.z());
  if (std::holds_alternative<HalfSpace>(shape)) return point.z();
  if (const auto* mesh = std::get_if<Mesh>(&shape)) return to_mesh(*mesh->data, point);
  if (const auto* cloud = std::get_if<Cloud>(&shape)) return to_cloud(*cloud->data, point);
  return to_hull(*std::get<Hull>(shape).data, point);
}

}  // namespace er
