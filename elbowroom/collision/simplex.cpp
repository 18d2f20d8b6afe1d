#include "elbowroom/collision/simplex.hpp"

#include <Eigen/Geometry>
#include <cmath>
#include <limits>

namespace er {
namespace {

struct NearestOnSimplex {
  std::array<int, 3> points{};
  std::array<double, 3> weights{};
  int count = 0;
  Vector3 at = Vector3::Zero();
};

NearestOnSimplex on_segment(const Simplex& s, int i, int j) {
  const Vector3& a = s.points[static_cast<std::size_t>(i)].v;
  const Vector3 edge = s.points[static_cast<std::size_t>(j)].v - a;
  const double length2 = edge.squaredNorm();
  const double t = length2 > 0.0 ? -a.dot(edge) / length2 : 0.0;
  if (t <= 0.0) return {{i}, {1.0}, 1, a};
  if (t >= 1.0) return {{j}, {1.0}, 1, s.points[static_cast<std::size_t>(j)].v};
  return {{i, j}, {1.0 - t, t}, 2, a + t * edge};
}

NearestOnSimplex nearer(const NearestOnSimplex& x, const NearestOnSimplex& y) {
  return x.at.squaredNorm() <= y.at.squaredNorm() ? x : y;
}

NearestOnSimplex on_triangle(const Simplex& s, int i, int j, int k) {
  const Vector3& a = s.points[static_cast<std::size_t>(i)].v;
  const Vector3 ab = s.points[static_cast<std::size_t>(j)].v - a;
  const Vector3 ac = s.points[static_cast<std::size_t>(k)].v - a;
  const Vector3 normal = ab.cross(ac);
  const double area2 = normal.squaredNorm();
  // Barycentric coordinates of the origin's projection; inside when all are above zero.
  if (area2 > 1e-30 * ab.squaredNorm() * ac.squaredNorm()) {
    const double wj = (-a).cross(ac).dot(normal) / area2;
    const double wk = ab.cross(-a).dot(normal) / area2;
    const double wi = 1.0 - wj - wk;
    if (wi > 0.0 && wj > 0.0 && wk > 0.0)
      return {{i, j, k}, {wi, wj, wk}, 3, (a.dot(normal) / area2) * normal};
  }
  return nearer(on_segment(s, i, j), nearer(on_segment(s, i, k), on_segment(s, j, k)));
}

// True when the origin lies on the other side of triangle (i, j, k) than point `opposite`, or when
// the tetrahedron is too flat to say.
bool origin_is_outside(const Simplex& s, int i, int j, int k, int opposite) {
  const Vector3& a = s.points[static_cast<std::size_t>(i)].v;
  const Vector3 normal = (s.points[static_cast<std::size_t>(j)].v - a)
                             .cross(s.points[static_cast<std::size_t>(k)].v - a);
  const Vector3 across = s.points[static_cast<std::size_t>(opposite)].v - a;
  const double here = -a.dot(normal);
  const double there = across.dot(normal);
  // Faces of aligned boxes make tetrahedra that are flat but for rounding. Such a one holds
  // nothing: the nearest point is then on a face, and found there.
  if (std::abs(there) <= 1e-10 * normal.norm() * across.norm()) return true;
  return here * there <= 0.0;
}

}  // namespace

Vector3 reduce_to_nearest(Simplex& s) {
  NearestOnSimplex best;
  if (s.count == 1) {
    best = {{0}, {1.0}, 1, s.points[0].v};
  } else if (s.count == 2) {
    best = on_segment(s, 0, 1);
  } else if (s.count == 3) {
    best = on_triangle(s, 0, 1, 2);
  } else {
    static constexpr std::array<std::array<int, 4>, 4> kFaces{
        {{0, 1, 2, 3}, {0, 1, 3, 2}, {0, 2, 3, 1}, {1, 2, 3, 0}}};
    double best_length2 = std::numeric_limits<double>::infinity();
    for (const auto& [i, j, k, opposite] : kFaces) {
      if (!origin_is_outside(s, i, j, k, opposite)) continue;
      const NearestOnSimplex on_face = on_triangle(s, i, j, k);
      if (on_face.at.squaredNorm() >= best_length2) continue;
      best = on_face;
      best_length2 = on_face.at.squaredNorm();
    }
    if (best.count == 0) return Vector3::Zero();  // inside
  }
  Simplex reduced;
  reduced.count = best.count;
  for (std::size_t n = 0; n < static_cast<std::size_t>(best.count); ++n) {
    reduced.points[n] = s.points[static_cast<std::size_t>(best.points[n])];
    reduced.weights[n] = best.weights[n];
  }
  s = reduced;
  return best.at;
}

}  // namespace er
