// What a route says of itself, in a line and in full.
#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/model/posture_text.hpp"
#include "elbowroom/route/route.hpp"
#include "elbowroom/route/turn_notes.hpp"

namespace er {

std::string Route::summary(const CellQuery& query) const {
  // Whether the least clearance was looked for at all.
  const bool has_least = least.nearest.first >= 0 || std::isinf(least.lower);
  return fmt::format("yes: {} straight joint move{}, {} of joint travel, proved to keep {}{}",
                     waypoints.size() - 1, waypoints.size() == 2 ? "" : "s",
                     travel_unit(query.arm()).text(length), text_length(clearance),
                     has_least ? "; least: " + query.describe(least.nearest) : "");
}

std::string RouteFigures::text(const Arm& arm) const {
  std::string text = fmt::format(
      "  {} line{} put to the proof, {} look{} at pairs or intervals, {} tr{}; "
      "{} before tightening; {:.1f} ms{}\n",
      lines, lines == 1 ? "" : "s", checks, checks == 1 ? "" : "s", tries, tries == 1 ? "y" : "ies",
      travel_unit(arm).text(length_found), seconds * 1e3,
      from_roadmap ? "; along the roadmap" : "");
  if (costs.size() > 1)
    text +=
        fmt::format("  improved in {} rounds: from a cost of {:.3f} to {:.3f} ({:.0f} % less)\n",
                    costs.size() - 1, costs.front(), costs.back(),
                    100.0 * (1.0 - costs.back() / costs.front()));
  if (out_of_time)
    text += "  ended by the time it was given: another machine may find another route\n";
  return text;
}

std::string Route::report(const CellQuery& query) const {
  const Arm& arm = query.arm();
  std::vector<std::string> headings{"at"};
  for (std::string& heading : joint_headings(arm)) headings.push_back(std::move(heading));
  headings.emplace_back("clear mm");
  headings.emplace_back("<nearest pair");
  Table table(headings);
  double travelled = 0.0;
  for (std::size_t i = 0; i < waypoints.size(); ++i) {
    if (i > 0) travelled += (waypoints[i] - waypoints[i - 1]).norm();
    std::vector<std::string> row{
        fmt::format("{:.0f} %", length > 0.0 ? 100.0 * travelled / length : 0.0)};
    for (std::string& cell : joint_cells(arm, waypoints[i])) row.push_back(std::move(cell));
    const Nearest nearest = query.nearest(waypoints[i]);
    row.push_back(nearest.first < 0 ? "-" : fmt::format("{:.1f}", to_mm(nearest.distance)));
    row.push_back(nearest.first < 0
                      ? "nothing to meet"
                      : query.name(nearest.first) + ", " + query.name(nearest.second));
    table.row(std::move(row));
  }
  std::string turns;
  for (const std::string& note : full_turn_notes(arm, waypoints.front(), waypoints.back()))
    turns += "  " + note + "\n";
  std::string rules;
  for (const std::string& rule : kept)
    rules += fmt::format("  rule {}; proved for the whole way\n", rule);
  return table.text() + rules + turns + figures.text(arm);
}

}  // namespace er
