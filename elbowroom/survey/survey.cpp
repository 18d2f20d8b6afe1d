#include "elbowroom/survey/survey.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/on_all_cores.hpp"
#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

SurveyedTarget try_target(const CellQuery& asked, const Target& target, const Posture& from,
                          const SurveyOptions& options, const Supervision& supervision) {
  const CellQuery query = with_meant_contacts(asked, target);
  SurveyedTarget out;
  out.name = target.name();
  if (const AtPlace* place = target.first_place()) out.pose = place->at;
  const auto reached =
      reach(query, target, {.clearance = options.clearance, .from = from, .find_remedies = true});
  if (!reached) {
    Reason reason = reached.reason();
    reason.details.clear();  // of many targets the sentence will do
    out.reason = fmt::format("{}", reason);
    return out;
  }
  out.postures = static_cast<int>(reached->solutions.size());
  const auto roomiest = std::max_element(reached->solutions.begin(), reached->solutions.end(),
                                         [](const ReachSolution& a, const ReachSolution& b) {
                                           return a.nearest.distance < b.nearest.distance;
                                         });
  out.clearance = roomiest->nearest.distance;
  if (roomiest->nearest.first >= 0)
    out.nearest = query.name(roomiest->nearest.first) + ", " + query.name(roomiest->nearest.second);
  if (!options.routes) return out;
  const auto route = find_route(query, from, reached->postures(),
                                {.clearance = options.clearance,
                                 .seed = options.seed,
                                 .tries = options.tries,
                                 .find_remedies = false,
                                 .least_within = 0.0},
                                {.progress = {}, .stop = supervision.stop});
  out.has_route = static_cast<bool>(route);
  if (route) {
    out.route_length = route->length;
  } else {
    out.reason = fmt::format("{}", route.reason());
  }
  return out;
}

}  // namespace

Survey survey(const CellQuery& query, const std::vector<Target>& targets,
              const SurveyOptions& options, const Supervision& supervision) {
  if (targets.empty()) throw InputError("the survey has no targets", "add some under targets:");
  const Stopwatch watch;
  const Posture from = query.arm().stance(options.from);
  Survey out;
  out.routes = options.routes;
  out.travel = travel_unit(query.arm());
  out.targets.resize(targets.size());
  for (std::size_t i = 0; i < targets.size(); ++i) {
    out.targets[i].name = targets[i].name();
    out.targets[i].reason = "no: stopped before it was asked";
  }
  on_all_cores(targets.size(), supervision, "surveying", [&](std::size_t i) {
    out.targets[i] = try_target(query, targets[i], from, options, supervision);
  });
  out.seconds = watch.seconds();
  return out;
}

int Survey::reached() const {
  return static_cast<int>(std::count_if(targets.begin(), targets.end(),
                                        [&](const SurveyedTarget& t) { return t.ok(routes); }));
}

std::string Survey::summary(const std::string& from) const {
  if (!routes) return fmt::format("{} of {} targets can be reached", reached(), targets.size());
  return fmt::format("{} of {} targets can be reached, with a proved route from {}", reached(),
                     targets.size(), from);
}

std::string Survey::report() const {
  Table table({"<target", "x mm", "y mm", "z mm", "postures", "clear mm", "<nearest pair", "<route",
               "<verdict"});
  for (const SurveyedTarget& t : targets) {
    const bool found = t.postures > 0;
    const auto coordinate = [&](Eigen::Index k) {
      return t.pose ? fmt::format("{:.0f}", to_mm(t.pose->position[k])) : std::string("-");
    };
    table.row({t.name, coordinate(0), coordinate(1), coordinate(2), std::to_string(t.postures),
               found && !t.nearest.empty() ? fmt::format("{:.1f}", to_mm(t.clearance)) : "-",
               found ? t.nearest : "-", t.has_route ? travel.text(t.route_length) : "-",
               t.ok(routes) ? "yes" : "no"});
  }
  std::string out = table.text();
  for (const SurveyedTarget& t : targets)
    if (!t.ok(routes)) {
      std::string reason = t.reason;
      for (std::size_t at = 0; (at = reason.find('\n', at)) != std::string::npos; at += 3)
        reason.replace(at, 1, "\n  ");
      out += fmt::format("  {}: {}\n", t.name, reason);
    }
  return out +
         fmt::format("  clear: of the roomiest posture; route: joint travel; {:.2f} s\n", seconds);
}

}  // namespace er
