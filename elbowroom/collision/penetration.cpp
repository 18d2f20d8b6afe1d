// The expanding polytope of G. van den Bergen, "Proximity queries and penetration depth
// computation on 3D game objects", 2001: a polytope inside the Minkowski difference A - B grows
// towards its boundary until the face nearest to the origin lies on it.
#include "elbowroom/collision/penetration.hpp"

#include <Eigen/Geometry>
#include <array>
#include <cmath>
#include <limits>

#include "elbowroom/collision/simplex.hpp"

namespace er {
namespace {

constexpr std::size_t kMostPoints = 160;
constexpr std::size_t kMostFaces = 2 * kMostPoints;
constexpr double kAccuracy = 1e-8;  // m; the face nearest to the origin is this near the boundary

struct Face {
  std::array<std::size_t, 3> corner{};
  Vector3 normal = Vector3::Zero();  // unit, outwards
  double offset = 0.0;               // distance of the face's plane from the origin
};

class Polytope {
 public:
  Polytope(const CoreShape& a, const CoreShape& b) : a_(a), b_(b) {}

  DifferencePoint support(const Vector3& direction) const {
    const Vector3 on_a = a_.support(direction);
    const Vector3 on_b = b_.support(-direction);
    return {on_a - on_b, on_a, on_b};
  }

  // A tetrahedron of points of A - B that are well apart. False when A - B is flat.
  bool start() {
    points_[0] = support(Vector3::UnitX());
    points_[1] = support(-Vector3::UnitX());
    const Vector3 along = points_[1].v - points_[0].v;
    if (along.norm() < 1e-9) return false;
    Vector3 across = any_perpendicular(along.normalized());
    points_[2] = furthest(across, [&](const Vector3& v) {
      return along.cross(v - points_[0].v).norm() / along.norm();
    });
    const Vector3 normal = along.cross(points_[2].v - points_[0].v);
    if (normal.norm() < 1e-9 * along.norm()) return false;
    points_[3] = furthest(normal, [&](const Vector3& v) {
      return std::abs(normal.dot(v - points_[0].v)) / normal.norm();
    });
    if (std::abs(normal.normalized().dot(points_[3].v - points_[0].v)) < 1e-9) return false;
    point_count_ = 4;
    inside_ = 0.25 * (points_[0].v + points_[1].v + points_[2].v + points_[3].v);
    add_face({0, 1, 2});
    add_face({0, 1, 3});
    add_face({0, 2, 3});
    add_face({1, 2, 3});
    return true;
  }

  Penetration grow() {
    std::size_t best = nearest_face();
    while (point_count_ < kMostPoints && face_count_ + 2 < kMostFaces) {
      const DifferencePoint next = support(faces_[best].normal);
      if (next.v.dot(faces_[best].normal) - faces_[best].offset < kAccuracy) break;
      points_[point_count_] = next;
      if (!replace_visible_faces(point_count_++)) break;
      best = nearest_face();
    }
    return result(faces_[best]);
  }

 private:
  template <class Measure>
  DifferencePoint furthest(const Vector3& direction, Measure measure) const {
    const DifferencePoint one = support(direction);
    const DifferencePoint other = support(-direction);
    return measure(one.v) >= measure(other.v) ? one : other;
  }

  void add_face(std::array<std::size_t, 3> corner) {
    Face face;
    face.corner = corner;
    const Vector3& p = points_[corner[0]].v;
    face.normal = (points_[corner[1]].v - p).cross(points_[corner[2]].v - p);
    const double area = face.normal.norm();
    // A sliver has no direction of its own; putting it out of the running is safe, because its
    // neighbours share its corners.
    if (area < 1e-24) {
      face.offset = std::numeric_limits<double>::infinity();
      face.normal.setZero();
    } else {
      face.normal /= area;
      if (face.normal.dot(p - inside_) < 0.0) {
        face.normal = -face.normal;
        std::swap(face.corner[1], face.corner[2]);
      }
      face.offset = face.normal.dot(p);
    }
    faces_[face_count_++] = face;
  }

  [[nodiscard]] std::size_t nearest_face() const {
    std::size_t best = 0;
    for (std::size_t f = 1; f < face_count_; ++f)
      if (faces_[f].offset < faces_[best].offset) best = f;
    return best;
  }

  // Takes away all faces that the new point sees and closes the hole with faces to it.
  bool replace_visible_faces(std::size_t point) {
    struct Edge {
      std::size_t from, to;
    };
    std::array<Edge, 3 * kMostFaces> rim;
    std::size_t rim_count = 0;
    for (std::size_t f = 0; f < face_count_;) {
      const Face& face = faces_[f];
      if (face.normal.dot(points_[point].v) - face.offset <= 1e-13 ||
          face.offset == std::numeric_limits<double>::infinity()) {
        ++f;
        continue;
      }
      for (std::size_t e = 0; e < 3; ++e) {
        const Edge edge{face.corner[e], face.corner[(e + 1) % 3]};
        bool shared = false;
        for (std::size_t r = 0; r < rim_count; ++r) {
          if (rim[r].from != edge.to || rim[r].to != edge.from) continue;
          rim[r] = rim[--rim_count];
          shared = true;
          break;
        }
        if (!shared) rim[rim_count++] = edge;
      }
      faces_[f] = faces_[--face_count_];
    }
    if (rim_count == 0 || face_count_ + rim_count > kMostFaces) return face_count_ > 0;
    for (std::size_t r = 0; r < rim_count; ++r) add_face({rim[r].from, rim[r].to, point});
    return true;
  }

  [[nodiscard]] Penetration result(const Face& face) const {
    // The real boundary lies at or beyond the face, so the support along its normal is the depth
    // that is certain to free the two.
    const DifferencePoint edge = support(face.normal);
    Penetration out;
    out.depth = std::max(0.0, edge.v.dot(face.normal));
    out.normal = -face.normal;
    Simplex s;
    s.count = 3;
    for (std::size_t c = 0; c < 3; ++c) s.points[c] = points_[face.corner[c]];
    reduce_to_nearest(s);
    for (std::size_t n = 0; n < static_cast<std::size_t>(s.count); ++n) {
      out.point_a += s.weights[n] * s.points[n].a;
      out.point_b += s.weights[n] * s.points[n].b;
    }
    return out;
  }

  const CoreShape& a_;
  const CoreShape& b_;
  std::array<DifferencePoint, kMostPoints> points_;
  std::array<Face, kMostFaces> faces_;
  std::size_t point_count_ = 0;
  std::size_t face_count_ = 0;
  Vector3 inside_ = Vector3::Zero();
};

// Two thin cores that cross: the way out is at right angles to both.
Penetration crossing(const CoreShape& a, const CoreShape& b, const Vector3& touching) {
  const bool both_long = a.kind == CoreShape::Kind::segment && b.kind == CoreShape::Kind::segment;
  const CoreShape& longer = a.kind == CoreShape::Kind::segment ? a : b;
  Vector3 normal = both_long ? Vector3(a.rotation.col(2).cross(b.rotation.col(2)))
                             : any_perpendicular(longer.rotation.col(2));
  if (normal.norm() < 1e-9) normal = any_perpendicular(longer.rotation.col(2));
  Penetration out;
  out.normal = normal.normalized();
  out.point_a = touching;
  out.point_b = touching;
  return out;
}

}  // namespace

Penetration penetration(const CoreShape& a, const CoreShape& b, const Vector3& touching) {
  if (a.is_thin() && b.is_thin()) return crossing(a, b, touching);
  Polytope polytope(a, b);
  if (!polytope.start()) return crossing(a, b, touching);
  return polytope.grow();
}

}  // namespace er
