#include "elbowroom/model/shape.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/model/cloud.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

// Nothing is looked at that is further out than this.
constexpr double kEndOfTheWorld = 1e6;  // m

// Half extent of a disc of radius r normal to the unit vector n: r * sqrt(1 - n_i^2) along axis i.
Vector3 disc_extent(const Vector3& normal, double radius) {
  return radius * (Vector3::Ones() - normal.cwiseProduct(normal)).cwiseMax(0.0).cwiseSqrt();
}

// About the origin, along the axes turned by `rotation`.
Vector3 half_extent_of(const AlignedBox& own, const Matrix3& rotation) {
  const AlignedBox turned = own.seen_from_outside({rotation, Vector3::Zero()});
  return turned.low.cwiseAbs().cwiseMax(turned.high.cwiseAbs());
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

Part cone_between(const Vector3& from, const Vector3& to, double radius, double top) {
  const auto& [pose, length] = between(from, to);
  // Along -z the frame of a round shape keeps its axes; a cone has to be turned over.
  const Pose turned =
      to.z() < from.z() && pose.rotation.isIdentity(0.0)
          ? Pose{Vector3(1.0, -1.0, -1.0).asDiagonal().toDenseMatrix(), pose.position}
          : pose;
  return {.shape = Cone{radius, top, length}, .at = turned};
}

Part capsule_between(const Vector3& from, const Vector3& to, double radius) {
  const auto& [pose, length] = between(from, to);
  return {.shape = Capsule{radius, length}, .at = pose};
}

std::string_view name_of(const Shape& shape) {
  return std::visit(
      Overloaded{[](const Box&) { return "box"; }, [](const Sphere&) { return "sphere"; },
                 [](const Cylinder&) { return "cylinder"; },
                 [](const Capsule&) { return "capsule"; }, [](const Hull&) { return "hull"; },
                 [](const Cone&) { return "cone"; }, [](const HalfSpace&) { return "half-space"; },
                 [](const Mesh&) { return "mesh"; }, [](const Cloud&) { return "cloud"; }},
      shape);
}

const FileOrigin* origin_of(const Shape& shape) {
  return std::visit(Overloaded{[](const Hull& h) { return &h.data->origin; },
                               [](const Mesh& m) { return &m.data->origin; },
                               [](const Cloud& c) { return &c.data->origin; },
                               [](const auto&) -> const FileOrigin* { return nullptr; }},
                    shape);
}

double enclosed_volume(const std::vector<Vector3>& corners,
                       const std::vector<std::array<int, 3>>& faces) {
  double volume = 0.0;
  const Vector3 base = corners.front();
  for (const auto& [a, b, c] : faces)
    volume += (corners[static_cast<std::size_t>(a)] - base)
                  .dot((corners[static_cast<std::size_t>(b)] - base)
                           .cross(corners[static_cast<std::size_t>(c)] - base));
  return volume / 6.0;
}

bool is_convex(const Shape& shape) {
  return !std::holds_alternative<Mesh>(shape) && !std::holds_alternative<Cloud>(shape);
}

bool is_bounded(const Shape& shape) { return !std::holds_alternative<HalfSpace>(shape); }

double bounding_radius(const Shape& shape) {
  return std::visit(
      Overloaded{
          [](const Box& b) { return 0.5 * b.size.norm(); },
          [](const Sphere& s) { return s.radius; },
          [](const Cylinder& c) { return std::hypot(c.radius, 0.5 * c.length); },
          [](const Capsule& c) { return c.radius + 0.5 * c.length; },
          [](const Cone& c) { return std::hypot(std::max(c.radius, c.top), 0.5 * c.length); },
          [](const Hull& h) {
            double furthest = 0.0;
            for (const Vector3& corner : h.data->corners)
              furthest = std::max(furthest, corner.squaredNorm());
            return std::sqrt(furthest);
          },
          [](const HalfSpace&) { return std::numeric_limits<double>::infinity(); },
          [](const Mesh& m) { return m.data->reach; },
          [](const Cloud& c) { return c.data->reach; }},
      shape);
}

BoundingBall bounding_ball(const Shape& shape) {
  if (const auto* hull = std::get_if<Hull>(&shape)) return {hull->data->middle, hull->data->radius};
  if (const auto* mesh = std::get_if<Mesh>(&shape)) return mesh->data->ball;
  if (const auto* cloud = std::get_if<Cloud>(&shape)) return cloud->data->ball;
  return {Vector3::Zero(), bounding_radius(shape)};
}

AlignedBox own_box(const Shape& shape) {
  if (const auto* hull = std::get_if<Hull>(&shape))
    return {hull->data->middle - hull->data->half, hull->data->middle + hull->data->half};
  if (const auto* mesh = std::get_if<Mesh>(&shape)) return mesh->data->tree.node(0).box;
  if (const auto* cloud = std::get_if<Cloud>(&shape)) return cloud->data->tree.node(0).box;
  return aligned_box(shape, {});
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
                 [&](const Cone& c) -> Vector3 {
                   return 0.5 * c.length * z.cwiseAbs() + disc_extent(z, std::max(c.radius, c.top));
                 },
                 [&](const Hull& h) -> Vector3 {
                   Vector3 half = Vector3::Zero();
                   for (const Vector3& corner : h.data->corners)
                     half = half.cwiseMax((rotation * corner).cwiseAbs());
                   return half;
                 },
                 [](const HalfSpace&) -> Vector3 { return Vector3::Constant(kEndOfTheWorld); },
                 [&](const auto& of_many) -> Vector3 {
                   return half_extent_of(of_many.data->tree.node(0).box, rotation);
                 }},
      shape);
}

AlignedBox aligned_box(const Shape& shape, const Pose& pose) {
  if (!is_convex(shape)) return own_box(shape).seen_from_outside(pose);
  const Vector3 half = half_extent(shape, pose.rotation);
  AlignedBox box{pose.position - half, pose.position + half};
  if (is_bounded(shape)) return box;
  for (Eigen::Index axis = 0; axis < 3; ++axis) {
    if (pose.rotation(axis, 2) == 1.0) box.high[axis] = pose.position[axis];
    if (pose.rotation(axis, 2) == -1.0) box.low[axis] = pose.position[axis];
  }
  return box;
}

double volume(const Shape& shape) {
  using std::numbers::pi;
  const auto of_ball = [](double radius) { return 4.0 / 3.0 * pi * std::pow(radius, 3); };
  return std::visit(
      Overloaded{[](const Box& b) { return b.size.prod(); },
                 [&](const Sphere& s) { return of_ball(s.radius); },
                 [](const Cylinder& c) { return pi * c.radius * c.radius * c.length; },
                 [](const Capsule& c) {
                   return pi * c.radius * c.radius * (c.length + 4.0 / 3.0 * c.radius);
                 },
                 [](const Cone& c) {
                   return pi / 3.0 * c.length *
                          (c.radius * c.radius + c.radius * c.top + c.top * c.top);
                 },
                 [](const Hull& h) { return enclosed_volume(h.data->corners, h.data->faces); },
                 [](const HalfSpace&) { return std::numeric_limits<double>::infinity(); },
                 [](const Mesh& m) {
                   return m.data->is_skin
                              ? 0.0
                              : std::abs(enclosed_volume(m.data->corners, m.data->faces));
                 },
                 [&](const Cloud& c) {
                   return static_cast<double>(c.data->points.size()) * of_ball(c.data->radius);
                 }},
      shape);
}

void check_shape(const Shape& shape, const std::string& subject, bool may_move) {
  if (may_move && !is_bounded(shape))
    throw InputError::about(subject, "a half-space cannot move",
                            "fixtures and zones alone may be made of it");
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
                              !(enclosed_volume(h.data->corners, h.data->faces) > 0.0))
                            throw InputError::about(subject, "a hull without volume");
                        },
                        [&](const Cone& c) {
                          positive(c.radius, "radius");
                          if (c.top != 0.0) positive(c.top, "upper radius");
                          positive(c.length, "length");
                        },
                        [](const HalfSpace&) {},
                        [&](const Mesh& m) {
                          if (m.data == nullptr) throw InputError::about(subject, "an empty mesh");
                        },
                        [&](const Cloud& c) {
                          if (c.data == nullptr) throw InputError::about(subject, "an empty cloud");
                        },
                        [&](const auto& round) {
                          positive(round.radius, "radius");
                          positive(round.length, "length");
                        }},
             shape);
}

}  // namespace er
