#include "elbowroom/bodies/bulge.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <cmath>
#include <queue>

#include "elbowroom/base/on_all_cores.hpp"
#include "elbowroom/bodies/triangles.hpp"
#include "elbowroom/collision/distance.hpp"
#include "elbowroom/collision/point_distance.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

// No point of a triangle comes up to the surface.
bool is_apart_from(const MeshData& surface, const Triangle& triangle) {
  const CoreShape core(triangle, 0.0, {});
  AlignedBox box{triangle[0], triangle[0]};
  for (const Vector3& corner : triangle) box = box.with({corner, corner});
  bool apart = true;
  surface.tree.for_each_near(
      box, [] { return 0.0; },
      [&](int face) {
        apart = further_apart_than(0.0, core, CoreShape::triangle_of(surface, face, {}));
        return apart;
      });
  return apart;
}

}  // namespace

// The triangle with the largest bound is looked at closer, and halved, again and again.
class BulgeMeasure::Search {
 public:
  Search(const BulgeMeasure& about, const BulgeWanted& wanted)
      : skin_(*about.skin_.data), is_solid_(about.is_solid_), wanted_(wanted) {}

  // What is known of some points spares a closer look at most of the rest.
  void look_at_some(const Surface& surface) {
    constexpr std::size_t kPoints = 5000;
    const std::size_t step = std::max<std::size_t>(1, surface.corners.size() / kPoints);
    struct Far {
      double distance;
      Vector3 at;
    };
    std::vector<Far> far;
    for (std::size_t i = 0; i < surface.corners.size(); i += step)
      far.push_back({nearest_face(skin_, surface.corners[i]).distance, surface.corners[i]});
    std::stable_sort(far.begin(), far.end(),
                     [](const Far& a, const Far& b) { return a.distance > b.distance; });
    for (const Far& one : far) {
      if (is_solid_ && encloses(skin_, one.at)) continue;
      found_.least = one.distance;
      found_.at = one.at;
      break;
    }
  }

  void add(const Triangle& corners) { keep(looked_closer_at(seen(corners))); }

  // Many at once, each by what is known before.
  void add_all(const Surface& surface) {
    std::vector<Patch> patches(surface.faces.size());
    const double good = enough();
    constexpr std::size_t kTogether = 500;
    on_all_cores((patches.size() + kTogether - 1) / kTogether, {}, "", [&](std::size_t block) {
      const std::size_t end = std::min(patches.size(), (block + 1) * kTogether);
      for (std::size_t i = block * kTogether; i < end; ++i) {
        patches[i] = seen(surface.triangle(i));
        if (patches[i].most > good) bound_by_moving(patches[i], good);
      }
    });
    for (const Patch& patch : patches) keep(patch);
  }

  // It is off by too much already.
  [[nodiscard]] bool is_known() const { return found_.least > wanted_.bad; }
  [[nodiscard]] Bulge given_up() const {
    Bulge out = found_;
    out.most = std::numeric_limits<double>::infinity();
    return out;
  }

  Bulge run() {
    int halved = 0;
    while (!open_.empty() && !is_known() && open_.top().most > enough()) {
      const Patch patch = open_.top();
      if (patch.was_looked_at && ++halved > wanted_.halvings) break;
      open_.pop();
      if (patch.was_looked_at)
        halve(patch.corners);
      else
        keep(looked_closer_at(patch));
    }
    found_.most = std::max({found_.least, settled_, open_.empty() ? 0.0 : open_.top().most});
    return found_;
  }

 private:
  struct Patch {
    Triangle corners;
    NearestFace nearest = {};  // to its middle
    double radius = 0.0;       // about it
    double most = 0.0;         // of the distances of its points
    bool was_looked_at = false;
    bool operator<(const Patch& other) const { return most < other.most; }

    [[nodiscard]] Vector3 middle() const { return middle_of(corners); }
  };

  [[nodiscard]] double enough() const {
    return std::max(wanted_.good,
                    found_.least + std::max(wanted_.tolerance, wanted_.share * found_.least));
  }
  void keep(const Patch& patch) {
    if (patch.most <= enough())
      settled_ = std::max(settled_, patch.most);
    else
      open_.push(patch);
  }

  // By the distance of its middle and how far its points are from there; or by that of its corners
  // from the triangle nearest to its middle, as the distance from something convex is convex.
  [[nodiscard]] Patch seen(const Triangle& corners) const {
    Patch out{.corners = corners};
    const Vector3 middle = out.middle();
    out.nearest = nearest_face(skin_, middle);
    const Triangle face = skin_.triangle(out.nearest.face);
    double from_face = 0.0;
    for (const Vector3& corner : corners) {
      out.radius = std::max(out.radius, (corner - middle).norm());
      from_face = std::max(from_face, triangle_distance(face, corner));
    }
    out.most = std::min(out.nearest.distance + out.radius, from_face);
    return out;
  }
  // In front of a solid, by how far it has to be moved back to be inside of it with all its points.
  void bound_by_moving(Patch& patch, double by) const {
    if (is_solid_ && is_inside_when_moved(patch.corners, by)) patch.most = by;
  }
  // And by which side of the surface it is on.
  Patch looked_closer_at(Patch patch) {
    if (patch.most > enough()) bound_by_moving(patch, enough());
    if (patch.most <= enough()) return patch;
    patch.was_looked_at = true;
    if (!is_solid_ || patch.nearest.distance == 0.0 || !encloses(skin_, patch.middle())) {
      if (patch.nearest.distance > found_.least) {
        found_.least = patch.nearest.distance;
        found_.at = patch.middle();
      }
    } else {
      patch.most =
          patch.nearest.distance >= patch.radius ? 0.0 : std::min(patch.most, patch.radius);
    }
    return patch;
  }
  [[nodiscard]] bool is_inside_when_moved(const Triangle& corners, double by) const {
    const Vector3 normal = (corners[1] - corners[0]).cross(corners[2] - corners[0]).normalized();
    if (!normal.allFinite()) return false;
    const Triangle moved{corners[0] - by * normal, corners[1] - by * normal,
                         corners[2] - by * normal};
    return encloses(skin_, moved[0]) && is_apart_from(skin_, moved);
  }

  // Across its longest side.
  void halve(const Triangle& corners) {
    std::size_t longest = 0;
    const auto side = [&](std::size_t k) { return (corners[(k + 1) % 3] - corners[k]).norm(); };
    for (std::size_t k = 1; k < 3; ++k)
      if (side(k) > side(longest)) longest = k;
    const Vector3& a = corners[longest];
    const Vector3& b = corners[(longest + 1) % 3];
    const Vector3& c = corners[(longest + 2) % 3];
    const Vector3 half = 0.5 * (a + b);
    add({a, half, c});
    add({half, b, c});
  }

  const MeshData& skin_;
  bool is_solid_;
  const BulgeWanted& wanted_;
  Bulge found_;
  double settled_ = 0.0;  // the largest bound of those that are good enough
  std::priority_queue<Patch> open_;
};

BulgeMeasure::BulgeMeasure(Surface surface, bool as_skin)
    : is_solid_(!as_skin && edge_faults_of(surface).none()) {
  skin_ = mesh_of(std::move(surface.corners), std::move(surface.faces), !is_solid_);
}

BulgeMeasure::BulgeMeasure(const MeshBody& body) : BulgeMeasure(body.outside()) {}

Bulge BulgeMeasure::of(const Surface& surface, const BulgeWanted& wanted) const {
  Search search(*this, wanted);
  constexpr std::size_t kMany = 1000;
  if (surface.faces.size() > kMany) search.look_at_some(surface);
  if (search.is_known()) return search.given_up();
  search.add_all(surface);
  return search.run();
}

Bulge BulgeMeasure::of(const Hull& hull, const BulgeWanted& wanted) const {
  return of(Surface{.corners = hull.data->corners, .faces = hull.data->faces}, wanted);
}

Bulge bulge_of(const Hull& hull, const MeshBody& body, double tolerance) {
  Bulge out = BulgeMeasure(body).of(hull, {.tolerance = tolerance});
  if (body.volume > 0.0) out.volume = std::max(0.0, volume(Shape(hull)) - body.volume);
  return out;
}

}  // namespace er
