#include "elbowroom/model/core_shape.hpp"

#include <cmath>

namespace er {
CoreShape::CoreShape(const Shape& shape, const Pose& pose)
    : kind(Kind::point), rotation(pose.rotation), centre(pose.position) {
  if (const auto* box = std::get_if<Box>(&shape)) {
    kind = Kind::box;
    half = 0.5 * box->size;
  } else if (const auto* sphere = std::get_if<Sphere>(&shape)) {
    radius = sphere->radius;
  } else if (const auto* cylinder = std::get_if<Cylinder>(&shape)) {
    kind = Kind::cylinder;
    half.z() = 0.5 * cylinder->length;
    disc = cylinder->radius;
  } else if (const auto* capsule = std::get_if<Capsule>(&shape)) {
    kind = Kind::segment;
    half.z() = 0.5 * capsule->length;
    radius = capsule->radius;
  } else if (const auto* convex = std::get_if<Hull>(&shape)) {
    kind = Kind::hull;
    hull = convex->data.get();
  }
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
    case Kind::hull: {
      const Vector3 local = in_axes_of(rotation, direction);
      const Vector3* best = &hull->corners.front();
      double furthest = best->dot(local);
      for (const Vector3& corner : hull->corners) {
        const double along = corner.dot(local);
        if (along > furthest) {
          furthest = along;
          best = &corner;
        }
      }
      return centre + product(rotation, *best);
    }
  }
  return centre;
}

double CoreShape::furthest(const Vector3& direction) const {
  return direction.dot(support(direction)) + radius * direction.norm();
}

}  // namespace er
