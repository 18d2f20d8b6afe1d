#include "elbowroom/route/asked_route.hpp"

#include <fmt/format.h>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/reach/reach.hpp"
#include "elbowroom/route/line_prover.hpp"

namespace er {
Verdict<ReadyRoute> make_ready(const CellQuery& query, const AskedRoute& asked, double clearance) {
  if ((asked.end.size() == 0) == asked.targets.empty())
    throw InputError(asked.targets.empty() ? "no end is given"
                                           : "two ends are given, a posture and a target");
  if (asked.targets.empty()) return ReadyRoute{query, asked.start, {asked.end}, {}};
  ReadyRoute ready{with_meant_contacts(query, asked.targets.front()), asked.start, {}, {}};
  std::optional<Reason> refused;
  for (std::size_t t = 0; t < asked.targets.size(); ++t) {
    const Target& target = asked.targets[t];
    if (ready.query.cell().contacts() != with_meant_contacts(query, target).cell().contacts())
      throw InputError(fmt::format("targets '{}' and '{}' mean different contacts",
                                   asked.targets.front().name(), target.name()),
                       "ask for each in a question of its own");
    const auto reached = reach(query, target, {.clearance = clearance, .from = asked.start});
    if (!reached) {
      if (!refused)
        refused = reached.reason();
      else
        refused->details.push_back(target.name() + ": " + reached.reason().text);
      continue;
    }
    for (Posture& posture : reached->postures()) {
      ready.goals.push_back(std::move(posture));
      ready.target_of_goal.push_back(t);
    }
  }
  if (ready.goals.empty()) return *refused;
  return ready;
}

void warm_up(const ReadyRoute& ready) {
  LineProver(ready.query, 0.0).is_free(ready.start, ready.start);
}

Verdict<Route> find_route(const ReadyRoute& ready, const RouteOptions& options,
                          const Supervision& supervision) {
  return find_route(ready.query, ready.start, ready.goals, options, supervision);
}

}  // namespace er
