#include "elbowroom/model/core_shape.hpp"

#include <cmath>
#include <limits>

#include "elbowroom/model/cloud.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {

CoreShape::CoreShape(const Shape& shape, const Pose& pose)
    : rotation(pose.rotation), centre(pose.position) {
  std::visit(Overloaded{[&](const Box& box) {
                          kind = Kind::box;
                          half = 0.5 * box.size;
                        },
                        [&](const Sphere& sphere) { radius = sphere.radius; },
                        [&](const Cylinder& cylinder) {
                          kind = Kind::cylinder;
                          half.z() = 0.5 * cylinder.length;
                          disc = cylinder.radius;
                        },
                        [&](const Capsule& capsule) {
                          kind = Kind::segment;
                          half.z() = 0.5 * capsule.length;
                          radius = capsule.radius;
                        },
                        [&](const Cone& cone) {
                          kind = Kind::cone;
                          half.z() = 0.5 * cone.length;
                          disc = cone.radius;
                          upper_disc = cone.top;
                        },
                        [&](const Hull& hull) {
                          kind = Kind::corners;
                          corners = hull.data->corners;
                        },
                        [&](const HalfSpace&) { kind = Kind::half_space; },
                        [&](const Mesh& mesh) {
                          kind = Kind::corners;
                          corners = mesh.data->corners;
                          radius = mesh.data->thickness;
                        },
                        [&](const Cloud& cloud) {
                          kind = Kind::corners;
                          corners = cloud.data->points;
                          radius = cloud.data->radius;
                        }},
             shape);
}

CoreShape::CoreShape(std::span<const Vector3> points, double thickness, const Pose& pose)
    : kind(Kind::corners),
      rotation(pose.rotation),
      centre(pose.position),
      radius(thickness),
      corners(points) {}

CoreShape CoreShape::triangle_of(const MeshData& mesh, int face, const Pose& pose) {
  CoreShape out;
  out.kind = Kind::triangle;
  out.radius = mesh.thickness;
  const std::array<Vector3, 3> own = mesh.triangle(face);
  for (int k = 0; k < 3; ++k) out.triangle.col(k) = pose * own[static_cast<std::size_t>(k)];
  out.centre = (out.triangle.col(0) + out.triangle.col(1) + out.triangle.col(2)) / 3.0;
  return out;
}

CoreShape CoreShape::ball_of(const CloudData& cloud, int point, const Pose& pose) {
  CoreShape out;
  out.radius = cloud.radius;
  out.centre = pose * cloud.points[static_cast<std::size_t>(point)];
  return out;
}

Vector3 CoreShape::support(const Vector3& direction) const {
  switch (kind) {
    case Kind::point:
      return centre;
    case Kind::segment: {
      const double side = rotation.col(2).dot(direction) >= 0.0 ? half.z() : -half.z();
      return centre + side * rotation.col(2);
    }
    case Kind::box: {
      const Vector3 local = in_axes_of(rotation, direction);
      return centre + product(rotation, Vector3(std::copysign(half.x(), local.x()),
                                                std::copysign(half.y(), local.y()),
                                                std::copysign(half.z(), local.z())));
    }
    case Kind::cylinder: {
      const Vector3 local = in_axes_of(rotation, direction);
      const double across = std::sqrt(local.x() * local.x() + local.y() * local.y());
      Vector3 corner(0.0, 0.0, std::copysign(half.z(), local.z()));
      if (across > 1e-12 * std::abs(local.z())) {
        corner.x() = disc * local.x() / across;
        corner.y() = disc * local.y() / across;
      }
      return centre + product(rotation, corner);
    }
    case Kind::cone: {
      const Vector3 local = in_axes_of(rotation, direction);
      const double across = std::sqrt(local.x() * local.x() + local.y() * local.y());
      const bool up =
          half.z() * local.z() + upper_disc * across >= -half.z() * local.z() + disc * across;
      Vector3 corner(0.0, 0.0, up ? half.z() : -half.z());
      if (across > 1e-12 * std::abs(local.z())) {
        corner.x() = (up ? upper_disc : disc) * local.x() / across;
        corner.y() = (up ? upper_disc : disc) * local.y() / across;
      }
      return centre + product(rotation, corner);
    }
    case Kind::corners: {
      const Vector3 local = in_axes_of(rotation, direction);
      const Vector3* best = &corners.front();
      double furthest = best->dot(local);
      for (const Vector3& corner : corners) {
        const double along = corner.dot(local);
        if (along > furthest) {
          furthest = along;
          best = &corner;
        }
      }
      return centre + product(rotation, *best);
    }
    case Kind::triangle: {
      Eigen::Index best = 0;
      in_axes_of(triangle, direction).maxCoeff(&best);
      return triangle.col(best);
    }
    case Kind::half_space:
      break;
  }
  return centre;
}

double CoreShape::furthest(const Vector3& direction) const {
  if (kind == Kind::half_space) {
    const Vector3 out = rotation.col(2);
    const double along = direction.dot(out);
    const bool is_square = (direction - along * out).norm() <= 1e-14 * along;
    return is_square ? direction.dot(centre) : std::numeric_limits<double>::infinity();
  }
  return direction.dot(support(direction)) + radius * direction.norm();
}

}  // namespace er
