#include "elbowroom/rehearse/rehearse.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/kinematics/target_on_arm.hpp"
#include "elbowroom/model/find_named.hpp"
#include "elbowroom/rehearse/replay_clearance.hpp"
#include "elbowroom/rehearse/replay_zones.hpp"
#include "elbowroom/routine/contact_depth.hpp"

namespace er {
namespace {

constexpr double kLimitSlack = 1e-6;      // relative
constexpr double kClearanceSlack = 1e-6;  // m
constexpr double kRuleSlack = 1e-6;       // m or rad
constexpr double kOffGrasp = 1e-3;        // m
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

// Keeps account of what is held, by where the tool is and by nothing else.
class HeldAccount {
 public:
  HeldAccount(const Cell& cell, std::string arm) : cell_(cell), arm_(std::move(arm)) {}

  [[nodiscard]] const Cell& cell() const { return cell_; }
  [[nodiscard]] const Arm& arm() const { return cell_.arm(arm_); }

  // What a step that has ended in `posture` has changed; what is wrong with it, or "".
  std::string after(const Step& step, const Posture& posture) {
    if (const Grip* grip = std::get_if<Grip>(&step.action)) {
      const Tool tool = arm().end_tool(step.tool);
      const Body& piece = find_named(cell_.pieces(), "piece", grip->piece);
      const Pose tip = piece.at.inverse() * tool_pose(arm(), tool, posture);
      double beside = std::numeric_limits<double>::infinity();
      for (const Grasp& grasp : piece.grasps) beside = std::min(beside, off(grasp, tip));
      cell_ = cell_.with_held(grip->piece, arm_, tool.name, tip);
      if (beside > kOffGrasp)
        return fmt::format("{} is gripped {} beside the nearest of its grasps", grip->piece,
                           text_length(beside));
    } else if (const Release* release = std::get_if<Release>(&step.action)) {
      const int link = arm().link_index(release->piece);
      const std::vector<Pose> poses = link_poses(arm(), posture);
      cell_ = cell_.with_released(release->piece, poses[static_cast<std::size_t>(link)]);
    }
    return {};
  }
  [[nodiscard]] std::vector<std::string> held() const {
    std::vector<std::string> names;
    for (const Link& link : arm().links())
      if (link.held) names.push_back(link.name);
    return names;
  }

 private:
  // m that a tip is off a grasp, which may be gone round the piece's z: by its distance from that
  // axis and its height, and by the angle that the tool leans, 100 mm out.
  static double off(const Grasp& grasp, const Pose& tip) {
    const Vector3& a = grasp.tip.position;
    const Vector3& b = tip.position;
    const bool round = !grasp.turn.is_exact();
    const double place =
        round ? std::hypot(a.head<2>().norm() - b.head<2>().norm(), a.z() - b.z()) : (a - b).norm();
    const double lean = round ? grasp.tip.rotation(2, 2) - tip.rotation(2, 2)
                              : (grasp.tip.rotation - tip.rotation).norm();
    return place + 0.1 * std::abs(lean);
  }

  Cell cell_;
  std::string arm_;
};

// How deep what is excused goes into each other: meant contacts touch, and no more.
void check_contacts(const Cell& cell, const Arm& arm, const std::vector<MeantContact>& excused,
                    const std::vector<Posture>& samples, double uncertainty, RehearsedStep& step) {
  for (const MeantContact& contact : excused) {
    ReplayClearance replay(cell, arm, contact);
    ExcusedContact out{contact, std::numeric_limits<double>::infinity()};
    for (const Posture& posture : samples)
      out.least = std::min(out.least, replay.nearest(posture, out.least).distance);
    const double counted = counted_distance(out.least, cell, contact, uncertainty);
    if (counted < -kDeepestContact)
      fault(step, fmt::format("{} and {} may touch, but are {} deep in each other", contact.first,
                              contact.second, text_length(-counted)));
    step.excused.push_back(std::move(out));
  }
}

// "velocity of wrist_bend 97.2 %", as measured.
std::string tightest(const RehearsedStep& step, const Arm& arm) {
  const MeasuredUse* most = &step.range;
  const char* what = "range";
  if (step.velocity.share > most->share) most = &step.velocity, what = "velocity";
  if (step.acceleration.share > most->share) most = &step.acceleration, what = "acceleration";
  if (step.zone_share > most->share)
    return fmt::format("speed in {} {:.1f} %", step.zone, 100.0 * step.zone_share);
  if (most->joint < 0) return "-";
  return fmt::format("{} of {} {:.1f} %", what, arm.moving_joint(most->joint).name,
                     100.0 * most->share);
}

// Steps that are told of in one line: a single one, or all of what is done with one piece.
struct Lines {
  std::size_t first = 0;
  std::size_t end = 0;
};
std::vector<Lines> lines_of(const std::vector<RehearsedStep>& steps, bool every_step) {
  std::vector<Lines> out;
  for (std::size_t i = 0; i < steps.size(); ++i) {
    const bool joins = !every_step && !out.empty() && !steps[i].of.empty() &&
                       steps[i].of == steps[out.back().first].of;
    if (joins)
      out.back().end = i + 1;
    else
      out.push_back({i, i + 1});
  }
  return out;
}

// Many steps as one: the least clearance, the largest use, the first fault.
RehearsedStep summed(const std::vector<RehearsedStep>& steps, const Lines& lines) {
  RehearsedStep out = steps[lines.first];
  if (lines.end - lines.first > 1)
    out.name = fmt::format("{}: {} steps", out.of, lines.end - lines.first);
  for (std::size_t i = lines.first + 1; i < lines.end; ++i) {
    const RehearsedStep& one = steps[i];
    out.duration += one.duration;
    if (one.clearance < out.clearance) {
      out.clearance = one.clearance;
      out.nearest = one.nearest;
      out.asked_clearance = one.asked_clearance;
    }
    const auto more = [](MeasuredUse& most, const MeasuredUse& use) {
      if (use.share > most.share) most = use;
    };
    more(out.range, one.range);
    more(out.velocity, one.velocity);
    more(out.acceleration, one.acceleration);
    if (one.zone_share > out.zone_share) {
      out.zone_share = one.zone_share;
      out.zone = one.zone;
    }
    if (out.fault.empty() && !one.fault.empty())
      out.fault = fmt::format("step {}, {}: {}", one.number, one.name, one.fault);
    out.way = 0;
  }
  return out;
}

constexpr std::size_t kMostLines = 40;

std::string contacts_text(const std::vector<RehearsedStep>& steps) {
  std::string out;
  for (const RehearsedStep& step : steps)
    for (const ExcusedContact& one : step.excused)
      out += fmt::format("    step {}: {}, {} ({})\n", step.number, one.pair.first, one.pair.second,
                         one.least < 5e-5 ? one.least < -5e-5 ? text_length(-one.least) + " deep"
                                                              : std::string("they touch")
                                          : text_length(one.least) + " apart at least");
  return out.empty() ? out : "  contacts that are meant, and how near they came:\n" + out;
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
  HeldAccount account(cell, cell.arm(planned.routine.arm).name());
  Rehearsal out;
  out.of = static_cast<int>(planned.routine.steps.size());
  Posture last =
      planned.start.size() > 0 ? planned.start : account.arm().stance(planned.routine.start);
  for (const PlannedStep& plan : planned.steps) {
    const Arm arm = account.arm();
    ReplayClearance clearance(account.cell().with_contacts(plan.excused), arm);
    ReplayZones zones(account.cell(), arm);
    RehearsedStep step;
    step.number = plan.number;
    step.name = plan.step.name;
    step.of = plan.step.of;
    step.kind = kind_of(plan.step.action);
    step.how = plan.how;
    step.held = account.held();
    if (supervision.stop.stop_requested()) fault(step, "told to stop before it was replayed");
    step.duration = plan.motion.duration();
    step.asked_clearance = plan.clearance + planned.uncertainty;
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
    check_contacts(account.cell(), arm, plan.excused, samples, planned.uncertainty, step);
    if (const std::string wrong = account.after(plan.step, last); !wrong.empty())
      fault(step, wrong);
    if (step.clearance <= step.asked_clearance - kClearanceSlack)
      fault(step, fmt::format("{} are {} {} at {}, where {} is asked for", step.nearest,
                              text_length(std::abs(step.clearance)),
                              step.clearance < 0.0 ? "deep in each other" : "apart",
                              text_time(step.clearance_time), text_length(step.asked_clearance)));
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
      return fmt::format("no: step {} of {}, {}: {}", steps[i].number, of, steps[i].name,
                         steps[i].fault);
  const auto least = std::min_element(
      steps.begin(), steps.end(),
      [](const RehearsedStep& a, const RehearsedStep& b) { return a.clearance < b.clearance; });
  if (!std::isfinite(least->clearance))
    return fmt::format(
        "yes: {} step{} in {}, range, velocity and acceleration kept, nothing to meet",
        steps.size(), steps.size() == 1 ? "" : "s", text_time(duration));
  return fmt::format(
      "yes: {} step{} in {}, range, velocity and acceleration kept, least clearance {} ({} in step "
      "{})",
      steps.size(), steps.size() == 1 ? "" : "s", text_time(duration),
      text_length(least->clearance), least->nearest, least->number);
}

std::string Rehearsal::report(const Arm& arm, bool every_step) const {
  const bool grouped = !every_step && steps.size() > kMostLines;
  Table table({"#", "<step", "<way", "duration", "clear mm", "asked mm", "<nearest pair",
               "<tightest limit", "<verdict"});
  for (const Lines& lines : lines_of(steps, !grouped)) {
    const RehearsedStep s = summed(steps, lines);
    table.row({std::to_string(s.number), s.name,
               s.way > 0 ? fmt::format("{} of {}", s.way, s.ways) : "", text_time(s.duration),
               std::isfinite(s.clearance) ? fmt::format("{:.1f}", to_mm(s.clearance)) : "-",
               fmt::format("{:.1f}", to_mm(s.asked_clearance)), s.nearest, tightest(s, arm),
               s.fault.empty() ? "yes" : "NO: " + s.fault});
  }
  std::string out = table.text();
  if (grouped)
    out +=
        "  the steps of each part in one line, with what is tightest among them; --all lists "
        "them\n";
  else
    out += contacts_text(steps);
  return out +
         fmt::format(
             "  tightest limit: of range, velocity, acceleration and zones, as measured (jerk "
             "is not); {} ticks replayed for {} in {:.2f} s\n",
             ticks, arm.name(), seconds);
}

}  // namespace er
