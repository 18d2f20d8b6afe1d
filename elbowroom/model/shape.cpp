#include "elbowroom/model/shape.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

template <class... F>
struct Overloaded : F... {
  using F::operator()...;
};
template <class... F>
Overloaded(F...) -> Overloaded<F...>;

// Half extent of a disc of radius r normal to the unit vector n: r * sqrt(1 - n_i^2) along axis i.
Vector3 disc_extent(const Vector3& normal, double radius) {
  return radius * (Vector3::Ones() - normal.cwiseProduct(normal)).cwiseMax(0.0).cwiseSqrt();
}

double volume_of(const HullData& hull) {
  double volume = 0.0;
  const Vector3 base = hull.corners.front();
  for (const auto& [a, b, c] : hull.faces)
    volume += (hull.corners[static_cast<std::size_t>(a)] - base)
                  .dot((hull.corners[static_cast<std::size_t>(b)] - base)
                           .cross(hull.corners[static_cast<std::size_t>(c)] - base));
  return volume / 6.0;
}

// The frame of a shape along z that is to reach from one point to another, and the length.
std::pair<Pose, double> between(const Vector3& from, const Vector3& to) {
  const Vector3 way = to - from;
  const double length = way.norm();
  if (!(length > 0.0) || !std::isfinite(length))
    throw InputError("the two ends of a shape are the same point");
  // An end along +-z keeps the frame's own axes, so that nothing is turned without need.
  const Matrix3 rotation =
      std::abs(way.z()) == length ? Matrix3(Matrix3::Identity()) : rotation_with_z(way / length);
  return {{rotation, 0.5 * (from + to)}, length};
}

}  // namespace

Part cylinder_between(const Vector3& from, const Vector3& to, double radius) {
  const auto& [pose, length] = between(from, to);
  return {.shape = Cylinder{radius, length}, .at = pose};
}

Part capsule_between(const Vector3& from, const Vector3& to, double radius) {
  const auto& [pose, length] = between(from, to);
  return {.shape = Capsule{radius, length}, .at = pose};
}

std::string_view name_of(const Shape& shape) {
  return std::visit(
      Overloaded{[](const Box&) { return "box"; }, [](const Sphere&) { return "sphere"; },
                 [](const Cylinder&) { return "cylinder"; },
                 [](const Capsule&) { return "capsule"; }, [](const Hull&) { return "hull"; }},
      shape);
}

double bounding_radius(const Shape& shape) {
  return std::visit(
      Overloaded{[](const Box& b) { return 0.5 * b.size.norm(); },
                 [](const Sphere& s) { return s.radius; },
                 [](const Cylinder& c) { return std::hypot(c.radius, 0.5 * c.length); },
                 [](const Capsule& c) { return c.radius + 0.5 * c.length; },
                 [](const Hull& h) {
                   double furthest = 0.0;
                   for (const Vector3& corner : h.data->corners)
                     furthest = std::max(furthest, corner.squaredNorm());
                   return std::sqrt(furthest);
                 }},
      shape);
}

Vector3 half_extent(const Shape& shape, const Matrix3& rotation) {
  const Vector3 z = rotation.col(2);
  return std::visit(
      Overloaded{[&](const Box& b) -> Vector3 { return rotation.cwiseAbs() * (0.5 * b.size); },
                 [&](const Sphere& s) -> Vector3 { return Vector3::Constant(s.radius); },
                 [&](const Cylinder& c) -> Vector3 {
                   return 0.5 * c.length * z.cwiseAbs() + disc_extent(z, c.radius);
                 },
                 [&](const Capsule& c) -> Vector3 {
                   return 0.5 * c.length * z.cwiseAbs() + Vector3::Constant(c.radius);
                 },
                 [&](const Hull& h) -> Vector3 {
                   Vector3 half = Vector3::Zero();
                   for (const Vector3& corner : h.data->corners)
                     half = half.cwiseMax((rotation * corner).cwiseAbs());
                   return half;
                 }},
      shape);
}

double volume(const Shape& shape) {
  using std::numbers::pi;
  return std::visit(
      Overloaded{[](const Box& b) { return b.size.prod(); },
                 [](const Sphere& s) { return 4.0 / 3.0 * pi * std::pow(s.radius, 3); },
                 [](const Cylinder& c) { return pi * c.radius * c.radius * c.length; },
                 [](const Capsule& c) {
                   return pi * c.radius * c.radius * (c.length + 4.0 / 3.0 * c.radius);
                 },
                 [](const Hull& h) { return volume_of(*h.data); }},
      shape);
}

void check_shape(const Shape& shape, const std::string& subject) {
  const auto positive = [&](double value, const char* what) {
    if (!(value > 0.0) || !std::isfinite(value))
      throw InputError::about(subject, fmt::format("the {} of a {} must be above zero, found {} mm",
                                                   what, name_of(shape), value * 1e3));
  };
  std::visit(Overloaded{[&](const Box& b) {
                          for (int i = 0; i < 3; ++i) positive(b.size[i], "size");
                        },
                        [&](const Sphere& s) { positive(s.radius, "radius"); },
                        [&](const Hull& h) {
                          if (h.data == nullptr || h.data->corners.size() < 4 ||
                              !(volume_of(*h.data) > 0.0))
                            throw InputError::about(subject, "a hull without volume");
                        },
                        [&](const auto& round) {
                          positive(round.radius, "radius");
                          positive(round.length, "length");
                        }},
             shape);
}

}  // namespace er
