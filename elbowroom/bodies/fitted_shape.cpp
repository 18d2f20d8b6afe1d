#include "elbowroom/bodies/fitted_shape.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/base/random.hpp"
#include "elbowroom/bodies/triangles.hpp"
#include "elbowroom/model/hull.hpp"

namespace er {
namespace {

constexpr double kRounding = 1e-9;  // m; added all round

struct Disc {
  Eigen::Vector2d middle = Eigen::Vector2d::Zero();
  double radius = 0.0;

  [[nodiscard]] bool holds(const Eigen::Vector2d& point) const {
    return (point - middle).norm() <= radius * (1.0 + 1e-12) + 1e-12;
  }
};

Disc disc_on(const Eigen::Vector2d& a, const Eigen::Vector2d& b) {
  return {0.5 * (a + b), 0.5 * (a - b).norm()};
}
Disc disc_on(const Eigen::Vector2d& a, const Eigen::Vector2d& b, const Eigen::Vector2d& c) {
  const Eigen::Vector2d u = b - a;
  const Eigen::Vector2d v = c - a;
  const double twice = 2.0 * (u.x() * v.y() - u.y() * v.x());
  const Eigen::Vector2d off = Eigen::Vector2d(v.y() * u.squaredNorm() - u.y() * v.squaredNorm(),
                                              u.x() * v.squaredNorm() - v.x() * u.squaredNorm()) /
                              twice;
  // All on one line: the disc on the two ends holds the third.
  if (!off.allFinite()) return disc_on(a, (u.squaredNorm() > v.squaredNorm()) ? b : c);
  return {a + off, off.norm()};
}

// The smallest disc about points. E. Welzl, "Smallest enclosing disks (balls and ellipsoids)",
// 1991.
Disc smallest_disc(std::vector<Eigen::Vector2d> points) {
  RandomStream random(1);  // in any order but theirs
  for (std::size_t i = points.size(); i > 1; --i)
    std::swap(points[i - 1], points[static_cast<std::size_t>(random.index(static_cast<int>(i)))]);
  Disc out{points.front(), 0.0};
  for (std::size_t i = 1; i < points.size(); ++i) {
    if (out.holds(points[i])) continue;
    out = {points[i], 0.0};
    for (std::size_t j = 0; j < i; ++j) {
      if (out.holds(points[j])) continue;
      out = disc_on(points[i], points[j]);
      for (std::size_t k = 0; k < j; ++k)
        if (!out.holds(points[k])) out = disc_on(points[i], points[j], points[k]);
    }
  }
  for (const Eigen::Vector2d& point : points)
    out.radius = std::max(out.radius, (point - out.middle).norm());
  return out;
}

// The corners of a hull seen from a frame of some rotation.
std::vector<Vector3> seen_along(const Hull& hull, const Matrix3& rotation) {
  std::vector<Vector3> out;
  for (const Vector3& corner : hull.data->corners) out.push_back(rotation.transpose() * corner);
  return out;
}

AlignedBox box_about(const std::vector<Vector3>& points) {
  AlignedBox box{points.front(), points.front()};
  for (const Vector3& point : points) box = box.with({point, point});
  return box;
}

Part box_along(const Hull& hull, const Matrix3& rotation) {
  const AlignedBox box = box_about(seen_along(hull, rotation));
  return {.shape = Box{2.0 * (box.half().array() + kRounding)},
          .at = {rotation, rotation * box.middle()}};
}

// About the axis z of a rotation.
std::vector<Part> rounds_along(const Hull& hull, const Matrix3& rotation) {
  const std::vector<Vector3> points = seen_along(hull, rotation);
  std::vector<Eigen::Vector2d> flat;
  for (const Vector3& point : points) flat.emplace_back(point.head<2>());
  const Disc disc = smallest_disc(std::move(flat));
  const AlignedBox box = box_about(points);
  const double radius = disc.radius + kRounding;
  const Vector3 middle(disc.middle.x(), disc.middle.y(), box.middle().z());
  std::vector<Part> out;
  out.push_back({.shape = Cylinder{radius, 2.0 * (box.half().z() + kRounding)},
                 .at = {rotation, rotation * middle}});
  // The ends of a capsule's middle line: each corner is within the radius of it.
  double low = middle.z();
  double high = middle.z();
  for (const Vector3& point : points) {
    const double across = (point - middle).head<2>().norm();
    const double up = std::sqrt(std::max(0.0, radius * radius - across * across));
    high = std::max(high, point.z() - up);
    low = std::min(low, point.z() + up);
  }
  if (high > low)
    out.push_back(
        {.shape = Capsule{radius, high - low},
         .at = {rotation, rotation * Vector3(middle.x(), middle.y(), 0.5 * (low + high))}});
  return out;
}

// From the middle of the box towards the furthest point, in ever smaller steps: within a few
// hundredths of the smallest (M. Badoiu and K. L. Clarkson, "Smaller core-sets for balls", 2003).
Part ball_about(const Hull& hull) {
  Vector3 middle = hull.data->middle;
  double radius = 0.0;
  constexpr int kSteps = 1000;
  for (int i = 1; i <= kSteps + 1; ++i) {
    const Vector3* furthest = nullptr;
    radius = 0.0;
    for (const Vector3& corner : hull.data->corners)
      if (const double away = (corner - middle).norm(); away >= radius) {
        radius = away;
        furthest = &corner;
      }
    if (i <= kSteps) middle += (*furthest - middle) / static_cast<double>(i + 1);
  }
  return {.shape = Sphere{radius + kRounding}, .at = Pose::at(middle)};
}

// Along the axes in which the hull is spread, and square to its faces: for each of the larger ones,
// turned about its normal so that the box is smallest, which then has a side along an edge of what
// is seen.
std::vector<Matrix3> rotations_for(const Hull& hull) {
  struct Way {
    Vector3 normal;
    double area;
  };
  std::vector<Way> ways;
  for (const auto& [i, j, k] : hull.data->faces) {
    const auto at = [&](int c) { return hull.data->corners[static_cast<std::size_t>(c)]; };
    const Vector3 normal = (at(j) - at(i)).cross(at(k) - at(i));
    const double area = normal.norm();
    if (!(area > 0.0)) continue;
    constexpr double kSame = 1.0 - 1e-9;
    const auto same = std::find_if(ways.begin(), ways.end(), [&](const Way& way) {
      return std::abs(way.normal.dot(normal / area)) > kSame;
    });
    if (same != ways.end())
      same->area += area;
    else
      ways.push_back({normal / area, area});
  }
  std::stable_sort(ways.begin(), ways.end(),
                   [](const Way& a, const Way& b) { return a.area > b.area; });
  constexpr std::size_t kMostWays = 40;
  if (ways.size() > kMostWays) ways.resize(kMostWays);
  std::vector<Matrix3> out{spread_of(triangles_of(hull)).axes};
  for (const Way& first : ways) {
    const Matrix3* best = nullptr;
    double least = std::numeric_limits<double>::infinity();
    std::vector<Matrix3> turned;
    turned.reserve(ways.size());
    for (const Way& second : ways) {
      const Vector3 across = second.normal - second.normal.dot(first.normal) * first.normal;
      if (!(across.norm() > 1e-3)) continue;
      Matrix3 rotation;
      rotation.col(2) = first.normal;
      rotation.col(0) = across.normalized();
      rotation.col(1) = rotation.col(2).cross(rotation.col(0));
      turned.push_back(rotation);
      const double size = volume(box_along(hull, rotation).shape);
      if (size < least) {
        least = size;
        best = &turned.back();
      }
    }
    if (best != nullptr) out.push_back(*best);
  }
  return out;
}

// A convex solid of flat faces that holds a part, so little larger that it stands for it.
Hull hull_around(const Part& part) {
  constexpr int kSides = 48;
  std::vector<Vector3> points;
  const double wider = 1.0 / std::cos(std::numbers::pi / kSides);
  const auto ring = [&](double radius, double height) {
    for (int i = 0; i < kSides; ++i) {
      const double angle = 2.0 * std::numbers::pi * i / kSides;
      points.emplace_back(radius * wider * std::cos(angle), radius * wider * std::sin(angle),
                          height);
    }
  };
  // A half-sphere within rings that lie further out, and a tip.
  const auto dome = [&](double radius, double start, double side) {
    constexpr int kRings = kSides / 4;
    for (int i = 0; i < kRings; ++i) {
      const double angle = 0.5 * std::numbers::pi * i / kRings;
      ring(radius * wider * std::cos(angle), start + side * radius * wider * std::sin(angle));
    }
    points.emplace_back(0.0, 0.0, start + side * radius * wider * wider);
  };
  std::visit(Overloaded{[&](const Box& box) {
                          points = corners_of(AlignedBox{-0.5 * box.size, 0.5 * box.size});
                        },
                        [&](const Cylinder& c) {
                          ring(c.radius, -0.5 * c.length);
                          ring(c.radius, 0.5 * c.length);
                        },
                        [&](const Capsule& c) {
                          dome(c.radius, -0.5 * c.length, -1.0);
                          dome(c.radius, 0.5 * c.length, 1.0);
                        },
                        [&](const Sphere& ball) {
                          dome(ball.radius, 0.0, -1.0);
                          dome(ball.radius, 0.0, 1.0);
                        },
                        [](const auto&) {}},
             part.shape);
  for (Vector3& point : points) point = part.at * point;
  return hull_of(points);
}

}  // namespace

std::optional<FittedShape> fitted_about(const MeshBody& body, double within) {
  const Hull hull = hull_of(body.surface.corners);
  std::vector<Part> tried{ball_about(hull)};
  for (const Matrix3& rotation : rotations_for(hull)) {
    tried.push_back(box_along(hull, rotation));
    for (int k = 0; k < 3; ++k) {
      Matrix3 turned;
      turned.col(2) = rotation.col(k);
      turned.col(0) = rotation.col((k + 1) % 3);
      turned.col(1) = rotation.col((k + 2) % 3);
      for (Part& part : rounds_along(hull, turned)) tried.push_back(std::move(part));
    }
  }
  std::stable_sort(tried.begin(), tried.end(),
                   [](const Part& a, const Part& b) { return volume(a.shape) < volume(b.shape); });
  const BulgeMeasure measure(body);
  constexpr std::size_t kMostTried = 8;
  for (std::size_t i = 0; i < std::min(tried.size(), kMostTried); ++i) {
    Bulge bulge = measure.of(hull_around(tried[i]), {.tolerance = 0.05 * within, .bad = within});
    if (bulge.most > within) continue;
    if (body.volume > 0.0) bulge.volume = std::max(0.0, volume(tried[i].shape) - body.volume);
    return FittedShape{std::move(tried[i]), bulge};
  }
  return std::nullopt;
}

}  // namespace er
