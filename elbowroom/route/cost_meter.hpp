// What lines and paths cost, measured.
#pragma once

#include <optional>
#include <vector>

#include "elbowroom/collision/free_postures.hpp"
#include "elbowroom/route/route_cost.hpp"

namespace er {

/// Measures by walking along lines in steps of at most kCostStep. One per thread.
class CostMeter {
 public:
  /// Throws InputError for a weight below zero, no weight on travel, or nothing to be near within.
  CostMeter(const CellQuery& query, const RouteCost& cost, double clearance);

  [[nodiscard]] const RouteCost& cost() const { return cost_; }
  /// Of a straight joint line, and of a path of them with its bends.
  double of(const PostureRef& from, const PostureRef& to);
  double of(const std::vector<Posture>& waypoints);
  /// No line between the two costs less.
  [[nodiscard]] double at_least(const PostureRef& from, const PostureRef& to) const {
    return cost_.travel * (to - from).norm();
  }
  /// All parts, whatever their weights.
  CostParts parts_of(const std::vector<Posture>& waypoints);

 private:
  void add_line(const PostureRef& from, const PostureRef& to, bool points, bool near,
                CostParts& parts);
  void points_at(const PostureRef& posture, std::vector<Vector3>& out);

  CellQuery query_;
  RouteCost cost_;
  double clearance_;
  std::optional<PostureChecker> checker_;  // made when first needed
  Tool tip_;
  std::vector<Pose> links_;
  std::vector<Vector3> before_;
  std::vector<Vector3> here_;
  std::vector<Posture> samples_;
};

inline constexpr double kCostStep = 0.1;  // rad or m, 2-norm

/// By how much the path turns at its waypoints, radians in all.
double bends_of(const std::vector<Posture>& waypoints);

}  // namespace er
