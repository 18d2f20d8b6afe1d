#include "elbowroom/bodies/bulge.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <queue>

#include "elbowroom/collision/point_distance.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

struct Patch {
  std::array<Vector3, 3> corners;
  double most = 0.0;  // of the distances of its points

  bool operator<(const Patch& other) const { return most < other.most; }
};

// By the distance of its middle and how far its points are from there; or by that of its corners
// from the triangle nearest to its middle, as the distance from something convex is convex.
class Measure {
 public:
  explicit Measure(const MeshBody& body)
      : skin_(mesh_of(body.surface.corners, body.surface.faces, true)) {}

  Patch operator()(const std::array<Vector3, 3>& corners, Bulge& found) const {
    const Vector3 middle = (corners[0] + corners[1] + corners[2]) / 3.0;
    const NearestFace nearest = nearest_face(*skin_.data, middle);
    const std::array<Vector3, 3> face = skin_.data->triangle(nearest.face);
    double radius = 0.0;
    double from_face = 0.0;
    for (const Vector3& corner : corners) {
      radius = std::max(radius, (corner - middle).norm());
      from_face = std::max(from_face, triangle_distance(face, corner));
    }
    if (nearest.distance > found.least) {
      found.least = nearest.distance;
      found.at = middle;
    }
    return {corners, std::min(nearest.distance + radius, from_face)};
  }

 private:
  Mesh skin_;
};

}  // namespace

Bulge bulge_of(const Hull& hull, const MeshBody& body, double tolerance) {
  constexpr int kMostHalvings = 5000;
  Bulge out;
  const Measure measure(body);
  std::priority_queue<Patch> open;
  for (const auto& [a, b, c] : hull.data->faces) {
    const auto at = [&](int i) { return hull.data->corners[static_cast<std::size_t>(i)]; };
    open.push(measure({at(a), at(b), at(c)}, out));
  }
  for (int i = 0; i < kMostHalvings && open.top().most > out.least + tolerance; ++i) {
    const std::array<Vector3, 3> corners = open.top().corners;
    open.pop();
    // Across its longest side.
    std::size_t longest = 0;
    const auto side = [&](std::size_t k) { return (corners[(k + 1) % 3] - corners[k]).norm(); };
    for (std::size_t k = 1; k < 3; ++k)
      if (side(k) > side(longest)) longest = k;
    const Vector3& a = corners[longest];
    const Vector3& b = corners[(longest + 1) % 3];
    const Vector3& c = corners[(longest + 2) % 3];
    const Vector3 half = 0.5 * (a + b);
    open.push(measure({a, half, c}, out));
    open.push(measure({half, b, c}, out));
  }
  out.most = std::max(out.least, open.top().most);
  if (body.volume > 0.0) out.volume = std::max(0.0, volume(Shape(hull)) - body.volume);
  return out;
}

}  // namespace er
