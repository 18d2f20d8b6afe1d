#include "elbowroom/bodies/hull_set.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <optional>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/on_all_cores.hpp"
#include "elbowroom/bodies/simplify.hpp"
#include "elbowroom/bodies/triangles.hpp"
#include "elbowroom/model/hull.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

// A part of a body: what a convex cell has of its surface, and of its inside.
struct Piece {
  std::vector<Triangle> surface;
  Hull cell;
  Hull hull;

  [[nodiscard]] double volume() const { return er::volume(Shape(hull)); }
};

// What of triangles is beyond a plane (n . p >= offset), cut at it. Of those that lie in it the
// ones that have their inside beyond it: others would stretch the hull over all of a flat face.
std::vector<Triangle> beyond(const std::vector<Triangle>& triangles, const HullPlane& plane) {
  std::vector<Triangle> out;
  for (const Triangle& t : triangles) {
    std::array<double, 3> height{};
    for (std::size_t k = 0; k < 3; ++k) {
      constexpr double kIn = 1e-9;  // m
      height[k] = plane.normal.dot(t[k]) - plane.offset;
      if (std::abs(height[k]) <= kIn) height[k] = 0.0;
    }
    const auto [low, high] = std::minmax({height[0], height[1], height[2]});
    const bool is_behind =
        high <= 0.0 && (low < 0.0 || plane.normal.dot((t[1] - t[0]).cross(t[2] - t[0])) >= 0.0);
    if (is_behind) continue;
    if (low >= 0.0) {
      out.push_back(t);
      continue;
    }
    std::array<Vector3, 4> ring;
    std::size_t count = 0;
    for (std::size_t k = 0; k < 3; ++k) {
      const std::size_t next = (k + 1) % 3;
      if (height[k] >= 0.0) ring[count++] = t[k];
      if ((height[k] > 0.0 && height[next] < 0.0) || (height[k] < 0.0 && height[next] > 0.0))
        ring[count++] = t[k] + height[k] / (height[k] - height[next]) * (t[next] - t[k]);
    }
    for (std::size_t k = 2; k < count; ++k) out.push_back({ring[0], ring[k - 1], ring[k]});
  }
  return out;
}

std::optional<Hull> hull_about(const std::vector<Vector3>& points) {
  try {
    return hull_of(points);
  } catch (const InputError&) {
    return std::nullopt;  // all in one plane
  }
}

std::vector<Vector3> corners_of(const std::vector<Triangle>& triangles) {
  std::vector<Vector3> out;
  for (const Triangle& t : triangles) out.insert(out.end(), t.begin(), t.end());
  return out;
}

// The extreme points of a body within a cell are on its surface, or they are corners of the cell
// inside of it. Nothing where there is no volume.
std::optional<Piece> piece_of(std::vector<Triangle> surface, Hull cell, const MeshData& solid) {
  std::vector<Vector3> points = corners_of(surface);
  for (const Vector3& corner : cell.data->corners)
    if (encloses(solid, corner)) points.push_back(corner);
  std::optional<Hull> hull = hull_about(points);
  if (!hull) return std::nullopt;
  return Piece{std::move(surface), std::move(cell), std::move(*hull)};
}

// How far the hull goes on in front of the surface, times how much of it: nothing for what is
// convex. In front, not to whichever side is near: slices of a bored disc are thin, and no better.
double void_of(const Piece& piece) {
  double sum = 0.0;
  for (const Triangle& t : piece.surface) {
    const Vector3 middle = middle_of(t);
    const Vector3 twice = (t[1] - t[0]).cross(t[2] - t[0]);
    const double area = twice.norm();
    if (!(area > 0.0)) continue;
    const Vector3 ahead = twice / area;
    double way = std::numeric_limits<double>::infinity();
    for (const HullPlane& plane : piece.hull.data->planes) {
      constexpr double kAlong = 1e-9;
      const double rate = plane.normal.dot(ahead);
      if (rate > kAlong) way = std::min(way, (plane.offset - plane.normal.dot(middle)) / rate);
    }
    sum += area * std::max(0.0, way);
  }
  return sum;
}

struct Halves {
  Piece first;
  Piece second;
};

// Both sides of a plane; nothing where it leaves one of them without volume.
std::optional<Halves> halves_of(const Piece& piece, const HullPlane& plane, const MeshData& solid) {
  const std::vector<Triangle> cell = triangles_of(piece.cell);
  const auto half = [&](const HullPlane& side) -> std::optional<Piece> {
    std::optional<Hull> room = hull_about(corners_of(beyond(cell, side)));
    if (!room) return std::nullopt;
    return piece_of(beyond(piece.surface, side), std::move(*room), solid);
  };
  std::optional<Piece> first = half(plane);
  if (!first) return std::nullopt;
  std::optional<Piece> second = half({-plane.normal, -plane.offset});
  if (!second) return std::nullopt;
  return Halves{std::move(*first), std::move(*second)};
}

void add_unless_there(std::vector<HullPlane>& planes, const HullPlane& plane) {
  constexpr double kSame = 1e-6;
  const auto is_same = [&](const HullPlane& other) {
    return std::abs(other.normal.dot(plane.normal)) > 1.0 - kSame * kSame &&
           std::abs(other.offset * other.normal.dot(plane.normal) - plane.offset) < kSame;
  };
  if (std::none_of(planes.begin(), planes.end(), is_same)) planes.push_back(plane);
}

// Planes that may be worth a cut: across the axes of the piece and those along which it is spread,
// and those of its larger faces.
std::vector<HullPlane> planes_through(const Piece& piece) {
  const Spread spread = spread_of(piece.surface);
  if (!(spread.area > 0.0)) return {};
  std::vector<HullPlane> out;
  for (int k = 0; k < 3; ++k) {
    for (const Vector3& axis : {Vector3(Vector3::Unit(k)), Vector3(spread.axes.col(k))}) {
      double low = axis.dot(spread.middle);
      double high = low;
      for (const Vector3& corner : piece.hull.data->corners) {
        low = std::min(low, axis.dot(corner));
        high = std::max(high, axis.dot(corner));
      }
      for (const double share : {0.25, 0.5, 0.75})
        add_unless_there(out, {axis, low + share * (high - low)});
      add_unless_there(out, {axis, axis.dot(spread.middle)});
    }
  }
  std::vector<Triangle> largest = piece.surface;
  std::stable_sort(largest.begin(), largest.end(),
                   [](const Triangle& a, const Triangle& b) { return area_of(a) > area_of(b); });
  constexpr std::size_t kMostPlanes = 48;
  for (const Triangle& t : largest) {
    if (out.size() >= kMostPlanes) break;
    const Vector3 normal = (t[1] - t[0]).cross(t[2] - t[0]).normalized();
    if (normal.allFinite()) add_unless_there(out, {normal, normal.dot(t[0])});
  }
  return out;
}

// The plane that leaves the least room to the hulls, and the least void in front of the surface:
// the first cut through something hollow alone gains no room yet, but it opens the void.
std::optional<HullPlane> best_plane(const Piece& piece, const MeshData& solid) {
  constexpr double kNone = std::numeric_limits<double>::infinity();
  const std::vector<HullPlane> planes = planes_through(piece);
  std::vector<double> left(planes.size(), kNone);
  on_all_cores(planes.size(), {}, "", [&](std::size_t i) {
    const std::optional<Halves> halves = halves_of(piece, planes[i], solid);
    if (!halves) return;
    constexpr double kVoid = 0.2;
    left[i] = 0.0;
    for (const Piece* half : {&halves->first, &halves->second})
      left[i] += half->volume() + kVoid * void_of(*half);
  });
  const auto least = std::min_element(left.begin(), left.end());
  if (least == left.end() || *least == kNone) return std::nullopt;
  return planes[static_cast<std::size_t>(least - left.begin())];
}

// A little larger than what it holds.
Hull room_about(const Surface& surface) {
  AlignedBox box = box_of(surface);
  const Vector3 more = 0.01 * box.half() + Vector3::Constant(1e-6);
  box.low -= more;
  box.high += more;
  return hull_of(corners_of(box));
}

constexpr double kTolerance = 0.05;  // of what is wanted

// Whether a hull stands out too far, or not.
BulgeWanted wanted(const HullSetOptions& options) {
  return {.tolerance = kTolerance * options.within,
          .good = options.within,
          .bad = options.within,
          .halvings = 3000};
}

// Two hulls become one where that does not stand out too far: those first that gain the least room.
class Joiner {
 public:
  Joiner(std::vector<Hull> hulls, const BulgeMeasure& measure, const HullSetOptions& options)
      : hulls_(std::move(hulls)), measure_(measure), options_(options) {
    for (std::size_t b = 1; b < hulls_.size(); ++b) add_choices(b);
  }

  std::vector<Hull> run() {
    while (join_one(false)) {
    }
    while (count() > options_.most && join_one(true)) {
    }
    std::vector<Hull> out;
    for (Hull& hull : hulls_)
      if (hull.data) out.push_back(std::move(hull));
    return out;
  }

 private:
  struct Choice {
    std::size_t a;
    std::size_t b;
    double gained;
    Hull both;
    bool stands_out = false;  // it was tried
  };

  [[nodiscard]] int count() const {
    return static_cast<int>(std::count_if(hulls_.begin(), hulls_.end(),
                                          [](const Hull& hull) { return hull.data != nullptr; }));
  }
  // Of one with all before it.
  void add_choices(std::size_t b) {
    const Hull& other = hulls_[b];
    for (std::size_t a = 0; a < b; ++a) {
      const Hull& one = hulls_[a];
      if (!one.data || own_box(one).gap_to(own_box(other)) > options_.within) continue;
      std::vector<Vector3> corners = one.data->corners;
      corners.insert(corners.end(), other.data->corners.begin(), other.data->corners.end());
      Hull both = hull_of(corners);
      const double apart = volume(Shape(one)) + volume(Shape(other));
      choices_.push_back({a, b, volume(Shape(both)) / apart - 1.0, std::move(both)});
    }
  }

  // `anyway`: there are too many.
  bool join_one(bool anyway) {
    Choice* best = nullptr;
    while (true) {
      best = nullptr;
      for (Choice& one : choices_)
        if ((anyway || !one.stands_out) && (best == nullptr || one.gained < best->gained))
          best = &one;
      constexpr double kMostGained = 0.1;  // else it takes up what others have already
      if (best == nullptr || (!anyway && best->gained > kMostGained)) return false;
      if (anyway || measure_.of(best->both, wanted(options_)).most <= options_.within) break;
      best->stands_out = true;
    }
    const std::size_t a = best->a;
    const std::size_t b = best->b;
    hulls_[a] = {};
    hulls_[b] = {};
    hulls_.push_back(std::move(best->both));
    std::erase_if(choices_, [&](const Choice& one) {
      return one.a == a || one.b == a || one.a == b || one.b == b;
    });
    add_choices(hulls_.size() - 1);
    return true;
  }

  std::vector<Hull> hulls_;  // empty where it was joined with another
  std::vector<Choice> choices_;
  const BulgeMeasure& measure_;
  const HullSetOptions& options_;
};

// A piece, and the same part of the body with less detail, by which its cuts are chosen.
struct Work {
  Piece piece;
  Piece rough;
  Bulge bulge;
};

class Cutter {
 public:
  Cutter(const MeshBody& body, const HullSetOptions& options) : options_(options), measure_(body) {
    const Surface outside = body.outside();
    Surface rough = outside;
    constexpr std::size_t kEnough = 1500;  // triangles to choose cuts by
    for (double error = 0.1 * options.within;
         rough.faces.size() > kEnough && error < 0.1 * body.size().norm(); error *= 2.0) {
      Surface fewer = collapsed(outside, error);
      if (!fewer.faces.empty() && edge_faults_of(fewer).none()) rough = std::move(fewer);
    }
    rough_solid_ = mesh_of(rough.corners, rough.faces);
    const Hull room = room_about(outside);
    std::optional<Piece> whole = piece_of(triangles_of(outside), room, measure_.mesh());
    std::optional<Piece> rough_whole = piece_of(triangles_of(rough), room, *rough_solid_.data);
    if (!whole || !rough_whole) throw InputError("all of it lies in one plane, so it has no hull");
    add(std::move(*whole), std::move(*rough_whole));
  }

  HullSet run() {
    constexpr int kMoreFirst = 2;  // as some are joined after
    while (static_cast<int>(work_.size()) < kMoreFirst * options_.most && cut_worst()) {
    }
    std::vector<Hull> hulls;
    for (Work& one : work_) hulls.push_back(std::move(one.piece.hull));
    Joiner joiner(std::move(hulls), measure_, options_);
    HullSet out;
    out.hulls = joiner.run();
    for (const Hull& hull : out.hulls) {
      Bulge bulge =
          measure_.of(hull, {.tolerance = kTolerance * options_.within, .share = kTolerance});
      // Near what is wanted, whether it is within is known better than by how much it is not.
      if (bulge.most > options_.within)
        bulge.most = std::min(bulge.most, measure_.of(hull, wanted(options_)).most);
      if (bulge.most > out.bulge.most) out.bulge = bulge;
    }
    return out;
  }

 private:
  [[nodiscard]] Bulge bulge_of(const Hull& hull) const {
    return measure_.of(hull, wanted(options_));
  }
  void add(Piece piece, Piece rough) {
    const Bulge bulge = bulge_of(piece.hull);
    work_.push_back({std::move(piece), std::move(rough), bulge});
  }

  bool cut_worst() {
    Work* worst = nullptr;
    for (Work& one : work_)
      if (one.bulge.most > options_.within && !one.piece.surface.empty() &&
          (worst == nullptr || one.bulge.most > worst->bulge.most))
        worst = &one;
    if (worst == nullptr) return false;
    const std::optional<HullPlane> plane = best_plane(worst->rough, *rough_solid_.data);
    if (!plane) return false;
    std::optional<Halves> halves = halves_of(worst->piece, *plane, measure_.mesh());
    std::optional<Halves> rough = halves_of(worst->rough, *plane, *rough_solid_.data);
    if (!halves || !rough) return false;
    *worst = std::move(work_.back());
    work_.pop_back();
    add(std::move(halves->first), std::move(rough->first));
    add(std::move(halves->second), std::move(rough->second));
    return true;
  }

  HullSetOptions options_;
  BulgeMeasure measure_;
  Mesh rough_solid_;
  std::vector<Work> work_;
};

}  // namespace

HullSet hulls_along(const MeshBody& body, const HullSetOptions& options) {
  if (!(options.within > 0.0) || options.most < 1)
    throw InputError("hulls along a body need a distance above zero, and at least one hull");
  if (!(body.volume > 0.0))
    throw InputError("it has no inside that hulls could follow",
                     "mend the mesh, or take its one hull");
  HullSet out = Cutter(body, options).run();
  double all = 0.0;
  for (const Hull& hull : out.hulls) all += volume(Shape(hull));
  double own = body.volume;
  if (body.hollows > 0) {
    const Surface outside = body.outside();
    own = enclosed_volume(outside.corners, outside.faces);
  }
  out.bulge.volume = std::max(0.0, all - own);
  return out;
}

}  // namespace er
