#include "elbowroom/rehearse/rehearse.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/dynamics/inverse_dynamics.hpp"
#include "elbowroom/kinematics/target_on_arm.hpp"
#include "elbowroom/model/find_named.hpp"
#include "elbowroom/pace/motor_use.hpp"
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
constexpr double kSameTime = 1e-9;        // s

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

// At rest before and after: the first and last sample stand for all time outside.
const Posture& at_tick(const std::vector<Posture>& samples, long i) {
  return samples[static_cast<std::size_t>(
      std::clamp(i, 0L, static_cast<long>(samples.size()) - 1))];
}

Posture acceleration_at(const std::vector<Posture>& samples, long i, double tick) {
  return (at_tick(samples, i + 1) - 2.0 * at_tick(samples, i) + at_tick(samples, i - 1)) /
         (tick * tick);
}

void check_limits(const Arm& arm, const std::vector<Posture>& samples, double tick,
                  RehearsedStep& step) {
  const Limits& limits = arm.limits();
  const auto at = [&](long i) -> const Posture& { return at_tick(samples, i); };
  for (long i = 0; i < static_cast<long>(samples.size()); ++i) {
    const Posture acceleration = acceleration_at(samples, i, tick);
    for (int k = 0; k < arm.dof(); ++k) {
      const double half = 0.5 * (limits.upper[k] - limits.lower[k]);
      const double middle = 0.5 * (limits.upper[k] + limits.lower[k]);
      if (half > 0.0) measure(step.range, std::abs(at(i)[k] - middle) / half, k);
      const double velocity = (at(i + 1)[k] - at(i)[k]) / tick;
      measure(step.velocity, limits.velocity_of(k).share_of(velocity), k);
      measure(step.acceleration, limits.acceleration_of(k).share_of(acceleration[k]), k);
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

// What the motors give, with what is held: from differences of the samples.
void check_torques(const Arm& arm, const std::vector<Posture>& samples, double tick,
                   RehearsedStep& step) {
  step.torque_note = torque_text({}, arm);
  if (!states_torques(arm)) return;
  const auto count = static_cast<Eigen::Index>(samples.size());
  PostureRows position(count, arm.dof());
  PostureRows velocity(count, arm.dof());
  PostureRows acceleration(count, arm.dof());
  PostureRows effort(count, arm.dof());
  for (Eigen::Index i = 0; i < count; ++i) {
    position.row(i) = at_tick(samples, i).transpose();
    velocity.row(i) =
        (at_tick(samples, i + 1) - at_tick(samples, i - 1)).transpose() / (2.0 * tick);
    acceleration.row(i) = acceleration_at(samples, i, tick).transpose();
  }
  ArmDynamics(arm).inverse(position, velocity, acceleration, effort);
  step.torque.joint = 0;
  double worst = step.begins;
  for (int k = 0; k < arm.dof(); ++k) {
    Eigen::Index at = 0;
    const double share = effort.col(k).cwiseAbs().maxCoeff(&at) / arm.limits().torque[k];
    if (share > step.torque.share) worst = step.begins + static_cast<double>(at) * tick;
    measure(step.torque, share, k);
  }
  if (step.torque.share > 1.0 + kTorqueSlack)
    fault(step, fmt::format("joint {} uses {:.2f} % of its torque limit at {}",
                            arm.moving_joint(step.torque.joint).name, 100.0 * step.torque.share,
                            text_time(worst)));
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

// How fast frames go from sample to sample, by where they are and nothing else.
void check_frame_speeds(const Arm& arm, const Step& plan, const std::vector<Posture>& samples,
                        double tick, double began, RehearsedStep& step) {
  for (const FrameSpeed& rule : plan.keep_speeds) {
    if (!has_frame(arm, rule)) continue;  // a piece that is not held
    const ArmPoint point = point_of(arm, rule);
    const auto place = [&](std::size_t i) {
      return frame_pose(arm, point.link, Pose::at(point.at), samples[i]).position;
    };
    double most = 0.0;
    std::size_t at = 0;
    for (std::size_t i = 0; i + 1 < samples.size(); ++i)
      if (const double speed = (place(i + 1) - place(i)).norm() / tick; speed > most) {
        most = speed;
        at = i;
      }
    if (most > rule.most * (1.0 + kLimitSlack))
      fault(step, fmt::format("{} moves at {:.1f} mm/s at {}", rule.text(), to_mm(most),
                              text_time(began + static_cast<double>(at) * tick)));
  }
}

// Keeps account of what is held, by where the tools are and by nothing else.
class HeldAccount {
 public:
  explicit HeldAccount(const Cell& cell) : cell_(cell) {}

  [[nodiscard]] const Cell& cell() const { return cell_; }

  // What a step of an arm that has ended in `posture` has changed; what is wrong with it, or "".
  std::string after(const Step& step, const std::string& name, const Posture& posture) {
    const Arm arm = cell_.arm(name);
    if (const Grip* grip = std::get_if<Grip>(&step.action)) {
      if (const std::string holder = holder_of(grip->piece); !holder.empty())
        return fmt::format("{} is gripped while {} holds it", grip->piece, holder);
      const Tool tool = arm.end_tool(step.tool);
      const Body& piece = find_named(cell_.pieces(), "piece", grip->piece);
      const Pose tip = piece.at.inverse() * tool_pose(arm, tool, posture);
      double beside = std::numeric_limits<double>::infinity();
      for (const Grasp& grasp : piece.grasps) beside = std::min(beside, off(grasp, tip));
      cell_ = cell_.with_held(grip->piece, name, tool.name, tip);
      if (beside > kOffGrasp)
        return fmt::format("{} is gripped {} beside the nearest of its grasps", grip->piece,
                           text_length(beside));
    } else if (const Release* release = std::get_if<Release>(&step.action)) {
      if (holder_of(release->piece) != name)
        return fmt::format("{} is let go of, and is not held", release->piece);
      const int link = arm.link_index(release->piece);
      const std::vector<Pose> poses = link_poses(arm, posture);
      cell_ = cell_.with_released(release->piece, poses[static_cast<std::size_t>(link)]);
    }
    return {};
  }

 private:
  [[nodiscard]] std::string holder_of(const std::string& piece) const {
    for (const HeldPiece& one : cell_.description().held)
      if (one.piece.name == piece) return one.arm;
    return {};
  }
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
};

std::vector<std::string> held_by(const Arm& arm) {
  std::vector<std::string> names;
  for (const Link& link : arm.links())
    if (link.held) names.push_back(link.name);
  return names;
}

// The cell from a time on, until the next of these.
struct CellSince {
  double time = 0.0;
  Cell cell;
};

// "velocity of wrist_bend 97.2 %", as measured.
std::string tightest(const RehearsedStep& step, const Cell& cell) {
  const Arm& arm = cell.arm(step.arm);
  const MeasuredUse* most = &step.range;
  const char* what = "range";
  if (step.velocity.share > most->share) most = &step.velocity, what = "velocity";
  if (step.acceleration.share > most->share) most = &step.acceleration, what = "acceleration";
  if (step.torque.share > most->share) most = &step.torque, what = "torque";
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
                       steps[i].of == steps[out.back().first].of &&
                       steps[i].arm == steps[out.back().first].arm;
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
    more(out.torque, one.torque);
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

// ", 31 % less than one after the other": of several arms that move at once.
std::string gained(const Rehearsal& rehearsal) {
  double one_by_one = 0.0;
  for (const RehearsedStep& step : rehearsal.steps) one_by_one += step.duration;
  if (rehearsal.arms.size() < 2 || rehearsal.duration > 0.995 * one_by_one) return {};
  return fmt::format(" ({} one after the other)", text_time(one_by_one));
}

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

// Why torque limits are not looked at, and in which steps; "" where they are, or none is stated.
std::string torque_notes(const std::vector<RehearsedStep>& steps) {
  std::map<std::string, std::vector<int>> where;
  for (const RehearsedStep& step : steps)
    if (!step.torque_note.empty()) where[step.torque_note].push_back(step.number);
  std::string out;
  for (const auto& [note, numbers] : where)
    out += fmt::format("  {} ({})\n", note,
                       numbers.size() == steps.size()
                           ? std::string("in all steps")
                           : fmt::format("in {} of {} steps, from step {} on", numbers.size(),
                                         steps.size(), numbers.front()));
  return out;
}

}  // namespace

bool Rehearsal::passed() const {
  return !steps.empty() && std::all_of(steps.begin(), steps.end(),
                                       [](const RehearsedStep& s) { return s.fault.empty(); });
}

namespace {

// A whole routine, replayed.
class Replay {
 public:
  Replay(const Cell& cell, const PlannedRoutine& planned, const RehearseOptions& options,
         const Supervision& supervision)
      : planned_(planned), options_(options), supervision_(supervision) {
    out_.of = static_cast<int>(planned.routine.steps.size());
    out_.arms = planned.routine.arms();
    for (const PlannedStep& step : planned.steps) running_.push_back(&step);
    std::stable_sort(
        running_.begin(), running_.end(),
        [](const PlannedStep* a, const PlannedStep* b) { return a->begins < b->begins; });
    find_cells(cell);
  }

  Rehearsal run() {
    for (std::size_t i = 0; i < out_.arms.size(); ++i)
      last_[out_.arms[i]] = {
          planned_.starts.empty()
              ? cells_.front().cell.arm(out_.arms[i]).stance(planned_.routine.start_of(i))
              : planned_.starts[i],
          0.0};
    for (const PlannedStep* step : running_) replay(*step);
    return std::move(out_);
  }

 private:
  [[nodiscard]] const std::string& arm_of(const PlannedStep& step) const {
    return planned_.routine.arm_of(step.step);
  }

  // What stands and is held when: it changes where grips and releases end.
  void find_cells(const Cell& cell) {
    HeldAccount account(cell);
    cells_.push_back({0.0, cell});
    std::vector<const PlannedStep*> by_end = running_;
    std::stable_sort(by_end.begin(), by_end.end(), [](const PlannedStep* a, const PlannedStep* b) {
      return a->ends() < b->ends();
    });
    for (const PlannedStep* step : by_end) {
      const Action& action = step->step.action;
      if (!std::holds_alternative<Grip>(action) && !std::holds_alternative<Release>(action))
        continue;
      wrong_[step] = account.after(step->step, arm_of(*step),
                                   step->motion.at(step->motion.duration()).position);
      cells_.push_back({step->ends(), account.cell()});
    }
  }
  [[nodiscard]] const Cell& cell_at(double time) const {
    std::size_t i = 0;
    while (i + 1 < cells_.size() && cells_[i + 1].time <= time + kSameTime) ++i;
    return cells_[i].cell;
  }

  // What other arms do at a time.
  [[nodiscard]] std::vector<const PlannedStep*> others_at(const std::string& arm,
                                                          double time) const {
    std::vector<const PlannedStep*> out;
    for (const PlannedStep* one : running_)
      if (arm_of(*one) != arm && one->begins <= time && time < one->ends()) out.push_back(one);
    return out;
  }

  // Times within a step at which something changes for it: pieces, or what other arms do.
  [[nodiscard]] std::vector<double> changes_in(const PlannedStep& step) const {
    std::vector<double> out{step.ends()};
    const auto add = [&](double time) {
      if (time > step.begins + kSameTime && time < step.ends() - kSameTime) out.push_back(time);
    };
    for (const CellSince& one : cells_) add(one.time);
    for (const PlannedStep* other : running_)
      if (arm_of(*other) != arm_of(step)) add(other->begins), add(other->ends());
    std::sort(out.begin(), out.end());
    return out;
  }

  // The numbers in a cell of the arms that take part beside one.
  [[nodiscard]] std::vector<int> others_in(const Cell& cell, const std::string& arm) const {
    std::vector<int> out;
    for (std::size_t a = 0; a < cell.arms().size(); ++a) {
      const std::string& other = cell.arms()[a].name();
      if (other != arm && std::find(out_.arms.begin(), out_.arms.end(), other) != out_.arms.end())
        out.push_back(static_cast<int>(a));
    }
    return out;
  }
  // They stand as they do then.
  void stand(ReplayClearance& replay, const Cell& cell, const std::vector<int>& others,
             double time) const {
    for (const int other : others)
      replay.stand(other,
                   planned_.posture_of(cell.arms()[static_cast<std::size_t>(other)].name(), time));
  }

  void replay(const PlannedStep& plan) {
    const std::string& name = arm_of(plan);
    const Cell& cell = cell_at(plan.begins);
    const Arm& arm = cell.arm(name);
    ReplayZones zones(cell, arm);
    RehearsedStep step;
    step.number = plan.number;
    step.arm = name;
    step.name = plan.step.name;
    step.of = plan.step.of;
    step.kind = kind_of(plan.step.action);
    step.how = plan.how;
    step.held = held_by(arm);
    step.begins = plan.begins;
    if (supervision_.stop.stop_requested()) fault(step, "told to stop before it was replayed");
    step.duration = plan.motion.duration();
    step.asked_clearance = plan.clearance + planned_.uncertainty;
    step.way = plan.way;
    step.ways = plan.ways;
    double tick = 0.0;
    const std::vector<Posture> samples = sample(plan.motion, options_.rate, tick);
    auto& [last, until] = last_[name];
    if ((samples.front() - last).cwiseAbs().maxCoeff() > kJump)
      fault(step, "it does not begin where the step before it ends");
    if (plan.begins < until - kSameTime) fault(step, "it begins before the step before it is over");
    last = samples.back();
    until = plan.ends();
    check_limits(arm, samples, tick, step);
    check_torques(arm, samples, tick, step);
    check_zones(zones, samples, tick, step);
    check_rules(arm, plan.step, samples, tick, plan.begins, step);
    check_frame_speeds(arm, plan.step, samples, tick, plan.begins, step);
    look_around(plan, name, samples, tick, step);
    check_contacts(plan, cell, arm, samples, tick, step);
    if (const auto wrong = wrong_.find(&plan); wrong != wrong_.end() && !wrong->second.empty())
      fault(step, wrong->second);
    if (step.clearance <= step.asked_clearance - kClearanceSlack)
      fault(step, fmt::format("{} are {} {} at {}, where {} is asked for", step.nearest,
                              text_length_unlike(std::abs(step.clearance), step.asked_clearance),
                              step.clearance < 0.0 ? "deep in each other" : "apart",
                              text_time(step.clearance_time), text_length(step.asked_clearance)));
    out_.ticks += static_cast<long>(samples.size());
    out_.duration = std::max(out_.duration, plan.ends());
    out_.steps.push_back(std::move(step));
  }

  void look_around(const PlannedStep& plan, const std::string& name,
                   const std::vector<Posture>& samples, double tick, RehearsedStep& step) {
    std::size_t i = 0;
    double from = plan.begins;
    for (const double to : changes_in(plan)) {
      const double middle = 0.5 * (from + to);
      std::vector<MeantContact> excused = plan.excused;
      for (const PlannedStep* other : others_at(name, middle))
        excused.insert(excused.end(), other->excused.begin(), other->excused.end());
      const Cell cell = cell_at(from).with_known_contacts(excused);
      ReplayClearance clearance(cell, cell.arm(name));
      const std::vector<int> others = others_in(cell, name);
      for (; i < samples.size() && !supervision_.stop.stop_requested(); ++i) {
        const double time = plan.begins + static_cast<double>(i) * tick;
        if (time > to + kSameTime && i + 1 < samples.size()) break;
        stand(clearance, cell, others, time);
        const auto found = clearance.nearest(samples[i], step.clearance);
        if (found.distance < step.clearance) {
          step.clearance = found.distance;
          step.clearance_time = time;
          step.nearest = found.pair;
        }
        if (supervision_.progress && (out_.ticks + static_cast<long>(i)) % 256 == 0)
          supervision_.progress(time / planned_.duration(), "rehearsing " + step.name);
      }
      from = to;
    }
  }

  // How deep what is excused goes into each other: meant contacts touch, and no more.
  void check_contacts(const PlannedStep& plan, const Cell& cell, const Arm& arm,
                      const std::vector<Posture>& samples, double tick, RehearsedStep& step) const {
    const std::vector<int> others = others_in(cell, arm.name());
    for (const MeantContact& contact : plan.excused) {
      ReplayClearance replay(cell, arm, contact);
      ExcusedContact out{contact, std::numeric_limits<double>::infinity()};
      for (std::size_t i = 0; i < samples.size(); ++i) {
        stand(replay, cell, others, plan.begins + static_cast<double>(i) * tick);
        out.least = std::min(out.least, replay.nearest(samples[i], out.least).distance);
      }
      const double counted = counted_distance(out.least, cell, contact, planned_.uncertainty);
      if (counted < -kDeepestContact)
        fault(step, fmt::format("{} and {} may touch, but are {} deep in each other", contact.first,
                                contact.second, text_length(-counted)));
      step.excused.push_back(std::move(out));
    }
  }

  const PlannedRoutine& planned_;
  const RehearseOptions& options_;
  const Supervision& supervision_;
  std::vector<const PlannedStep*> running_;  // in the order in which they begin
  std::vector<CellSince> cells_;
  std::map<const PlannedStep*, std::string> wrong_;  // with a grip
  struct Last {
    Posture posture;
    double until = 0.0;
  };
  std::map<std::string, Last> last_;  // of each arm
  Rehearsal out_;
};

}  // namespace

Rehearsal rehearse(const Cell& cell, const PlannedRoutine& planned, const RehearseOptions& options,
                   const Supervision& supervision) {
  if (!(options.rate > 0.0) || !std::isfinite(options.rate))
    throw InputError(fmt::format("the rate must be above zero, found {}", options.rate));
  const Stopwatch watch;
  Rehearsal out = Replay(cell, planned, options, supervision).run();
  out.seconds = watch.seconds();
  return out;
}

const RehearsedStep* Rehearsal::nearest() const {
  const auto least = std::min_element(
      steps.begin(), steps.end(),
      [](const RehearsedStep& a, const RehearsedStep& b) { return a.clearance < b.clearance; });
  return least == steps.end() || !std::isfinite(least->clearance) ? nullptr : &*least;
}

std::vector<Rehearsal> rehearse_paths(const Cell& cell, const PlannedRoutine& planned,
                                      const RehearseOptions& options,
                                      const Supervision& supervision) {
  std::vector<Rehearsal> out;
  for (std::size_t i = 0; i < planned.paths.size(); ++i)
    out.push_back(rehearse(cell, planned.along(i), options, supervision));
  return out;
}

bool Rehearsal::measured_torques() const {
  return !steps.empty() && std::all_of(steps.begin(), steps.end(),
                                       [](const RehearsedStep& s) { return s.torque.joint >= 0; });
}

std::string Rehearsal::summary() const {
  for (std::size_t i = 0; i < steps.size(); ++i)
    if (!steps[i].fault.empty())
      return fmt::format("no: step {} of {}, {}: {}", steps[i].number, of, steps[i].name,
                         steps[i].fault);
  const RehearsedStep* least = nearest();
  const std::string kept =
      fmt::format("yes: {} step{}{} in {}{}, range, velocity{} kept", steps.size(),
                  steps.size() == 1 ? "" : "s",
                  arms.size() > 1 ? fmt::format(" of {}", fmt::join(arms, " and ")) : std::string{},
                  text_time(duration), gained(*this),
                  measured_torques() ? ", acceleration and torque" : " and acceleration");
  if (least == nullptr) return kept + ", nothing to meet";
  return fmt::format("{}, least clearance {} ({} in step {})", kept, text_length(least->clearance),
                     least->nearest, least->number);
}

std::string Rehearsal::report(const Cell& cell, bool every_step) const {
  const bool grouped = !every_step && steps.size() > kMostLines;
  const bool several = arms.size() > 1;
  std::vector<std::string> heads{"#",        "<step",    "<way",          "duration",
                                 "clear mm", "asked mm", "<nearest pair", "<tightest limit",
                                 "<verdict"};
  if (several) heads.insert(heads.begin() + 1, {"<arm", "begins"});
  Table table(heads);
  for (const Lines& lines : lines_of(steps, !grouped)) {
    const RehearsedStep s = summed(steps, lines);
    std::vector<std::string> row{
        std::to_string(s.number),
        s.name,
        s.way > 0 ? fmt::format("{} of {}", s.way, s.ways) : "",
        text_time(s.duration),
        std::isfinite(s.clearance) ? fmt::format("{:.1f}", to_mm(s.clearance)) : "-",
        fmt::format("{:.1f}", to_mm(s.asked_clearance)),
        s.nearest,
        tightest(s, cell),
        s.fault.empty() ? "yes" : "NO: " + s.fault};
    if (several) row.insert(row.begin() + 1, {s.arm, text_time(s.begins)});
    table.row(row);
  }
  std::string out = table.text();
  if (grouped)
    out +=
        "  the steps of each part in one line, with what is tightest among them; --all lists "
        "them\n";
  else
    out += contacts_text(steps);
  return out + torque_notes(steps) +
         fmt::format(
             "  tightest limit: of range, velocity, acceleration{} and zones, as measured "
             "(jerk is not); {} ticks replayed for {} in {:.2f} s\n",
             measured_torques() ? ", torque" : "", ticks, fmt::join(arms, " and "), seconds);
}

}  // namespace er
