#include "elbowroom/route/tighten.hpp"

#include <algorithm>

#include "elbowroom/base/random.hpp"
#include "elbowroom/route/route.hpp"

namespace er {
namespace {

struct PathPoint {
  std::size_t line = 0;
  Posture posture;
};

PathPoint point_at(const std::vector<Posture>& waypoints, double distance) {
  for (std::size_t i = 0; i + 1 < waypoints.size(); ++i) {
    const Posture step = waypoints[i + 1] - waypoints[i];
    const double length = step.norm();
    if (distance <= length && length > 0.0) return {i, waypoints[i] + (distance / length) * step};
    distance -= length;
  }
  return {waypoints.size() - 2, waypoints.back()};
}

// Whole waypoints that can be left out, furthest jumps first.
std::vector<Posture> skip_waypoints(const std::vector<Posture>& waypoints, LineProver& prover) {
  std::vector<Posture> kept{waypoints.front()};
  for (std::size_t i = 0; i + 1 < waypoints.size();) {
    std::size_t next = waypoints.size() - 1;
    while (next > i + 1 && !prover.is_free(waypoints[i], waypoints[next])) --next;
    kept.push_back(waypoints[next]);
    i = next;
  }
  return kept;
}

}  // namespace

std::vector<Posture> tighten(std::vector<Posture> waypoints, const Tightening& how,
                             LineProver& prover) {
  if (waypoints.size() < 3 || how.shortcuts <= 0) return waypoints;
  RandomStream random(how.seed);
  waypoints = skip_waypoints(waypoints, prover);
  double before_round = path_length(waypoints);
  for (int i = 0; i < how.shortcuts && waypoints.size() > 2; ++i) {
    const double length = path_length(waypoints);
    if (i > 0 && i % kShortcutRound == 0) {
      if (before_round - length < how.worthwhile * before_round) break;
      before_round = length;
    }
    double first = random.uniform(0.0, length);
    double second = random.uniform(0.0, length);
    if (first > second) std::swap(first, second);
    const PathPoint a = point_at(waypoints, first);
    const PathPoint b = point_at(waypoints, second);
    if (a.line == b.line) continue;
    if ((b.posture - a.posture).norm() > (second - first) * (1.0 - 1e-6)) continue;
    if (!prover.is_free(a.posture, b.posture)) continue;
    std::vector<Posture> shorter(waypoints.begin(),
                                 waypoints.begin() + static_cast<std::ptrdiff_t>(a.line) + 1);
    for (const Posture& middle : {a.posture, b.posture})
      if ((middle - shorter.back()).norm() > 1e-9) shorter.push_back(middle);
    for (std::size_t k = b.line + 1; k < waypoints.size(); ++k)
      if ((waypoints[k] - shorter.back()).norm() > 1e-9) shorter.push_back(waypoints[k]);
    waypoints = std::move(shorter);
  }
  return skip_waypoints(waypoints, prover);
}

}  // namespace er
