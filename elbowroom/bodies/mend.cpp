#include "elbowroom/bodies/mend.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <unordered_map>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/bodies/neighbours.hpp"

namespace er {
namespace {

constexpr double kSamePlace = 1e-6;      // of the surface's size
constexpr std::size_t kLargestHole = 4;  // edges

std::string edges_text(int edges) { return edges == 1 ? "1 edge" : fmt::format("{} edges", edges); }

std::vector<int> corners_of_open_edges(const Surface& surface) {
  std::vector<int> out;
  for (const EdgeUse& edge : edges_of(surface))
    if (edge.is_open()) {
      out.push_back(edge.low);
      out.push_back(edge.high);
    }
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

// Moves corners onto one that is within a tolerance, by a grid of twice that width; says how many.
class Weld {
 public:
  Weld(Surface& surface, const std::vector<int>& corners, double tolerance)
      : surface_(surface), width_(2.0 * tolerance) {
    for (const int corner : corners) place(corner, tolerance);
  }
  [[nodiscard]] int moved() const { return moved_; }

 private:
  void place(int number, double tolerance) {
    Vector3& here = surface_.corners[static_cast<std::size_t>(number)];
    for (int dx = -1; dx <= 1; ++dx)
      for (int dy = -1; dy <= 1; ++dy)
        for (int dz = -1; dz <= 1; ++dz) {
          const auto [begin, end] = cells_.equal_range(key(here, dx, dy, dz));
          for (auto at = begin; at != end; ++at) {
            if ((surface_.corner(at->second) - here).norm() > tolerance) continue;
            here = surface_.corner(at->second);
            ++moved_;
            return;
          }
        }
    cells_.emplace(key(here, 0, 0, 0), number);
  }
  [[nodiscard]] std::uint64_t key(const Vector3& at, int dx, int dy, int dz) const {
    const auto part = [&](Eigen::Index k, int d) {
      return static_cast<std::uint64_t>(static_cast<std::int64_t>(std::floor(at[k] / width_)) + d);
    };
    return (part(0, dx) * 0x9e3779b97f4a7c15ULL) ^ (part(1, dy) * 0xc2b2ae3d27d4eb4fULL) ^
           (part(2, dz) * 0x165667b19e3779f9ULL);
  }

  Surface& surface_;
  double width_;
  int moved_ = 0;
  std::unordered_multimap<std::uint64_t, int> cells_;
};

int drop_repeated(Surface& surface) {
  const auto turned_to_least = [](std::array<int, 3> face) {
    std::rotate(face.begin(), std::min_element(face.begin(), face.end()), face.end());
    return face;
  };
  std::vector<std::pair<std::array<int, 3>, std::size_t>> order;
  for (std::size_t i = 0; i < surface.faces.size(); ++i)
    order.emplace_back(turned_to_least(surface.faces[i]), i);
  std::sort(order.begin(), order.end());
  std::vector<bool> again(surface.faces.size(), false);
  for (std::size_t i = 1; i < order.size(); ++i)
    again[order[i].second] = order[i].first == order[i - 1].first;
  std::size_t kept = 0;
  for (std::size_t i = 0; i < surface.faces.size(); ++i)
    if (!again[i]) surface.faces[kept++] = surface.faces[i];
  const std::size_t dropped = surface.faces.size() - kept;
  surface.faces.resize(kept);
  return static_cast<int>(dropped);
}

// Goes over each connected part from its first triangle and turns those that disagree with where it
// comes from; the smaller side of each part counts as turned.
int agree(Surface& surface) {
  const Neighbours neighbours(surface);
  enum class Sense : char { unknown, kept, turned };
  std::vector<Sense> senses(surface.faces.size(), Sense::unknown);
  int turned = 0;
  for (std::size_t first = 0; first < surface.faces.size(); ++first) {
    if (senses[first] != Sense::unknown) continue;
    senses[first] = Sense::kept;
    std::vector<std::size_t> part{first};
    for (std::size_t i = 0; i < part.size(); ++i)
      for (int k = 0; k < 3; ++k) {
        const Neighbours::Next next = neighbours.over(part[i], k);
        if (next.face < 0 || senses[static_cast<std::size_t>(next.face)] != Sense::unknown)
          continue;
        const bool like = next.agrees == (senses[part[i]] == Sense::kept);
        senses[static_cast<std::size_t>(next.face)] = like ? Sense::kept : Sense::turned;
        part.push_back(static_cast<std::size_t>(next.face));
      }
    auto other = std::count_if(part.begin(), part.end(),
                               [&](std::size_t i) { return senses[i] == Sense::turned; });
    const Sense fewer =
        2 * static_cast<std::size_t>(other) > part.size() ? Sense::kept : Sense::turned;
    for (const std::size_t i : part)
      if (senses[i] == fewer) {
        std::swap(surface.faces[i][1], surface.faces[i][2]);
        ++turned;
      }
  }
  return turned;
}

// Closes rings of three and four open edges.
int fill_small_holes(Surface& surface) {
  std::unordered_multimap<int, int> rims;  // from corner to corner, as a new triangle would go
  for (const EdgeUse& edge : edges_of(surface)) {
    if (edge.times != 1) continue;
    if (edge.sum > 0)
      rims.emplace(edge.high, edge.low);
    else
      rims.emplace(edge.low, edge.high);
  }
  std::vector<int> starts;
  for (const auto& [from, to] : rims) starts.push_back(from);
  std::sort(starts.begin(), starts.end());
  int filled = 0;
  for (const int start : starts) {
    std::vector<int> ring;
    int at = start;
    while (ring.size() <= kLargestHole && rims.count(at) == 1) {
      ring.push_back(at);
      at = rims.find(at)->second;
      if (at == start) break;
    }
    if (at != start || ring.size() < 3 || ring.size() > kLargestHole) continue;
    surface.faces.push_back({ring[0], ring[1], ring[2]});
    if (ring.size() == 4) surface.faces.push_back({ring[0], ring[2], ring[3]});
    for (const int corner : ring) rims.erase(corner);
    ++filled;
  }
  return filled;
}

}  // namespace

std::string SurfaceHealth::text(const Surface& surface) const {
  if (is_closed()) return "closed";
  const std::string where = ", such as the one " + edges.where(surface);
  if (edges.open > 0)
    return fmt::format("open: {} without a neighbour{}", edges_text(edges.open), where);
  return fmt::format("facing both ways: at {} its triangles do not agree{}",
                     edges_text(edges.turned), where);
}

SurfaceHealth health_of(const Surface& surface) {
  SurfaceHealth out{.edges = edge_faults_of(surface)};
  for (std::size_t i = 0; i < surface.faces.size(); ++i) {
    const auto [a, b, c] = surface.triangle(i);
    const double twice = (b - a).cross(c - a).norm();
    out.area += 0.5 * twice;
    if (!(twice > 0.0)) ++out.slivers;
  }
  out.volume = surface.faces.empty() ? 0.0 : enclosed_volume(surface.corners, surface.faces);
  return out;
}

Mended mend(Surface surface) {
  check_surface(surface);
  Mended out;
  const auto say = [&](int count, const char* what) {
    if (count > 0)
      out.done.push_back(
          fmt::format("{} {}{}", count, count == 1 ? "triangle" : "triangles", what));
  };
  int dropped = join_corners(surface);
  const std::vector<int> open = corners_of_open_edges(surface);
  if (!open.empty()) {
    const AlignedBox box = box_of(surface);
    const double tolerance = kSamePlace * (box.high - box.low).norm();
    const Weld weld(surface, open, tolerance);
    if (weld.moved() > 0) {
      dropped += join_corners(surface);
      out.done.push_back(fmt::format("{} corners of open edges joined with one within {:.2g} mm",
                                     weld.moved(), 1e3 * tolerance));
    }
  }
  say(dropped, " dropped that had less than three different corners");
  say(drop_repeated(surface), " dropped that were there twice");
  if (surface.faces.empty())
    throw InputError("no triangle of this mesh has three different corners",
                     "is it a cloud of points, or written with too few digits?");
  say(agree(surface), " turned to agree with the others");
  if (const int holes = open.empty() ? 0 : fill_small_holes(surface); holes > 0)
    out.done.push_back(fmt::format("{} of three or four edges closed",
                                   holes == 1 ? "1 hole" : fmt::format("{} holes", holes)));
  out.surface = std::move(surface);
  return out;
}

}  // namespace er
