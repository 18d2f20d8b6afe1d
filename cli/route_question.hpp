// The arguments of a routing question, which `route`, `pace` and `tune` take.
#pragma once

#include "elbowroom/files/target_reading.hpp"
#include "elbowroom/route/asked_route.hpp"
#include "elbowroom/route/roadmap.hpp"
#include "verb.hpp"

namespace er::cli {

struct RouteQuestion {
  Arguments a;
  std::string from = "home";
  std::string to;
  std::uint64_t seed = RouteOptions{}.seed;
  int tries = RouteOptions{}.tries;
  int searches = RouteOptions{}.searches;
  int improve = 0;
  std::string time;
  std::vector<std::string> costs;
  std::vector<std::string> keeps;
  std::string roadmap;
};

void add_route_question(VerbParser& parser, RouteQuestion& question);

/// Those of --keep.
KeptRules kept_rules(const CellQuery& query, const RouteQuestion& question);

/// What the arguments say of the search; the roadmap is not among it.
RouteOptions route_options(const CellQuery& query, const RouteQuestion& question);
/// From --from to the posture or stance of --to, or to any of the targets.
AskedRoute read_asked_route(const CellQuery& query, const RouteQuestion& question);

/// A route and what to say of it.
struct RouteAnswer {
  Route route;
  CellQuery query;         ///< with the contacts that the target means
  std::string notes = {};  ///< lines of text
};

/// Finds the route, along the roadmap of --roadmap where there is one: read, or made when there is
/// no such file, proved again when the cell is another; saved with what it learnt.
Verdict<RouteAnswer> answer_route_question(const CellQuery& query, const RouteQuestion& question);

}  // namespace er::cli
