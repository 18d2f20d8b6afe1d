#include "elbowroom/model/polygon.hpp"

#include <Eigen/Geometry>

namespace er {
namespace {

// Newell's sum: twice the area, along the normal, whatever the corner it begins with.
Vector3 normal_of(const std::vector<Vector3>& corners, std::span<const int> polygon) {
  Vector3 sum = Vector3::Zero();
  const Vector3 origin = corners[static_cast<std::size_t>(polygon[0])];
  for (std::size_t i = 0; i < polygon.size(); ++i) {
    const Vector3 a = corners[static_cast<std::size_t>(polygon[i])] - origin;
    const Vector3 b = corners[static_cast<std::size_t>(polygon[(i + 1) % polygon.size()])] - origin;
    sum += a.cross(b);
  }
  return sum;
}

class EarClipping {
 public:
  EarClipping(const std::vector<Vector3>& corners, std::span<const int> polygon)
      : corners_(corners),
        ring_(polygon.begin(), polygon.end()),
        normal_(normal_of(corners, polygon)) {}

  void run(std::vector<std::array<int, 3>>& out) {
    while (ring_.size() > 3) {
      std::size_t ear = 0;
      while (ear < ring_.size() && !is_ear(ear)) ++ear;
      if (ear == ring_.size()) break;
      out.push_back({before(ear), ring_[ear], after(ear)});
      ring_.erase(ring_.begin() + static_cast<std::ptrdiff_t>(ear));
    }
    for (std::size_t i = 1; i + 1 < ring_.size(); ++i)
      out.push_back({ring_[0], ring_[i], ring_[i + 1]});
  }

 private:
  [[nodiscard]] int before(std::size_t i) const {
    return ring_[(i + ring_.size() - 1) % ring_.size()];
  }
  [[nodiscard]] int after(std::size_t i) const { return ring_[(i + 1) % ring_.size()]; }
  [[nodiscard]] const Vector3& at(int corner) const {
    return corners_[static_cast<std::size_t>(corner)];
  }
  // Twice the area of a triangle, above zero when it turns the same way as the polygon.
  [[nodiscard]] double area(const Vector3& a, const Vector3& b, const Vector3& c) const {
    return normal_.dot((b - a).cross(c - a));
  }

  [[nodiscard]] bool is_ear(std::size_t i) const {
    const Vector3& a = at(before(i));
    const Vector3& b = at(ring_[i]);
    const Vector3& c = at(after(i));
    if (!(area(a, b, c) > 0.0)) return false;
    for (const int other : ring_) {
      const Vector3& p = at(other);
      if (p == a || p == b || p == c) continue;
      if (area(a, b, p) >= 0.0 && area(b, c, p) >= 0.0 && area(c, a, p) >= 0.0) return false;
    }
    return true;
  }

  const std::vector<Vector3>& corners_;
  std::vector<int> ring_;
  Vector3 normal_;
};

}  // namespace

void cut_polygon(const std::vector<Vector3>& corners, std::span<const int> polygon,
                 std::vector<std::array<int, 3>>& out) {
  if (polygon.size() < 3) return;
  if (polygon.size() == 3) {
    out.push_back({polygon[0], polygon[1], polygon[2]});
    return;
  }
  EarClipping(corners, polygon).run(out);
}

}  // namespace er
