#include "elbowroom/follow/follow.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/follow/step_options.hpp"
#include "elbowroom/reach/numeric.hpp"
#include "elbowroom/reach/reach.hpp"

namespace er {
namespace {

constexpr double kStartAccuracy = 1e-7;  // m and rad
constexpr double kCreep = 1e-3;          // of the path's speed: how the last bit is done

void check_options(const FollowOptions& options, const TrackedTool& tool) {
  check_step_options(tool, options.mode, options.rate, options.gain, options.clearance);
  if (!(options.deviation > 0.0) || !(options.turn_deviation > 0.0))
    throw InputError("what the tool may stray is above zero");
}

// One run along the path, step by step.
class Run {
 public:
  Run(const CellQuery& query, const Tool& tool, const PosePath& path, const FollowOptions& options)
      : query_(query),
        arm_(query.arm()),
        tool_(arm_, tool, options.free),
        path_(path),
        options_(options),
        period_(1.0 / options.rate),
        log_(query, period_, {options.clearance, options.deviation, options.turn_deviation}, out_) {
    check_options(options, tool_);
    options_.towards = drawn_towards(arm_, options_.towards);
    out_.mode = options.mode;
    out_.asked = path.duration();
  }

  Following from(const Posture& start) {
    arm_.check_posture(start, "the start of the path");
    tip_ = tool_.tip(start);
    const TrackedTool::Off off = tool_.off(tip_, path_.at(0.0));
    if (off.position > 1e-6 || off.angle > 1e-6)
      throw InputError(fmt::format("at the start the tool is {} and {} from where the path begins",
                                   text_length(off.position), text_angle(off.angle)),
                       "start at a posture that reaches the first pose");
    log_.begin(start);
    question_.unit = velocity_units(arm_.limits());
    const bool limited = options_.mode == FollowMode::limited;
    const std::string fault = query_.fault_of(start, limited ? options_.clearance : 0.0);
    if (!fault.empty())
      out_.no = Reason{Cause::start_blocked, "no: at the start of the path: " + fault};
    else if (limited)
      run_limited();
    else
      run_unlimited();
    log_.finish();
    return std::move(out_);
  }

 private:
  void run_limited() {
    way_ = walk_path(query_, tool_, path_, out_.samples.front().posture,
                     {.clearance = options_.clearance,
                      .towards = options_.towards,
                      .deviation = options_.deviation,
                      .turn_deviation = options_.turn_deviation});
    limit_speeds(arm_.limits(), period_, way_);
    if (!way_.ended_by.empty()) log_.name_rest(way_.ended_by);
    const double end = way_.end();
    double path_time = 0.0;
    int idle = 0;  // steps without getting on
    while (end - path_time > 1e-9 && idle < options_.rate) {
      const FollowSample& last = log_.last();
      const double allowed = allowed_scale(path_time, end);
      joint_box(arm_.limits(), last.posture, last.velocity, period_, box_);
      if (way_.jumps_after(hint_))
        along_jump(last, path_time, allowed);
      else
        along_path(last, path_time, allowed);
      log_.note_slow(answer_.scale, slowed_by());
      path_time = std::min(end, path_time + answer_.scale * period_);
      push(path_time);
      idle = answer_.scale * period_ < 1e-12 ? idle + 1 : 0;
      if (strays(log_.last())) break;
    }
    if (end - path_time > 1e-9) {
      way_.cause = Cause::off_line;
      way_.ended_by = "the limits leave no way to keep to the path (" + log_.why(slowed_by()) + ")";
    }
    log_.close_stretch();
    if (end - path_time <= 1e-9) settle(path_time);
    brake(path_time);
    out_.followed = path_time;
    if (way_.ended_by.empty()) return;
    out_.no = Reason{way_.cause,
                     fmt::format("no: the path can be followed for {:.0f} % of the way ({} of {}): "
                                 "there {}",
                                 100.0 * path_time / out_.asked, text_time(path_time),
                                 text_time(out_.asked), way_.ended_by),
                     {{"followed", path_time / out_.asked, ""}}};
  }

  [[nodiscard]] bool strays(const FollowSample& sample) const {
    return sample.off > options_.deviation || sample.off_angle > options_.turn_deviation;
  }

  // At the end of the way: steps that keep the tool there, until it is at rest, or for a second.
  void settle(double path_time) {
    for (int i = 0; i < options_.rate && !is_still(log_.last().velocity); ++i) {
      const FollowSample& last = log_.last();
      joint_box(arm_.limits(), last.posture, last.velocity, period_, box_);
      along_path(last, path_time, 0.0);
      push(path_time);
    }
  }

  // To rest as quickly as each joint can.
  void brake(double path_time) {
    while (!is_still(log_.last().velocity)) {
      const FollowSample& last = log_.last();
      joint_box(arm_.limits(), last.posture, last.velocity, period_, box_);
      answer_.velocity =
          Posture(Posture::Zero(arm_.dof())).cwiseMax(box_.lower).cwiseMin(box_.upper);
      answer_.scale = 0.0;
      push(path_time);
    }
  }

  // A step that keeps the tool on the path, and redundant joints with the way ahead.
  void along_path(const FollowSample& last, double path_time, double allowed) {
    question_.lower = box_.lower;
    question_.upper = box_.upper;
    question_.most_scale = allowed;
    const double ahead = std::clamp(allowed, kCreep, 1.0) * period_;
    tool_.rows(last.posture, tip_, last.velocity, period_, path_.at(path_time),
               path_.at(path_time + ahead), ahead, options_.gain, question_);
    question_.wish = allowed * way_.slope_after(hint_) + back_to_way(last, path_time);
    velocity_step(question_, FollowMode::limited, answer_);
  }

  // What brings the joints back to the way ahead.
  [[nodiscard]] Posture back_to_way(const FollowSample& last, double path_time) const {
    std::size_t hint = hint_;
    return options_.gain * (way_.posture_at(path_time, hint) - last.posture);
  }

  // A step along the joints' own straight line, as far as the box allows.
  void along_jump(const FollowSample& last, double path_time, double allowed) {
    const Posture on = way_.slope_after(hint_);
    const Posture back = back_to_way(last, path_time);
    answer_.scale = allowed;
    answer_.on_course = true;
    answer_.held_by = -1;
    for (int k = 0; k < arm_.dof(); ++k) {
      if (on[k] == 0.0) continue;
      const double side = on[k] > 0.0 ? box_.upper[k] : box_.lower[k];
      const double most = std::max(0.0, (side - back[k]) / on[k]);
      if (most >= answer_.scale) continue;
      answer_.scale = most;
      answer_.held_by = k;
      answer_.held_up = on[k] > 0.0;
    }
    answer_.velocity = (answer_.scale * on + back).cwiseMax(box_.lower).cwiseMin(box_.upper);
  }

  // What the way ahead allows over the next step, from its speeds at both ends of it; in the last
  // step, what is left.
  double allowed_scale(double path_time, double end) {
    const double here = way_.scale_at(path_time, hint_);
    std::size_t hint = hint_;
    const double there = way_.scale_at(path_time + here * period_, hint);
    double allowed = std::min(here, 0.5 * (here + there));
    // The speed allowed falls to nothing at the end, and would never quite get there.
    if (end - path_time < period_) allowed = std::max(allowed, kCreep);
    return std::min(allowed, (end - path_time) / period_);
  }

  void run_unlimited() {
    const auto steps = static_cast<long>(std::ceil(path_.duration() * options_.rate - 1e-9));
    question_.wish = Posture::Zero(arm_.dof());
    for (long i = 0; i < steps; ++i) {
      const FollowSample& last = log_.last();
      const double now = last.path_time;
      const double next = std::min(path_.duration(), static_cast<double>(i + 1) * period_);
      tool_.rows(last.posture, tip_, last.velocity, period_, path_.at(now), path_.at(next),
                 next - now, options_.gain, question_);
      velocity_step(question_, options_.mode, answer_);
      if (!answer_.velocity.allFinite()) answer_.velocity.setZero();
      push(next);
    }
    out_.followed = path_.duration();
  }

  [[nodiscard]] bool is_still(const Posture& velocity) const {
    return is_standstill(velocity, question_.unit);
  }

  void push(double path_time) {
    FollowSample sample;
    sample.path_time = path_time;
    sample.posture = log_.last().posture + period_ * answer_.velocity;
    sample.velocity = answer_.velocity;
    sample.scale = answer_.scale;
    tip_ = tool_.tip(sample.posture);
    const TrackedTool::Off off = tool_.off(tip_, path_.at(path_time));
    sample.off = off.position;
    sample.off_angle = off.angle;
    log_.push(std::move(sample));
  }

  // What held the step just found, or what the way ahead asks for.
  [[nodiscard]] SlowBy slowed_by() const {
    if (answer_.held_by < 0) return way_.nodes[std::min(hint_ + 1, way_.nodes.size() - 1)].by;
    return {SlowBy::Kind::limit, box_.held_by(answer_.held_by, answer_.held_up), answer_.held_by};
  }

  const CellQuery& query_;
  const Arm& arm_;
  TrackedTool tool_;
  const PosePath& path_;
  FollowOptions options_;
  double period_;
  WayAhead way_;
  std::size_t hint_ = 0;
  JointBox box_;
  StepQuestion question_;
  StepAnswer answer_;
  Pose tip_;  // of the last sample
  Following out_;
  StepLogger log_;
};

}  // namespace

Following follow(const CellQuery& query, const Tool& tool, const PosePath& path,
                 const Posture& start, const FollowOptions& options) {
  return Run(query, tool, path, options).from(start);
}

Following follow_from_any(const CellQuery& query, const Tool& tool, const PosePath& path,
                          const std::vector<Posture>& starts, const FollowOptions& options) {
  if (starts.empty()) throw InputError("no posture to start from is given");
  std::optional<Following> best;
  for (const Posture& start : starts) {
    Following one = follow(query, tool, path, start, options);
    if (!one.no) return one;
    if (!best || one.followed > best->followed + 1e-9) best = std::move(one);
  }
  return *best;
}

std::vector<Following> follow_in_other_modes(const CellQuery& query, const Tool& tool,
                                             const PosePath& path, const Posture& start,
                                             const FollowOptions& options) {
  std::vector<Following> all;
  const bool square = TrackedTool(query.arm(), tool, options.free).held() == query.arm().dof();
  FollowOptions other = options;
  for (const FollowMode mode :
       {FollowMode::limited, FollowMode::damped, FollowMode::pseudo, FollowMode::plain}) {
    if (mode == options.mode || (mode == FollowMode::plain && !square)) continue;
    other.mode = mode;
    all.push_back(follow(query, tool, path, start, other));
  }
  return all;
}

Verdict<std::vector<Posture>> path_starts(const CellQuery& query, const Tool& tool,
                                          const PosePath& path, const Posture& near,
                                          const FollowOptions& options) {
  const Target first = TrackedTool(query.arm(), tool, options.free)
                           .target_at(path.at(0.0))
                           .within(kStartAccuracy, kStartAccuracy);
  if (near.size() == 0) {
    const auto found = reach(query, first, {.clearance = options.clearance});
    if (!found) return found.reason();
    return found->postures();
  }
  const NumericSolve solve = solve_from(query.arm(), first, near);
  if (solve.met) return std::vector<Posture>{solve.posture};
  return Reason{Cause::out_of_reach,
                fmt::format("no: from that posture the tool does not come to the beginning of the "
                            "path: {} and {} are left",
                            text_length(solve.error.position), text_angle(solve.error.angle))};
}

}  // namespace er
