#include "elbowroom/model/surface.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <numeric>
#include <tuple>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"

namespace er {

void check_surface(const Surface& surface) {
  for (std::size_t i = 0; i < surface.corners.size(); ++i)
    if (!surface.corners[i].allFinite())
      throw InputError(fmt::format("corner {} of a mesh is not finite", i + 1));
  for (std::size_t i = 0; i < surface.faces.size(); ++i)
    for (const int corner : surface.faces[i])
      if (corner < 0 || corner >= static_cast<int>(surface.corners.size()))
        throw InputError(fmt::format("triangle {} of a mesh has corner {}, where there are {}",
                                     i + 1, corner, surface.corners.size()));
}

int join_corners(Surface& surface) {
  const auto before = [](const Vector3& a, const Vector3& b) {
    return std::lexicographical_compare(a.begin(), a.end(), b.begin(), b.end());
  };
  std::vector<int> order(surface.corners.size());
  std::iota(order.begin(), order.end(), 0);
  std::sort(order.begin(), order.end(), [&](int a, int b) {
    const Vector3& at = surface.corner(a);
    const Vector3& other = surface.corner(b);
    return before(at, other) || (!before(other, at) && a < b);
  });
  std::vector<int> number(surface.corners.size());
  std::vector<Vector3> once;
  for (const int i : order) {
    if (once.empty() || once.back() != surface.corner(i)) once.push_back(surface.corner(i));
    number[static_cast<std::size_t>(i)] = static_cast<int>(once.size()) - 1;
  }
  surface.corners = std::move(once);
  for (auto& face : surface.faces)
    for (int& corner : face) corner = number[static_cast<std::size_t>(corner)];
  return static_cast<int>(std::erase_if(
      surface.faces, [](const auto& f) { return f[0] == f[1] || f[1] == f[2] || f[2] == f[0]; }));
}

void append(Surface& to, const Surface& more) {
  if (to.name.empty()) to.name = more.name;
  if (!to.colour) to.colour = more.colour;
  to.off = std::max(to.off, more.off);
  const int first = static_cast<int>(to.corners.size());
  to.corners.insert(to.corners.end(), more.corners.begin(), more.corners.end());
  for (auto face : more.faces) {
    for (int& corner : face) corner += first;
    to.faces.push_back(face);
  }
}

std::vector<EdgeUse> edges_of(const Surface& surface) {
  std::vector<EdgeUse> all;
  all.reserve(3 * surface.faces.size());
  for (const auto& face : surface.faces)
    for (std::size_t k = 0; k < 3; ++k) {
      const int from = face[k];
      const int to = face[(k + 1) % 3];
      all.push_back({std::min(from, to), std::max(from, to), 1, from < to ? 1 : -1});
    }
  std::sort(all.begin(), all.end(), [](const EdgeUse& a, const EdgeUse& b) {
    return std::tie(a.low, a.high) < std::tie(b.low, b.high);
  });
  std::vector<EdgeUse> out;
  for (const EdgeUse& one : all) {
    if (out.empty() || out.back().low != one.low || out.back().high != one.high) {
      out.push_back(one);
    } else {
      ++out.back().times;
      out.back().sum += one.sum;
    }
  }
  return out;
}

std::string EdgeFaults::where(const Surface& surface) const {
  const auto text = [&](int corner) {
    const Vector3 mm = 1e3 * surface.corner(corner);
    return fmt::format("[{:.3f}, {:.3f}, {:.3f}]", mm.x(), mm.y(), mm.z());
  };
  return first ? fmt::format("from {} to {} mm", text(first->low), text(first->high)) : "";
}

EdgeFaults edge_faults_of(const Surface& surface) {
  EdgeFaults out;
  for (const EdgeUse& edge : edges_of(surface)) {
    if (edge.is_even()) continue;
    ++(edge.is_open() ? out.open : out.turned);
    if (!out.first) out.first = edge;
  }
  return out;
}

AlignedBox box_of(const Surface& surface) {
  constexpr double kInfinity = std::numeric_limits<double>::infinity();
  AlignedBox box{Vector3::Constant(kInfinity), Vector3::Constant(-kInfinity)};
  for (const auto& face : surface.faces)
    for (const int corner : face) {
      box.low = box.low.cwiseMin(surface.corner(corner));
      box.high = box.high.cwiseMax(surface.corner(corner));
    }
  return box;
}

std::string unit_doubt(double size, double scale, double like) {
  constexpr double kUnlikeArm = 30.0;  // times as large as the arm
  const double largest = like > 0.0 ? kUnlikeArm * like : 50.0;
  const double smallest = 1e-3;
  if (size <= largest && size >= smallest) return {};
  const std::string across = size < 10.0 ? text_length(size) : fmt::format("{:.4g} m", size);
  struct Unit {
    const char* name;
    double metres;
  };
  for (const Unit& unit :
       {Unit{"mm", 1e-3}, Unit{"m", 1.0}, Unit{"cm", 1e-2}, Unit{"in", 0.0254}}) {
    const double other = size / scale * unit.metres;
    if (other > largest || other < std::max(5.0 * smallest, like / kUnlikeArm)) continue;
    return fmt::format("it would be {} across: is its unit {}?", across, unit.name);
  }
  return fmt::format("it would be {} across", across);
}

}  // namespace er
