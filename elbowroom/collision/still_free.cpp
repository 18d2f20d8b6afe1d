#include "elbowroom/collision/still_free.hpp"

#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/sweep.hpp"

namespace er {
namespace {

constexpr int kHalvings = 20;

}  // namespace

StillFree still_free(const CellQuery& query, const std::vector<Posture>& waypoints,
                     double clearance) {
  if (waypoints.size() < 2) throw InputError("a path needs at least two waypoints");
  for (const Posture& waypoint : waypoints)
    query.arm().check_posture(waypoint, "a waypoint of the path");
  check_clearance(clearance);
  SweepMemory memory(query);
  StillFree out;
  for (; out.moves + 1 < waypoints.size(); ++out.moves) {
    const Posture& from = waypoints[out.moves];
    const Posture step = waypoints[out.moves + 1] - from;
    const auto is_free_until = [&](double share) {
      return sweep_line(query, from, from + share * step,
                        {.clearance = clearance, .measure_overlap = false}, memory)
          .free;
    };
    if (is_free_until(1.0)) continue;
    // What is free until here is free until anywhere before.
    double blocked = 1.0;
    if (!is_free_until(0.0)) blocked = 0.0;
    for (int i = 0; i < kHalvings && blocked > 0.0; ++i) {
      const double middle = 0.5 * (out.share + blocked);
      (is_free_until(middle) ? out.share : blocked) = middle;
    }
    out.contact = query.nearest(from + blocked * step);
    return out;
  }
  return out;
}

std::string StillFree::text(const CellQuery& query, double clearance) const {
  const std::string stands = moves == 0   ? "no move still stands whole"
                             : moves == 1 ? "move 1 still stands"
                                          : fmt::format("moves 1 to {} still stand", moves);
  if (is_all()) return fmt::format("all {} moves still stand", moves);
  // What is too near at the very beginning may be so by much.
  const std::string meets =
      share == 0.0
          ? query.describe(contact, clearance) + ","
          : fmt::format("{} and {} come {}", query.name(contact.first), query.name(contact.second),
                        clearance > 0.0 ? "within " + text_length(clearance) : "together");
  return fmt::format("{}; then {} at {:.2f} % of move {}", stands, meets, 100.0 * share, moves + 1);
}

}  // namespace er
