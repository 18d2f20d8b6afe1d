// One question under many settings and many seeds: which setting to keep.
#pragma once

#include <optional>

#include "elbowroom/model/posture_text.hpp"
#include "elbowroom/route/asked_route.hpp"

namespace er {

struct RouteSetting {
  std::string label;  ///< "searches 3, improve 10"
  RouteOptions options;
};

/// What one seed came to. Without a route, all but the time is zero.
struct TunedSeed {
  std::uint64_t seed = 0;
  std::vector<Posture> waypoints = {};  ///< empty: no route
  double seconds = 0.0;                 ///< the least clearance left out
  double work = 0.0;                    ///< looks at pairs and at eights of intervals
  double length_found = 0.0;            ///< before tightening, rad (and m)
  double length = 0.0;                  ///< after it
  double cost = 0.0;                    ///< by the weights of the first setting
  double tool = 0.0;                    ///< m, of the tool's way
  double bends = 0.0;                   ///< waypoints between the ends
  double clearance = 0.0;               ///< m, the least on the way
};

struct TunedSetting {
  RouteSetting setting;
  std::vector<TunedSeed> seeds = {};

  [[nodiscard]] int found() const;
  /// The cheapest; null where no seed found a route.
  [[nodiscard]] const TunedSeed* best() const;
  /// One figure of those that found a route; of all seeds when it is the time.
  [[nodiscard]] std::vector<double> all(double TunedSeed::*figure) const;
};

/// A posture to go through, and what that made of the question.
struct HelpingWaypoint {
  Posture posture;
  int found = 0;
  double seconds = 0.0;  ///< median of both halves together
  double work = 0.0;     ///< the same
  double length = 0.0;   ///< median
};

struct Tuning {
  std::vector<TunedSetting> settings = {};
  std::size_t keep = 0;  ///< which of them
  std::string why = {};  ///< "all 20 seeds find a route, ..."
  std::optional<HelpingWaypoint> waypoint = {};
  TravelUnit travel = {};  ///< what lengths are told in

  [[nodiscard]] std::string summary() const;
  [[nodiscard]] std::string report(const Arm& arm) const;
};

/// Asks with seeds 1 to `seeds` under each setting, one after the other, so that times mean
/// something. Kept is, of those that find a route most often and of these that keep the most
/// clearance, the one that takes the least work (by the median; times would not give the same
/// answer twice) and whose cost is within 5 % of the least. Then looks whether a waypoint of the
/// best route would make the question easier: one is told when more seeds find a route, or it takes
/// less than half the work, and the route is no more than a tenth longer. Throws InputError without
/// settings or seeds.
Tuning tune_route(const ReadyRoute& question, const std::vector<RouteSetting>& settings, int seeds,
                  const Supervision& supervision = {});

}  // namespace er
