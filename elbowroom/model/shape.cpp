#include "elbowroom/model/shape.hpp"

#include <fmt/format.h>

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

}  // namespace

std::string_view name_of(const Shape& shape) {
  return std::visit(
      Overloaded{[](const Box&) { return "box"; }, [](const Sphere&) { return "sphere"; },
                 [](const Cylinder&) { return "cylinder"; },
                 [](const Capsule&) { return "capsule"; }},
      shape);
}

double bounding_radius(const Shape& shape) {
  return std::visit(
      Overloaded{[](const Box& b) { return 0.5 * b.size.norm(); },
                 [](const Sphere& s) { return s.radius; },
                 [](const Cylinder& c) { return std::hypot(c.radius, 0.5 * c.length); },
                 [](const Capsule& c) { return c.radius + 0.5 * c.length; }},
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
                 }},
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
                        [&](const auto& round) {
                          positive(round.radius, "radius");
                          positive(round.length, "length");
                        }},
             shape);
}

}  // namespace er
