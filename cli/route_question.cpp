#include "route_question.hpp"

#include <fmt/format.h>

#include "elbowroom/reach/reach.hpp"

namespace er::cli {

void add_route_question(VerbParser& parser, RouteQuestion& question) {
  add_cell(parser, question.a);
  parser.text("--from", question.from, "the start: a stance or joint values");
  parser.text("--to", question.to, "the end: a stance or joint values; or give a target");
  add_target(parser, question.a);
  add_clearance(parser, question.a);
  parser.number("--seed", question.seed, "of the random search");
  parser.number("--tries", question.tries, "random postures tried before giving up");
}

Verdict<Route> answer_route_question(CellQuery& query, const RouteQuestion& question) {
  const Arm& arm = query.arm();
  const Posture start = read_posture_argument(arm, question.from, "--from");
  const auto target = read_target(query.cell(), arm, question.a);
  if (target.has_value() == !question.to.empty())
    throw InputError(target ? "two ends are given, --to and a target" : "no end is given",
                     "give --to STANCE, or a target");
  if (question.tries < 0) throw InputError("--tries: it must be zero or more");
  const double clearance = read_clearance(question.a);
  std::vector<Posture> goals;
  if (target) {
    const auto reached = reach(query, *target, {.clearance = clearance, .from = start});
    if (!reached) return reached.reason();
    goals = reached->postures();
    query = with_meant_contacts(query, *target);
  } else {
    goals.push_back(read_posture_argument(arm, question.to, "--to"));
  }
  return find_route(query, start, goals,
                    {.clearance = clearance, .seed = question.seed, .tries = question.tries},
                    {.progress = progress_bar(), .stop = {}});
}

}  // namespace er::cli
