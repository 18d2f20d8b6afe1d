// Routes: joint paths from a posture to any of a set of postures, proved free of collision.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "elbowroom/base/progress.hpp"
#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/least_clearance.hpp"

namespace er {

struct RouteOptions {
  /// Proved for the whole continuous route: nothing comes nearer than this, metres.
  double clearance = 0.005;
  /// The same seed gives the same route.
  std::uint64_t seed = 1;
  /// Random postures the search may try before it gives up. This, not time, is the budget.
  int tries = 20000;
  /// Searches made, each with its own random stream and tightened; the shortest route is kept. One
  /// is quickest, more give less wandering routes. A straight line that is free ends it at once.
  int searches = 3;
  /// Random shortcuts tried at most when tightening a route found. 0 leaves it as found.
  int shortcuts = 400;
  /// Tightening ends when a round of shortcuts (kShortcutRound of them) makes the route shorter by
  /// less than this share of its length.
  double worthwhile = 0.01;
  /// When the start or every goal is blocked: look for a free posture nearby from or to which there
  /// is a route.
  bool find_remedies = true;
  /// How far the least clearance on the route is brought down to, metres: its place and pair are
  /// for people to read, and take longer to find than the route. 0 leaves it out, and `least` is
  /// empty.
  double least_within = 1e-4;
};

/// What finding a route took.
struct RouteFigures {
  int tries = 0;            ///< random postures tried
  int nodes = 0;            ///< postures in the two trees
  long lines = 0;           ///< straight lines put to the proof
  long checks = 0;          ///< exact pairs, and eights of intervals, looked at
  double length_found = 0;  ///< before tightening
  double seconds = 0;
};

/// Straight joint lines through waypoints. Every point of every line keeps `clearance`.
struct Route {
  std::vector<Posture> waypoints = {};
  double clearance = 0.0;  ///< proved, metres
  std::size_t goal = 0;    ///< which of the goals it ends at
  double length = 0.0;     ///< joint travel: sum over lines of the 2-norm, radians (and metres)
  LeastClearance least;    ///< the least clearance on the whole route, bracketed
  RouteFigures figures;

  [[nodiscard]] std::string summary(const CellQuery& query) const;
  [[nodiscard]] std::string report(const CellQuery& query) const;
};

/// Finds a route from `start` to the nearest goals it can get to. A no says what the start or the
/// goals touch and which posture nearby does not (Reason::postures), or where the search was
/// stopped most. Throws InputError for postures of the wrong length, no goal, a negative clearance,
/// a joint without a range.
Verdict<Route> find_route(const CellQuery& query, const Posture& start,
                          const std::vector<Posture>& goals, const RouteOptions& options = {},
                          const Supervision& supervision = {});
Verdict<Route> find_route(const Cell& cell, std::string_view arm, const Posture& start,
                          const std::vector<Posture>& goals, const RouteOptions& options = {});

/// The 2-norm of joint travel along a list of postures.
double path_length(const std::vector<Posture>& waypoints);

}  // namespace er
