// Routes: joint paths from a posture to any of a set of postures, proved free of collision.
#pragma once

#include <cstdint>
#include <limits>
#include <string>
#include <vector>

#include "elbowroom/base/progress.hpp"
#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/least_clearance.hpp"
#include "elbowroom/kinematics/requirement.hpp"
#include "elbowroom/route/route_cost.hpp"

namespace er {

class Roadmap;

enum class RoutePlanner {
  two_trees,  ///< the cheapest of a few ways found by chance: quick
  improving,  ///< goes on for cheaper ways until little is gained
};

struct RouteOptions {
  /// Proved for the whole continuous route: nothing comes nearer than this, metres.
  double clearance = 0.005;
  /// The same seed gives the same route.
  std::uint64_t seed = 1;
  /// Random postures the search may try before it gives up. This, not time, is the budget.
  int tries = 20000;
  /// Searches that race, each with its own random stream; the others get as many tries again as the
  /// first that is there, and the cheapest route is kept. One does the least work, more give less
  /// wandering routes. A straight line that is free ends it at once, unless the cost weighs more
  /// than joint travel.
  int searches = 3;
  /// One of them begins with the tool drawn back from both ends: quick out of tight places.
  bool draw_back = true;
  /// What the route should be short of.
  RouteCost cost = {};
  /// What has to hold on the whole way (rules.hpp says what can); proved. Along a roadmap, too:
  /// what was learnt of ways that kept them is found there.
  std::vector<Requirement> rules = {};
  RoutePlanner planner = RoutePlanner::two_trees;
  /// Rounds of an improving search at most; it ends sooner when kRoundsWithoutGain of them together
  /// gain less than `worthwhile`.
  int rounds = 30;
  /// Seconds after which nothing new is begun; a search that this ends gives what it has, and says
  /// so, and may find another route on another machine. Above zero.
  double seconds = std::numeric_limits<double>::infinity();
  /// Looked through first, where given; what is found without it, is learnt. One thread at a time.
  Roadmap* roadmap = nullptr;
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
  bool from_roadmap = false;
  bool out_of_time = false;        ///< RouteOptions::seconds ended the search
  std::vector<double> costs = {};  ///< of an improving search: after each round
  double seconds = 0;

  /// In a few lines.
  [[nodiscard]] std::string text(const Arm& arm) const;
};

/// Straight joint lines through waypoints. Every point of every line keeps `clearance`.
struct Route {
  std::vector<Posture> waypoints = {};
  double clearance = 0.0;  ///< proved, metres
  std::size_t goal = 0;    ///< which of the goals it ends at
  double length = 0.0;     ///< joint travel: sum over lines of the 2-norm, radians (and metres)
  double cost = 0.0;       ///< by RouteOptions::cost
  std::vector<std::string> kept = {};  ///< the rules proved for the whole way, in words
  LeastClearance least;                ///< the least clearance on the whole route, bracketed
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

/// Fills in the least clearance of a route to `within` (m), or, where that is zero, what the route
/// is proved to keep.
void find_least(const CellQuery& query, double within, Route& route);

/// The 2-norm of joint travel along a list of postures.
double path_length(const std::vector<Posture>& waypoints);

}  // namespace er
