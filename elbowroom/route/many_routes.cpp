#include "elbowroom/route/many_routes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "elbowroom/base/quantile.hpp"
#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/model/posture_text.hpp"
#include "elbowroom/route/cost_meter.hpp"

namespace er {
namespace {

ManyRoutes::Answer answer(const CellQuery& query, const AskedRoute& question,
                          RouteOptions options) {
  const auto ready = make_ready(query, question, options.clearance);
  if (!ready) return {question.name, ready.reason(), {}};
  warm_up(*ready);
  const double least_within = std::exchange(options.least_within, 0.0);  // it takes time of its own
  const Stopwatch watch;
  const auto found = find_route(*ready, options);
  const double seconds = watch.seconds();
  if (!found) return {question.name, found.reason(), {}, seconds};
  Route route = *found;
  find_least(ready->query, least_within, route);
  const CostParts parts =
      CostMeter(ready->query, options.cost, options.clearance).parts_of(route.waypoints);
  return {question.name, std::move(route), parts, seconds};
}

}  // namespace

ManyRoutes find_routes(const CellQuery& query, const std::vector<AskedRoute>& questions,
                       const RouteOptions& options, const Supervision& supervision) {
  ManyRoutes out;
  for (const AskedRoute& question : questions) {
    if (supervision.stop.stop_requested()) break;
    out.answers.push_back(answer(query, question, options));
    if (supervision.progress)
      supervision.progress(
          static_cast<double>(out.answers.size()) / static_cast<double>(questions.size()),
          "finding routes");
  }
  return out;
}

int ManyRoutes::found() const {
  return static_cast<int>(std::count_if(answers.begin(), answers.end(),
                                        [](const Answer& one) { return bool(one.route); }));
}

std::string ManyRoutes::summary() const {
  const bool all = found() == static_cast<int>(answers.size());
  std::vector<double> seconds;
  for (const Answer& one : answers)
    if (one.route) seconds.push_back(one.seconds);
  std::string text = fmt::format("{}: {} of {} questions have a route", all ? "yes" : "no", found(),
                                 answers.size());
  if (!seconds.empty())
    text += fmt::format("; half of them within {:.2f} ms, 95 % within {:.2f} ms",
                        median(seconds) * 1e3, quantile(seconds, 0.95) * 1e3);
  return text;
}

std::string ManyRoutes::report(const CellQuery& query) const {
  const TravelUnit unit = travel_unit(query.arm());
  Table table({"<question", "moves", fmt::format("travel {}", unit.name), "tool mm", "bends deg",
               "clear mm", "<nearest pair", "ms"});
  std::string reasons;
  for (const Answer& one : answers) {
    if (!one.route) {
      table.row({one.name, "no", "-", "-", "-", "-", "-", "-"});
      reasons += fmt::format("  {}: {}\n", one.name, one.route.reason().text);
      continue;
    }
    const Nearest& least = one.route->least.nearest;
    table.row({one.name, fmt::format("{}", one.route->waypoints.size() - 1),
               unit.number(one.route->length), fmt::format("{:.0f}", to_mm(one.parts.tool)),
               fmt::format("{:.0f}", to_deg(one.parts.bends)),
               least.first < 0 ? "-" : fmt::format("{:.1f}", to_mm(least.distance)),
               least.first < 0 ? "nothing to meet"
                               : query.name(least.first) + ", " + query.name(least.second),
               fmt::format("{:.2f}", one.seconds * 1e3)});
  }
  return table.text() + reasons;
}

}  // namespace er
