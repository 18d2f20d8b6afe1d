#include "elbowroom/rehearse/rehearse.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/kinematics/target_on_arm.hpp"
#include "elbowroom/rehearse/replay_clearance.hpp"
#include "elbowroom/rehearse/replay_zones.hpp"

namespace er {
namespace {

constexpr double kLimitSlack = 1e-6;      // relative
constexpr double kClearanceSlack = 1e-6;  // m
constexpr double kRuleSlack = 1e-6;       // m or rad
constexpr double kJump = 1e-9;            // rad or m between the end of a step and the next start

void fault(RehearsedStep& step, const std::string& text) {
  if (step.fault.empty()) step.fault = text;
}

void measure(MeasuredUse& use, double share, int joint) {
  if (share > use.share) use = {share, joint};
}

// Positions on a regular grid that hits both ends exactly: the tick is rate seconds or a little
// less.
std::vector<Posture> sample(const Motion& motion, double rate, double& tick) {
  const auto ticks = std::max(2L, std::lround(std::ceil(motion.duration() * rate)));
  tick = motion.duration() / static_cast<double>(ticks);
  std::vector<Posture> samples;
  JointState state;
  for (long i = 0; i <= ticks; ++i) {
    motion.at(static_cast<double>(i) * tick, state);
    samples.push_back(state.position);
  }
  return samples;
}

void check_limits(const Arm& arm, const std::vector<Posture>& samples, double tick,
                  RehearsedStep& step) {
  const Limits& limits = arm.limits();
  // At rest before and after: the first and last sample stand for all time outside.
  const auto at = [&](long i) -> const Posture& {
    return samples[static_cast<std::size_t>(
        std::clamp(i, 0L, static_cast<long>(samples.size()) - 1))];
  };
  for (long i = 0; i < static_cast<long>(samples.size()); ++i) {
    for (int k = 0; k < arm.dof(); ++k) {
      const double half = 0.5 * (limits.upper[k] - limits.lower[k]);
      const double middle = 0.5 * (limits.upper[k] + limits.lower[k]);
      if (half > 0.0) measure(step.range, std::abs(at(i)[k] - middle) / half, k);
      const double velocity = (at(i + 1)[k] - at(i)[k]) / tick;
      measure(step.velocity, std::abs(velocity) / limits.velocity[k], k);
      const double acceleration = (at(i + 1)[k] - 2.0 * at(i)[k] + at(i - 1)[k]) / (tick * tick);
      measure(step.acceleration, std::abs(acceleration) / limits.acceleration[k], k);
    }
    if (std::string breach = arm.limit_breach(at(i)); !breach.empty()) fault(step, breach);
  }
  const auto over = [&](const MeasuredUse& use, const char* what) {
    // Second differences of positions near 3 rad carry rounding of about 1e-9 of the limit.
    if (use.share > 1.0 + kLimitSlack)
      fault(step, fmt::format("joint {} uses {:.2f} % of its {} limit",
                              arm.moving_joint(use.joint).name, 100.0 * use.share, what));
  };
  over(step.velocity, "velocity");
  over(step.acceleration, "acceleration");
}

void check_zones(ReplayZones& zones, const std::vector<Posture>& samples, double tick,
                 RehearsedStep& step) {
  for (std::size_t i = 0; i + 1 < samples.size(); ++i) {
    const ReplayZones::Result fastest = zones.fastest(samples[i], samples[i + 1], tick);
    if (fastest.share <= step.zone_share) continue;
    step.zone_share = fastest.share;
    step.zone = fastest.zone;
    if (fastest.share > 1.0 + kLimitSlack)
      fault(step, fmt::format("{} moves at {:.1f} mm/s in zone {}, which allows {:.1f} mm/s",
                              fastest.link, to_mm(fastest.speed), fastest.zone,
                              to_mm(fastest.speed / fastest.share)));
  }
}

// The rules of a step, by the errors of requirements rather than the planner's bounds.
void check_rules(const Arm& arm, const Step& plan, const std::vector<Posture>& samples, double tick,
                 double began, RehearsedStep& step) {
  if (plan.keep.empty()) return;
  Target rules;
  for (const Requirement& rule : plan.keep) rules.require(rule);
  const TargetOnArm on_arm(arm, rules);
  for (std::size_t i = 0; i < samples.size(); ++i) {
    const double time = began + static_cast<double>(i) * tick;
    for (int r = 0; r < on_arm.size(); ++r) {
      const TargetOnArm::Error off = on_arm.error_of(r, samples[i]);
      if (off.position <= kRuleSlack && off.angle <= kRuleSlack) continue;
      fault(step,
            fmt::format("rule '{}' is off by {} at {}", on_arm[r].requirement->name,
                        off.angle > kRuleSlack ? text_angle(off.angle) : text_length(off.position),
                        text_time(time)));
    }
    if ((samples[i].array() < on_arm.lower().array() - kRuleSlack).any() ||
        (samples[i].array() > on_arm.upper().array() + kRuleSlack).any())
      fault(step, fmt::format("a joint leaves the band of a rule at {}", text_time(time)));
  }
}

std::string text_use(const MeasuredUse& use) {
  return use.joint < 0 ? "-" : fmt::format("{:.1f} %", 100.0 * use.share);
}

}  // namespace

bool Rehearsal::passed() const {
  return !steps.empty() && std::all_of(steps.begin(), steps.end(),
                                       [](const RehearsedStep& s) { return s.fault.empty(); });
}

Rehearsal rehearse(const Cell& cell, const PlannedRoutine& planned, const RehearseOptions& options,
                   const Supervision& supervision) {
  if (!(options.rate > 0.0) || !std::isfinite(options.rate))
    throw InputError(fmt::format("the rate must be above zero, found {}", options.rate));
  const Stopwatch watch;
  const Arm& arm = cell.arm(planned.routine.arm);
  ReplayClearance clearance(cell, arm);
  ReplayZones zones(cell, arm);
  Rehearsal out;
  Posture last = arm.stance(planned.routine.start);
  for (const PlannedStep& plan : planned.steps) {
    RehearsedStep step;
    step.name = plan.step.name;
    if (supervision.stop.stop_requested()) fault(step, "told to stop before it was replayed");
    step.duration = plan.motion.duration();
    step.asked_clearance = plan.clearance;
    step.way = plan.way;
    step.ways = plan.ways;
    double tick = 0.0;
    const std::vector<Posture> samples = sample(plan.motion, options.rate, tick);
    if ((samples.front() - last).cwiseAbs().maxCoeff() > kJump)
      fault(step, "it does not begin where the step before it ends");
    last = samples.back();
    check_limits(arm, samples, tick, step);
    check_zones(zones, samples, tick, step);
    check_rules(arm, plan.step, samples, tick, out.duration, step);
    for (std::size_t i = 0; i < samples.size() && !supervision.stop.stop_requested(); ++i) {
      const auto found = clearance.nearest(samples[i], step.clearance);
      if (found.distance < step.clearance) {
        step.clearance = found.distance;
        step.clearance_time = out.duration + static_cast<double>(i) * tick;
        step.nearest = found.pair;
      }
      if (supervision.progress && (out.ticks + static_cast<long>(i)) % 256 == 0)
        supervision.progress((out.duration + static_cast<double>(i) * tick) / planned.duration(),
                             "rehearsing " + step.name);
    }
    if (step.clearance <= plan.clearance - kClearanceSlack)
      fault(step, fmt::format("{} are {} {} at {}, where {} is asked for", step.nearest,
                              text_length(std::abs(step.clearance)),
                              step.clearance < 0.0 ? "deep in each other" : "apart",
                              text_time(step.clearance_time), text_length(plan.clearance)));
    out.ticks += static_cast<long>(samples.size());
    out.duration += step.duration;
    out.steps.push_back(std::move(step));
  }
  out.seconds = watch.seconds();
  return out;
}

std::string Rehearsal::summary() const {
  for (std::size_t i = 0; i < steps.size(); ++i)
    if (!steps[i].fault.empty())
      return fmt::format("no: step {} of {}, {}: {}", i + 1, steps.size(), steps[i].name,
                         steps[i].fault);
  const auto least = std::min_element(
      steps.begin(), steps.end(),
      [](const RehearsedStep& a, const RehearsedStep& b) { return a.clearance < b.clearance; });
  if (!std::isfinite(least->clearance))
    return fmt::format(
        "yes: {} steps in {}, range, velocity and acceleration kept, nothing to meet", steps.size(),
        text_time(duration));
  return fmt::format(
      "yes: {} steps in {}, range, velocity and acceleration kept, least clearance {} ({} in step "
      "{})",
      steps.size(), text_time(duration), text_length(least->clearance), least->nearest,
      least - steps.begin() + 1);
}

std::string Rehearsal::report(const Arm& arm) const {
  // A column for zones only where one is met.
  const bool zones = std::any_of(steps.begin(), steps.end(),
                                 [](const RehearsedStep& step) { return !step.zone.empty(); });
  std::vector<std::string> headings{"#", "<step", "duration", "range", "velocity", "acceler."};
  if (zones) headings.emplace_back("zone cap");
  for (const char* h : {"clear mm", "asked mm", "<nearest pair", "<way", "<verdict"})
    headings.emplace_back(h);
  Table table(headings);
  for (std::size_t i = 0; i < steps.size(); ++i) {
    const RehearsedStep& s = steps[i];
    std::vector<std::string> row{std::to_string(i + 1), s.name,
                                 text_time(s.duration), text_use(s.range),
                                 text_use(s.velocity),  text_use(s.acceleration)};
    if (zones) row.push_back(s.zone.empty() ? "-" : fmt::format("{:.1f} %", 100.0 * s.zone_share));
    row.push_back(std::isfinite(s.clearance) ? fmt::format("{:.1f}", to_mm(s.clearance)) : "-");
    row.push_back(fmt::format("{:.1f}", to_mm(s.asked_clearance)));
    row.push_back(s.nearest);
    row.push_back(s.way > 0 ? fmt::format("{} of {}", s.way, s.ways) : "");
    row.push_back(s.fault.empty() ? "yes" : "NO: " + s.fault);
    table.row(row);
  }
  return table.text() + fmt::format(
                            "  range, velocity, acceler.: the largest share of any joint's limit "
                            "(jerk is not measured); {} ticks "
                            "replayed for {} in {:.2f} s\n",
                            ticks, arm.name(), seconds);
}

}  // namespace er
