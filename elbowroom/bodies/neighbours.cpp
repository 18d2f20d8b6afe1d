#include "elbowroom/bodies/neighbours.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <span>
#include <tuple>

namespace er {
namespace {

// One side of a triangle.
struct Side {
  int low = 0;
  int high = 0;
  int slot = 0;         // 3 * face + k
  bool upward = false;  // the triangle passes it from low to high
  double angle = 0.0;   // of the triangle about the edge
};

// Angles about the edge at which the triangles lie, from the first one's.
void measure_angles(const Surface& surface, std::span<Side> sides) {
  const Vector3 low = surface.corner(sides.front().low);
  const Vector3 along = (surface.corner(sides.front().high) - low).normalized();
  const auto outward = [&](const Side& side) -> Vector3 {
    const auto& face = surface.faces[static_cast<std::size_t>(side.slot / 3)];
    const Vector3 to =
        surface.corner(face[static_cast<std::size_t>((side.slot % 3 + 2) % 3)]) - low;
    return to - along.dot(to) * along;
  };
  const Vector3 x = outward(sides.front());
  const Vector3 y = along.cross(x);
  for (Side& side : sides) {
    const Vector3 at = outward(side);
    side.angle = std::atan2(at.dot(y), at.dot(x));
  }
}

}  // namespace

Neighbours::Neighbours(const Surface& surface) : next_(3 * surface.faces.size()) {
  std::vector<Side> sides;
  sides.reserve(next_.size());
  for (std::size_t i = 0; i < surface.faces.size(); ++i)
    for (std::size_t k = 0; k < 3; ++k) {
      const int from = surface.faces[i][k];
      const int to = surface.faces[i][(k + 1) % 3];
      sides.push_back(
          {std::min(from, to), std::max(from, to), static_cast<int>(3 * i + k), from < to});
    }
  std::sort(sides.begin(), sides.end(), [](const Side& a, const Side& b) {
    return std::tie(a.low, a.high, a.slot) < std::tie(b.low, b.high, b.slot);
  });
  const auto join = [&](const Side& a, const Side& b) {
    const bool agrees = a.upward != b.upward;
    next_[static_cast<std::size_t>(a.slot)] = {b.slot / 3, agrees};
    next_[static_cast<std::size_t>(b.slot)] = {a.slot / 3, agrees};
  };
  for (std::size_t begin = 0; begin < sides.size();) {
    std::size_t end = begin;
    while (end < sides.size() && sides[end].low == sides[begin].low &&
           sides[end].high == sides[begin].high)
      ++end;
    const std::span<Side> here(sides.data() + begin, end - begin);
    begin = end;
    if (here.size() == 2) {
      join(here[0], here[1]);
    } else if (here.size() > 2) {
      measure_angles(surface, here);
      // The normal of a triangle that passes the edge upward is towards greater angles, so its
      // solid lies at lesser ones, as far as the first that passes it downward.
      for (const Side& one : here) {
        if (!one.upward) continue;
        const Side* best = nullptr;
        double least = 0.0;
        for (const Side& other : here) {
          if (other.upward) continue;
          double turn = one.angle - other.angle;
          constexpr double kSame = 1e-9;  // rad; two solids that touch over a whole face
          while (turn <= kSame) turn += 2.0 * std::numbers::pi;
          if (best == nullptr || turn < least) {
            best = &other;
            least = turn;
          }
        }
        if (best != nullptr && next_[static_cast<std::size_t>(best->slot)].face < 0)
          join(one, *best);
      }
    }
  }
}

}  // namespace er
