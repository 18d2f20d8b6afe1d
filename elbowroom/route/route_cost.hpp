// What a route costs: what of all that is free should be chosen.
#pragma once

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

}  // namespace er
