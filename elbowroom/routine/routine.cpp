#include "elbowroom/routine/routine.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {

double PlannedRoutine::duration() const {
  double sum = 0.0;
  for (const PlannedStep& step : steps) sum += step.motion.duration();
  return sum;
}

std::vector<double> PlannedRoutine::ends() const {
  std::vector<double> times;
  double time = 0.0;
  for (const PlannedStep& step : steps) times.push_back(time += step.motion.duration());
  return times;
}

Motion PlannedRoutine::whole() const {
  Motion all;
  for (const PlannedStep& step : steps) all = all.then(step.motion);
  return all;
}

PlannedRoutine PlannedRoutine::part(int first, int last) const {
  if (first < 1 || last < first || last > static_cast<int>(steps.size()))
    throw InputError(
        fmt::format("steps {} to {} are not there: {} were planned", first, last, steps.size()));
  PlannedRoutine out = *this;
  out.steps.assign(steps.begin() + (first - 1), steps.begin() + last);
  out.start = steps[static_cast<std::size_t>(first - 1)].motion.at(0.0).position;
  return out;
}

Pose PlannedRoutine::place_of(const Body& piece, double time) const {
  const std::vector<double> until = ends();
  const auto after = std::lower_bound(until.begin(), until.end(), time);
  const auto number = std::min<std::size_t>(static_cast<std::size_t>(after - until.begin()),
                                            until.empty() ? 0 : until.size() - 1);
  if (steps.empty()) return piece.at;
  const PlannedStep& step = steps[number];
  for (const Body& one : step.cell->pieces())
    if (one.name == piece.name) return one.at;
  const Arm& arm = step.cell->arm(routine.arm);
  const double began = number == 0 ? 0.0 : until[number - 1];
  const std::vector<Pose> links = link_poses(arm, step.motion.at(time - began).position);
  return links[static_cast<std::size_t>(arm.link_index(piece.name))];
}

std::string PlannedRoutine::explanation() const {
  std::string out = fmt::format(
      "  the search: {} postures to be in over all steps, {} moves planned; {}; {:.0f} ms\n", ways,
      looks,
      is_quickest
          ? fmt::format("no other combination of them is expected to be quicker by {:.0f} %",
                        100.0 * worthwhile)
          : "it was cut short, another combination may be quicker",
      1e3 * seconds);
  for (const PlannedStep& step : steps) {
    if (!step.how.empty())
      out += fmt::format("  step {}, {}: way {} of {}, {}\n", step.number, step.step.name, step.way,
                         step.ways, step.how);
    if (step.refused.empty()) continue;
    // What is refused for the same reason, in one line.
    std::map<std::string, int> counts;
    for (const std::string& reason : step.refused) ++counts[reason];
    out += fmt::format("  step {}, {}: {} way{} refused\n", step.number, step.step.name,
                       step.refused.size(), step.refused.size() == 1 ? "" : "s");
    for (const auto& [reason, count] : counts) out += fmt::format("    {} x {}\n", count, reason);
  }
  return out;
}

}  // namespace er
