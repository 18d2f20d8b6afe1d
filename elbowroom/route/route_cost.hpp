// What a route costs: what of all that is free should be chosen.
#pragma once

#include <optional>
#include <vector>

#include "elbowroom/collision/free_postures.hpp"

namespace er {

/// Weights of what a route should be short of; with all but `travel` at zero the cost is the joint
/// travel. Wishes: measured at samples, never a reason to say no.
struct RouteCost {
  /// Per radian (or metre) of joint travel, 2-norm. Above zero.
  double travel = 1.0;
  /// Per metre of the way of the tool tip (of the last link where there is no tool).
  double tool = 0.0;
  /// Per metre of the way of the joints and the tool tip through space, their mean: keeps elbow and
  /// forearm from swinging out.
  double swing = 0.0;
  /// Per radian (or metre) of joint travel close to things: weighed by 1 where the clearance is
  /// what is asked for, by 0 where it is `near_within` (m) more, in four steps between.
  double near = 0.0;
  double near_within = 0.05;
  /// Per radian by which the joint path turns at its waypoints, where a motion has to slow down.
  double bends = 0.0;

  [[nodiscard]] bool is_travel_alone() const {
    return tool == 0.0 && swing == 0.0 && near == 0.0 && bends == 0.0;
  }
  bool operator==(const RouteCost&) const = default;
};

/// What a route comes to in each of those, before they are weighed.
struct CostParts {
  double travel = 0.0;  ///< rad (and m)
  double tool = 0.0;    ///< m
  double swing = 0.0;   ///< m
  double near = 0.0;    ///< rad (and m)
  double bends = 0.0;   ///< rad

  [[nodiscard]] double weighed(const RouteCost& cost) const {
    return cost.travel * travel + cost.tool * tool + cost.swing * swing + cost.near * near +
           cost.bends * bends;
  }
};

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
  int tip_link_ = 0;
  Pose tip_;
  std::vector<Pose> links_;
  std::vector<Vector3> before_;
  std::vector<Vector3> here_;
  std::vector<Posture> samples_;
};

inline constexpr double kCostStep = 0.1;  // rad or m, 2-norm

/// By how much the path turns at its waypoints, radians in all.
double bends_of(const std::vector<Posture>& waypoints);

}  // namespace er
