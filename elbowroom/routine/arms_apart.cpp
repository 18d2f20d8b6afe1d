#include "elbowroom/routine/arms_apart.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/model/arms_as_one.hpp"

namespace er {

std::vector<ArmsApart> arms_apart(const Cell& found, const PlannedRoutine& planned, double rate) {
  const std::vector<std::string> arms = planned.routine.arms();
  if (arms.size() < 2) throw InputError("one arm alone is not apart from anything");
  std::vector<double> changes;  // when something is gripped or let go of
  for (const PlannedStep& step : planned.steps)
    if (step.grips || step.leaves) changes.push_back(step.ends());
  std::sort(changes.begin(), changes.end());
  const double until = planned.duration();
  const int ticks = std::max(1, static_cast<int>(std::ceil(until * rate)));
  std::vector<ArmsApart> out;
  std::size_t next = 0;
  const auto query_at = [&](double time) {
    return CellQuery::between_arms(with_arms_as_one(planned.cell_at(found, time), arms),
                                   name_as_one(arms));
  };
  CellQuery query = query_at(0.0);
  PartPoses parts(query);
  for (int i = 0; i <= ticks; ++i) {
    const double time = until * i / ticks;
    bool changed = false;
    for (; next < changes.size() && changes[next] <= time; ++next) changed = true;
    if (changed) {
      query = query_at(time);
      parts = PartPoses(query);
    }
    std::vector<Posture> postures;
    for (const std::string& arm : arms) postures.push_back(planned.posture_of(arm, time));
    const Nearest nearest =
        query.nearest(side_by_side(postures), parts, {.itself = true, .surroundings = false});
    out.push_back({time, nearest.distance,
                   nearest.first < 0 ? std::string{}
                                     : fmt::format("{}, {}", query.name(nearest.first),
                                                   query.name(nearest.second))});
  }
  return out;
}

}  // namespace er
