#include "elbowroom/bodies/simplify.hpp"

#include <meshoptimizer.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <set>

#include "elbowroom/bodies/bulge.hpp"
#include "elbowroom/collision/distance.hpp"
#include "elbowroom/collision/point_distance.hpp"
#include "elbowroom/model/hull.hpp"

namespace er {
namespace {

constexpr double kRounding = 1e-9;  // m; of what is worked out about shapes of metres

// What lies inside of the source, deeper than it is off, is inside still: a place below each of
// some faces, spread over all.
bool keeps_inside(const Surface& surface, const Surface& fewer, double off) {
  const Mesh left = mesh_of(fewer.corners, fewer.faces);
  Mesh source;  // made for the first place in doubt
  constexpr std::size_t kPlaces = 200;
  const std::size_t step = std::max<std::size_t>(1, surface.faces.size() / kPlaces);
  for (std::size_t i = 0; i < surface.faces.size(); i += step) {
    const auto [a, b, c] = surface.triangle(i);
    const Vector3 normal = (b - a).cross(c - a).normalized();
    if (!normal.allFinite()) continue;
    const Vector3 place = (a + b + c) / 3.0 - 2.0 * off * normal;
    if (encloses(*left.data, place) || nearest_face(*left.data, place).distance <= off) continue;
    if (!source.data) source = mesh_of(surface.corners, surface.faces);
    if (encloses(*source.data, place)) return false;
  }
  return true;
}

// A convex solid as planes, n . p <= offset, and the corners that they have.
class PlanesAbout {
 public:
  explicit PlanesAbout(const Hull& hull) : core_(Shape(hull), {}) {
    for (const Vector3& corner : hull.data->corners) inside_ += corner;
    inside_ /= static_cast<double>(hull.data->corners.size());
    for (int k = 0; k < 3; ++k)
      for (const double side : {-1.0, 1.0}) lay(side * Vector3::Unit(k));
  }
  /// Laid on the hull from this side.
  void lay(const Vector3& normal) {
    planes_.push_back(normal / (core_.furthest(normal) + kRounding - normal.dot(inside_)));
  }
  [[nodiscard]] std::size_t count() const { return planes_.size(); }
  /// The planes' duals have a hull, whose planes are the duals of the corners.
  [[nodiscard]] std::vector<Vector3> corners() const {
    std::vector<Vector3> out;
    const Hull dual = hull_of(planes_);
    for (const HullPlane& plane : dual.data->planes)
      out.emplace_back(inside_ + plane.normal / plane.offset);
    return out;
  }
  /// From the hull towards a point outside of it, as long as the gap between.
  [[nodiscard]] Vector3 gap_to(const Vector3& point) const {
    const Separation apart =
        distance_within(std::numeric_limits<double>::infinity(),
                        CoreShape(Shape(Sphere{0.0}), Pose::at(point)), core_, false);
    return apart.distance > 0.0 ? Vector3(apart.distance * apart.normal) : Vector3(Vector3::Zero());
  }
  /// The corners hold all of the hull, worked out anew.
  [[nodiscard]] static bool holds(const Hull& outer, const Hull& inner) {
    return std::all_of(
        outer.data->planes.begin(), outer.data->planes.end(), [&](const HullPlane& plane) {
          return std::all_of(
              inner.data->corners.begin(), inner.data->corners.end(),
              [&](const Vector3& corner) { return plane.normal.dot(corner) <= plane.offset; });
        });
  }

 private:
  CoreShape core_;
  Vector3 inside_ = Vector3::Zero();  // the middle of the box about it may be outside
  std::vector<Vector3> planes_;       // duals: normal over the distance from there
};

}  // namespace

Surface collapsed(const Surface& surface, double error) {
  const AlignedBox box = box_of(surface);
  std::vector<float> places;
  places.reserve(3 * surface.corners.size());
  for (const Vector3& corner : surface.corners)
    for (int k = 0; k < 3; ++k) places.push_back(static_cast<float>((corner - box.middle())[k]));
  std::vector<unsigned> indices;
  indices.reserve(3 * surface.faces.size());
  for (const auto& face : surface.faces)
    for (const int corner : face) indices.push_back(static_cast<unsigned>(corner));
  constexpr std::size_t kStride = 3 * sizeof(float);
  const double scale = meshopt_simplifyScale(places.data(), surface.corners.size(), kStride);
  std::vector<unsigned> left(indices.size());
  left.resize(meshopt_simplify(left.data(), indices.data(), indices.size(), places.data(),
                               surface.corners.size(), kStride, 0,
                               static_cast<float>(error / scale), 0U));

  Surface out{.name = surface.name,
              .corners = {},
              .faces = {},
              .colour = surface.colour,
              .off = surface.off};
  std::vector<int> number(surface.corners.size(), -1);
  for (std::size_t i = 0; i < left.size(); i += 3) {
    std::array<int, 3> face{};
    for (std::size_t k = 0; k < 3; ++k) {
      int& here = number[left[i + k]];
      if (here < 0) {
        here = static_cast<int>(out.corners.size());
        out.corners.push_back(surface.corners[left[i + k]]);
      }
      face[k] = here;
    }
    out.faces.push_back(face);
  }
  return out;
}

Simplified simplified(Surface surface, double detail, bool as_skin) {
  check_surface(surface);
  join_corners(surface);
  if (!(detail > 0.0) || surface.faces.empty()) return {std::move(surface), 0.0};
  const bool is_solid = !as_skin && edge_faults_of(surface).none();
  if (is_solid && enclosed_volume(surface.corners, surface.faces) < 0.0)
    for (auto& face : surface.faces) std::swap(face[1], face[2]);
  // The estimate is a mean: the largest is two to four times as much.
  constexpr int kTries = 6;
  constexpr double kTight = 0.1;
  constexpr std::size_t kMany = 20000;  // of fewer, more may be tried
  double aim = (surface.faces.size() > kMany ? 0.25 : 1.0) * detail;
  for (int i = 0; i < kTries; ++i) {
    Surface fewer = collapsed(surface, aim);
    aim *= 0.7;
    if (fewer.faces.empty()) continue;
    if (fewer.faces.size() == surface.faces.size()) break;
    const BulgeMeasure measure(fewer, as_skin);
    if (measure.is_solid() != is_solid) continue;
    const Bulge off = measure.of(surface, {.tolerance = kTight * detail, .bad = detail});
    if (off.most <= detail && (!is_solid || keeps_inside(surface, fewer, off.most)))
      return {std::move(fewer), off.most};
    if (off.least > detail) aim *= detail / off.least;
  }
  return {std::move(surface), 0.0};
}

Mesh mesh_in_detail(Surface surface, bool is_skin, FileOrigin origin) {
  const double source_off = surface.off;
  if (!(origin.detail > 0.0))
    return mesh_of(std::move(surface.corners), std::move(surface.faces), is_skin, std::move(origin),
                   source_off);
  Simplified fewer = simplified(std::move(surface), origin.detail, is_skin);
  const double thickness = source_off + (fewer.off > 0.0 ? fewer.off + kRounding : 0.0);
  return mesh_of(std::move(fewer.surface.corners), std::move(fewer.surface.faces), is_skin,
                 std::move(origin), thickness);
}

Hull coarser(const Hull& hull, double detail) {
  if (!(detail > 0.0)) return hull;
  PlanesAbout planes(hull);
  // Corners that are near enough and not cut off come again, but for rounding.
  std::set<std::array<std::int64_t, 3>> near_enough;
  const auto key_of = [](const Vector3& corner) {
    constexpr double kSame = 1e-8;  // m
    std::array<std::int64_t, 3> key{};
    for (std::size_t k = 0; k < 3; ++k)
      key[k] = std::llround(corner[static_cast<Eigen::Index>(k)] / kSame);
    return key;
  };
  while (2 * planes.count() < hull.data->corners.size()) {
    const std::vector<Vector3> corners = planes.corners();
    std::vector<Vector3> laid;
    for (const Vector3& corner : corners) {
      if (near_enough.count(key_of(corner)) > 0) continue;
      const Vector3 gap = planes.gap_to(corner);
      if (gap.norm() <= detail) {
        near_enough.insert(key_of(corner));
        continue;
      }
      // Corners next to each other ask for all but the same plane: one at a time.
      const Vector3 way = gap.normalized();
      constexpr double kAlike = 0.99;
      if (std::none_of(laid.begin(), laid.end(),
                       [&](const Vector3& other) { return other.dot(way) > kAlike; }))
        laid.push_back(way);
    }
    if (laid.empty()) {
      Hull out = hull_of(corners);
      return PlanesAbout::holds(out, hull) ? out : hull;
    }
    for (const Vector3& way : laid) planes.lay(way);
  }
  return hull;
}

Hull padded(const Hull& hull, double by) {
  if (!(by > 0.0)) return hull;
  std::vector<Vector3> points;
  for (const Vector3& corner : hull.data->corners)
    for (int side = 0; side < 8; ++side)
      points.emplace_back(corner + by * Vector3((side & 1) != 0 ? 1.0 : -1.0,
                                                (side & 2) != 0 ? 1.0 : -1.0,
                                                (side & 4) != 0 ? 1.0 : -1.0));
  auto data = std::make_shared<HullData>(*hull_of(points).data);
  data->origin = hull.data->origin;
  return {data};
}

Hull hull_in_detail(const Surface& surface, FileOrigin origin) {
  const Hull hull = padded(hull_of(surface.corners), surface.off);
  auto data = std::make_shared<HullData>(*coarser(hull, origin.detail).data);
  data->origin = std::move(origin);
  return {data};
}

}  // namespace er
