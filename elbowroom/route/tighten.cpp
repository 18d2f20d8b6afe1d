#include "elbowroom/route/tighten.hpp"

#include <algorithm>

#include "elbowroom/base/random.hpp"
#include "elbowroom/route/route.hpp"
#include "elbowroom/route/rule_walk.hpp"

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

// The path that goes from one of its points to another through others, or straight.
std::vector<Posture> with_shortcut(const std::vector<Posture>& waypoints, const PathPoint& from,
                                   const std::vector<Posture>& between, const PathPoint& to) {
  std::vector<Posture> out(waypoints.begin(),
                           waypoints.begin() + static_cast<std::ptrdiff_t>(from.line) + 1);
  const auto add = [&](const Posture& middle) {
    if ((middle - out.back()).norm() > 1e-9) out.push_back(middle);
  };
  add(from.posture);
  for (const Posture& middle : between) add(middle);
  add(to.posture);
  for (std::size_t k = to.line + 1; k < waypoints.size(); ++k) add(waypoints[k]);
  return out;
}

// Leaves out waypoints, furthest jumps first, where that is free and costs no more.
void skip_waypoints(std::vector<Posture>& waypoints, LineProver& prover, CostMeter& meter) {
  const bool shorter_is_cheaper = meter.cost().is_travel_alone();
  for (std::size_t i = 0; i + 2 < waypoints.size(); ++i)
    for (std::size_t next = waypoints.size() - 1; next > i + 1; --next) {
      if (!prover.is_free(waypoints[i], waypoints[next])) continue;
      std::vector<Posture> without(waypoints.begin(),
                                   waypoints.begin() + static_cast<std::ptrdiff_t>(i) + 1);
      without.insert(without.end(), waypoints.begin() + static_cast<std::ptrdiff_t>(next),
                     waypoints.end());
      if (!shorter_is_cheaper && meter.of(without) > meter.of(waypoints)) continue;
      waypoints = std::move(without);
      break;
    }
}

}  // namespace

std::vector<Posture> tighten(std::vector<Posture> waypoints, const Tightening& how,
                             std::uint64_t seed, LineProver& prover, CostMeter& meter) {
  if (waypoints.size() < 3 || how.shortcuts <= 0) return waypoints;
  RandomStream random(seed);
  skip_waypoints(waypoints, prover, meter);
  const bool shorter_is_cheaper = meter.cost().is_travel_alone();
  double cost = meter.of(waypoints);
  double before_round = cost;
  for (int i = 0; i < how.shortcuts && waypoints.size() > 2; ++i) {
    if (i > 0 && i % kShortcutRound == 0) {
      if (before_round - cost < how.worthwhile * before_round) break;
      before_round = cost;
    }
    const double length = path_length(waypoints);
    double first = random.uniform(0.0, length);
    double second = random.uniform(0.0, length);
    if (first > second) std::swap(first, second);
    const PathPoint a = point_at(waypoints, first);
    const PathPoint b = point_at(waypoints, second);
    if (a.line == b.line) continue;
    if (shorter_is_cheaper && (b.posture - a.posture).norm() > (second - first) * (1.0 - 1e-6))
      continue;
    std::vector<Posture> between;
    if (!prover.is_free(a.posture, b.posture)) {
      if (prover.rules() == nullptr) continue;
      between = walk_by_rules(a.posture, b.posture, prover);
      if (between.empty() || between.back() != b.posture) continue;
    }
    std::vector<Posture> candidate = with_shortcut(waypoints, a, between, b);
    const double costs = meter.of(candidate);
    if ((!shorter_is_cheaper || !between.empty()) && costs > cost * (1.0 - 1e-6)) continue;
    cost = costs;
    waypoints = std::move(candidate);
  }
  skip_waypoints(waypoints, prover, meter);
  return waypoints;
}

}  // namespace er
