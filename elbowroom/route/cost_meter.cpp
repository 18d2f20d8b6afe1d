#include "elbowroom/route/cost_meter.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

constexpr int kNearLevels = 4;

void check(const RouteCost& cost) {
  for (const double weight :
       {cost.travel, cost.tool, cost.swing, cost.near, cost.bends, cost.near_within})
    if (!(weight >= 0.0) || !std::isfinite(weight))
      throw InputError("the weights of a route's cost are zero or more");
  if (cost.travel == 0.0)
    throw InputError("a route's cost weighs joint travel by more than zero",
                     "without it, ways without end would cost the same: leave it at 1");
  if (cost.near > 0.0 && cost.near_within == 0.0)
    throw InputError("what costs by how near it is needs a distance within which it is near");
}

}  // namespace

CostMeter::CostMeter(const CellQuery& query, const RouteCost& cost, double clearance)
    : query_(query), cost_(cost), clearance_(clearance), tip_(query.arm().end_tool()) {
  check(cost);
}

// The origins of the moving links, which lie on their joints, and at last the tip.
void CostMeter::points_at(const PostureRef& posture, std::vector<Vector3>& out) {
  const Arm& arm = query_.arm();
  links_.resize(arm.links().size());
  link_poses(arm, posture, links_);
  out.clear();
  for (int k = 0; k < arm.dof(); ++k)
    out.push_back(links_[static_cast<std::size_t>(arm.moving_link(k))].position);
  out.push_back((links_[static_cast<std::size_t>(tip_.link_index)] * tip_.tip).position);
}

void CostMeter::add_line(const PostureRef& from, const PostureRef& to, bool points, bool near,
                         CostParts& parts) {
  const double length = (to - from).norm();
  parts.travel += length;
  if (length == 0.0 || (!points && !near)) return;
  const int steps = 1 + static_cast<int>(length / kCostStep);
  if (points) {
    points_at(from, before_);
    for (int i = 1; i <= steps; ++i) {
      points_at(Posture(from + static_cast<double>(i) / steps * (to - from)), here_);
      double way = 0.0;
      for (std::size_t p = 0; p < here_.size(); ++p) way += (here_[p] - before_[p]).norm();
      parts.swing += way / static_cast<double>(here_.size());
      parts.tool += (here_.back() - before_.back()).norm();
      before_.swap(here_);
    }
  }
  if (near) {
    samples_.clear();
    for (int i = 0; i < steps; ++i) samples_.emplace_back(from + (i + 0.5) / steps * (to - from));
    if (!checker_) checker_.emplace(query_);
    std::array<bool, 64> free;
    int too_near = 0;
    for (std::size_t first = 0; first < samples_.size(); first += free.size()) {
      const std::size_t count = std::min(free.size(), samples_.size() - first);
      for (int level = 1; level <= kNearLevels; ++level) {
        checker_->check({samples_.data() + first, count},
                        clearance_ + cost_.near_within * level / kNearLevels, {free.data(), count});
        too_near += static_cast<int>(std::count(free.begin(), free.begin() + count, false));
      }
    }
    parts.near += length * too_near / (steps * kNearLevels);
  }
}

double CostMeter::of(const PostureRef& from, const PostureRef& to) {
  CostParts parts;
  add_line(from, to, cost_.tool > 0.0 || cost_.swing > 0.0, cost_.near > 0.0, parts);
  return parts.weighed(cost_);
}

double CostMeter::of(const std::vector<Posture>& waypoints) {
  double sum = cost_.bends == 0.0 ? 0.0 : cost_.bends * bends_of(waypoints);
  for (std::size_t i = 0; i + 1 < waypoints.size(); ++i) sum += of(waypoints[i], waypoints[i + 1]);
  return sum;
}

CostParts CostMeter::parts_of(const std::vector<Posture>& waypoints) {
  CostParts parts;
  for (std::size_t i = 0; i + 1 < waypoints.size(); ++i)
    add_line(waypoints[i], waypoints[i + 1], true, cost_.near_within > 0.0, parts);
  parts.bends = bends_of(waypoints);
  return parts;
}

double bends_of(const std::vector<Posture>& waypoints) {
  double sum = 0.0;
  for (std::size_t i = 1; i + 1 < waypoints.size(); ++i) {
    const Posture in = waypoints[i] - waypoints[i - 1];
    const Posture out = waypoints[i + 1] - waypoints[i];
    const double lengths = in.norm() * out.norm();
    if (lengths > 0.0) sum += std::acos(std::clamp(in.dot(out) / lengths, -1.0, 1.0));
  }
  return sum;
}

}  // namespace er
