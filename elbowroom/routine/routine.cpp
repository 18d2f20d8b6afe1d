#include "elbowroom/routine/routine.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/model/arms_as_one.hpp"
#include "elbowroom/routine/start_early.hpp"

namespace er {

std::vector<std::string> Routine::arms() const {
  std::vector<std::string> out{arm};
  for (const ArmStart& one : others) out.push_back(one.arm);
  return out;
}

PaceOptions Routine::pacing_of(const Step& step) const {
  PaceOptions out{.profile = step.profile.value_or(profile),
                  .speed = step.speed.value_or(speed),
                  .tool = step.tool};
  out.keep_jerk = keep_jerk && out.profile == Profile::time_optimal;
  if (step.tool_speed) out.tool_speed = *step.tool_speed;
  out.steady = step.steady;
  out.frame_speeds = step.keep_speeds;
  return out;
}

Cell Routine::moving_cell(const Cell& cell) const {
  return others.empty() ? cell : with_arms_as_one(cell, arms());
}

const Arm& Routine::moving_arm(const Cell& moving) const {
  return moving.arm(others.empty() ? arm : name_as_one(arms()));
}

std::vector<std::string> Routine::signals() const {
  std::vector<std::string> out;
  for (const Step& step : steps)
    for (const Condition& one : step.when)
      if (step.on && !one.chosen && std::find(out.begin(), out.end(), one.on) == out.end())
        out.push_back(one.on);
  return out;
}

int Routine::waited_for(int number, const std::string& wanted) const {
  const std::string& waits = arm_of(steps[static_cast<std::size_t>(number)]);
  for (int i = number; i-- > 0;) {
    const Step& one = steps[static_cast<std::size_t>(i)];
    if (!one.on || arm_of(one) == waits) continue;
    if (one.name == wanted || one.of == wanted || one.name.starts_with(wanted + ": ")) return i;
  }
  return -1;
}

std::string PlannedPath::text() const {
  std::string out;
  for (const SignalValue& one : signals)
    out += fmt::format("{}{}: {}", out.empty() ? "" : ", ", one.signal, one.is ? "yes" : "no");
  return out;
}

PlannedRoutine PlannedRoutine::along(std::size_t path) const {
  PlannedRoutine out = *this;
  out.steps = paths[path].steps;
  out.signals = paths[path].signals;
  out.instead = paths[path].instead;
  return out;
}

std::size_t PlannedRoutine::path_where(const std::vector<SignalValue>& asked) const {
  const std::vector<std::string> known = routine.signals();
  for (const SignalValue& one : asked)
    if (std::find(known.begin(), known.end(), one.signal) == known.end())
      throw unknown_name("signal of this routine", one.signal, known);
  const auto contradicts = [&](const SignalValue& there) {
    return std::any_of(asked.begin(), asked.end(), [&](const SignalValue& one) {
      return one.signal == there.signal && one.is != there.is;
    });
  };
  const auto found = std::find_if(paths.begin(), paths.end(), [&](const PlannedPath& path) {
    return std::none_of(path.signals.begin(), path.signals.end(), contradicts);
  });
  if (found == paths.end()) throw InputError("no path goes that way", "say each signal once");
  return static_cast<std::size_t>(found - paths.begin());
}

double PlannedRoutine::duration() const {
  double last = 0.0;
  for (const PlannedStep& step : steps) last = std::max(last, step.ends());
  return last;
}

std::vector<double> PlannedRoutine::ends() const {
  std::vector<double> times;
  for (const PlannedStep& step : steps) times.push_back(step.ends());
  return times;
}

namespace {

const Posture& start_of(const PlannedRoutine& planned, const std::string& arm) {
  const Routine& routine = planned.routine;
  if (arm == routine.arm) return planned.starts.front();
  for (std::size_t i = 0; i < routine.others.size(); ++i)
    if (routine.others[i].arm == arm) return planned.starts[i + 1];
  throw unknown_name("arm of the routine", arm, routine.arms());
}

}  // namespace

Motion PlannedRoutine::whole(const std::string& arm) const {
  const double until = duration();
  const double shortest = 1e-9 * until;
  Motion all;
  const auto rest_until = [&](double time) {
    if (time - all.duration() <= shortest) return;
    const Posture there =
        all.pieces().empty() ? start_of(*this, arm) : all.at(all.duration()).position;
    all = all.then(at_rest(there, time - all.duration()));
  };
  for (const PlannedStep& step : steps) {
    if (routine.arm_of(step.step) != arm) continue;
    rest_until(step.begins);
    all = all.then(step.motion);
  }
  rest_until(until);
  return all;
}

Motion PlannedRoutine::whole() const {
  if (routine.others.empty()) return whole(routine.arm);
  std::vector<StartedCurve> all;
  double until = 0.0;
  for (const std::string& arm : routine.arms()) {
    all.push_back({0.0, whole(arm)});
    until = std::max(until, all.back().curve.duration());
  }
  return side_by_side(all, until);
}

Posture PlannedRoutine::posture_of(const std::string& arm, double time) const {
  const PlannedStep* last = nullptr;
  for (const PlannedStep& step : steps)
    if (step.begins <= time && (last == nullptr || step.begins > last->begins) &&
        routine.arm_of(step.step) == arm)
      last = &step;
  return last == nullptr ? start_of(*this, arm) : last->motion.at(time - last->begins).position;
}

Cell cell_after(const Cell& before, const PlannedStep& step, const std::string& arm) {
  if (step.grips)
    return before.with_held(step.grips->piece, arm, step.grips->tool, step.grips->tip);
  if (step.leaves)
    return before.with_released(std::get<Release>(step.step.action).piece, *step.leaves);
  return before;
}

Cell PlannedRoutine::cell_at(const Cell& cell, double time) const {
  std::vector<const PlannedStep*> done;
  for (const PlannedStep& step : steps)
    if (step.ends() <= time) done.push_back(&step);
  std::stable_sort(done.begin(), done.end(), [](const PlannedStep* a, const PlannedStep* b) {
    return a->ends() < b->ends();
  });
  Cell out = cell;
  for (const PlannedStep* step : done) out = cell_after(out, *step, routine.arm_of(step->step));
  return out;
}

int PlannedRoutine::index_of(int number) const {
  std::vector<int> known;
  for (std::size_t i = 0; i < steps.size(); ++i) {
    if (steps[i].number == number) return static_cast<int>(i);
    known.push_back(steps[i].number);
  }
  throw InputError(fmt::format("there is no step {}", number),
                   fmt::format("planned: {}", fmt::join(known, ", ")));
}

PlannedRoutine PlannedRoutine::part(int first, int last) const {
  if (first < 1 || last < first || last > static_cast<int>(steps.size()))
    throw InputError(
        fmt::format("steps {} to {} are not there: {} were planned", first, last, steps.size()));
  PlannedRoutine out = *this;
  out.steps.assign(steps.begin() + (first - 1), steps.begin() + last);
  // Every arm stands where its steps before these in the list leave it: so they were planned.
  const std::vector<std::string> arms = routine.arms();
  for (int i = 0; i + 1 < first; ++i) {
    const PlannedStep& before = steps[static_cast<std::size_t>(i)];
    const auto arm = std::find(arms.begin(), arms.end(), routine.arm_of(before.step));
    out.starts[static_cast<std::size_t>(arm - arms.begin())] =
        before.motion.at(before.duration()).position;
  }
  set_times_in_turn(out);
  return out;
}

Pose PlannedRoutine::place_of(const Body& piece, double time) const {
  Pose out = piece.at;
  double latest = -1.0;
  for (const PlannedStep& step : steps) {
    const double done = step.ends();
    if (done > time || done <= latest) continue;
    if (step.grips && step.grips->piece == piece.name) {
      latest = done;
      const std::string& arm = routine.arm_of(step.step);
      out = er::place_of(*step.grips, step.cell->arm(arm), posture_of(arm, time));
    } else if (const auto* release = std::get_if<Release>(&step.step.action);
               release != nullptr && step.leaves && release->piece == piece.name) {
      latest = done;
      out = *step.leaves;
    }
  }
  return out;
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
    if (step.waits > 0.0)
      out += fmt::format("  step {}, {}: {} waits {}{}\n", step.number, step.step.name,
                         routine.arm_of(step.step), text_time(step.waits),
                         step.waits_for.empty() ? "" : ": " + step.waits_for);
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
