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

// Leaves out what lies between two waypoints, where the line is free and that costs no more.
bool leave_out(std::vector<Posture>& waypoints, std::size_t from, std::size_t to,
               LineProver& prover, CostMeter& meter) {
  if (!prover.is_free(waypoints[from], waypoints[to])) return false;
  std::vector<Posture> without = waypoints;
  without.erase(without.begin() + static_cast<std::ptrdiff_t>(from) + 1,
                without.begin() + static_cast<std::ptrdiff_t>(to));
  const bool shorter_is_cheaper = meter.cost().is_travel_alone();
  if (!shorter_is_cheaper && meter.of(without) > meter.of(waypoints)) return false;
  waypoints = std::move(without);
  return true;
}

// From each waypoint as far as can be.
void skip_waypoints(std::vector<Posture>& waypoints, LineProver& prover, CostMeter& meter) {
  for (std::size_t i = 0; i + 2 < waypoints.size(); ++i)
    for (std::size_t next = waypoints.size() - 1;
         next > i + 1 && !leave_out(waypoints, i, next, prover, meter); --next) {
    }
}

void leave_out_one_by_one(std::vector<Posture>& waypoints, LineProver& prover, CostMeter& meter) {
  for (std::size_t i = 1; i + 1 < waypoints.size();)
    if (!leave_out(waypoints, i - 1, i + 1, prover, meter)) ++i;
}

// Tightening by what is tried, until it is not worth it.
class Tightener {
 public:
  Tightener(std::vector<Posture> waypoints, const Tightening& how, LineProver& prover,
            CostMeter& meter)
      : waypoints_(std::move(waypoints)),
        left_(how.shortcuts),
        worthwhile_(how.worthwhile),
        prover_(prover),
        meter_(meter),
        shorter_is_cheaper_(meter.cost().is_travel_alone()) {}

  [[nodiscard]] std::vector<Posture>& waypoints() { return waypoints_; }

  // Off each corner in turn the largest cut that is free, as near as halves tell: at first not all
  // of it, since waypoints that can be spared are gone. New corners are flatter, and have their
  // turn in the next pass. Where shorter is not cheaper: none.
  void cut_corners() {
    if (!shorter_is_cheaper_) return;
    double before = path_length(waypoints_);
    double largest = 0.5;
    while (left_ > 0 && waypoints_.size() > 2) {
      std::vector<Posture> cut{waypoints_.front()};
      for (std::size_t i = 1; i + 1 < waypoints_.size(); ++i)
        cut_corner(waypoints_[i], waypoints_[i + 1], largest, before, cut);
      cut.push_back(waypoints_.back());
      waypoints_ = std::move(cut);
      const double now = path_length(waypoints_);
      if (before - now <= worthwhile_ * before) break;
      before = now;
      largest = 1.0;
    }
  }

  // Between two random points of the path.
  void take_shortcuts(RandomStream& random) {
    double cost = meter_.of(waypoints_);
    double before_round = cost;
    for (int i = 0; left_ > 0 && waypoints_.size() > 2; ++i, --left_) {
      if (i > 0 && i % kShortcutRound == 0) {
        if (before_round - cost < worthwhile_ * before_round) break;
        before_round = cost;
      }
      const double length = path_length(waypoints_);
      double first = random.uniform(0.0, length);
      double second = random.uniform(0.0, length);
      if (first > second) std::swap(first, second);
      const PathPoint a = point_at(waypoints_, first);
      const PathPoint b = point_at(waypoints_, second);
      if (a.line == b.line) continue;
      if (shorter_is_cheaper_ &&
          second - first - (b.posture - a.posture).norm() < least_gain(length))
        continue;
      std::vector<Posture> between;
      if (!prover_.is_free(a.posture, b.posture)) {
        if (prover_.rules() == nullptr) continue;
        between = walk_by_rules(a.posture, b.posture, prover_);
        if (between.empty() || between.back() != b.posture) continue;
      }
      std::vector<Posture> candidate = with_shortcut(waypoints_, a, between, b);
      const double costs = meter_.of(candidate);
      if ((!shorter_is_cheaper_ || !between.empty()) && costs > cost * (1.0 - 1e-6)) continue;
      cost = costs;
      waypoints_ = std::move(candidate);
    }
  }

 private:
  // What a line must be able to gain to be looked at: a few such are worth a round.
  [[nodiscard]] double least_gain(double length) const {
    return std::max(0.3 * worthwhile_, 1e-6) * length;
  }

  void cut_corner(const Posture& corner, const Posture& after, double largest, double length,
                  std::vector<Posture>& out) {
    constexpr double kLeastCut = 0.2;  // of both lines
    const Posture back = out.back() - corner;
    const Posture on = after - corner;
    const double gain = back.norm() + on.norm() - (on - back).norm();  // of the largest
    for (double share = largest;
         share > kLeastCut && share * gain > least_gain(length) && left_ > 0; share *= 0.5) {
      --left_;
      const Posture from = corner + share * back;
      const Posture to = corner + share * on;
      if (!prover_.is_free(from, to)) continue;
      if (share == 1.0) return;
      out.push_back(from);
      out.push_back(to);
      return;
    }
    out.push_back(corner);
  }

  std::vector<Posture> waypoints_;
  int left_;  // tries
  double worthwhile_;
  LineProver& prover_;
  CostMeter& meter_;
  bool shorter_is_cheaper_;
};

}  // namespace

std::vector<Posture> tighten(std::vector<Posture> waypoints, const Tightening& how,
                             std::uint64_t seed, LineProver& prover, CostMeter& meter) {
  if (waypoints.size() < 3 || how.shortcuts <= 0) return waypoints;
  skip_waypoints(waypoints, prover, meter);
  Tightener tightener(std::move(waypoints), how, prover, meter);
  RandomStream random(seed);
  tightener.cut_corners();
  tightener.take_shortcuts(random);
  leave_out_one_by_one(tightener.waypoints(), prover, meter);
  return std::move(tightener.waypoints());
}

}  // namespace er
