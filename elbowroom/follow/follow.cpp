#include "elbowroom/follow/follow.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

constexpr std::array<std::string_view, 4> kModeNames{"limited", "damped", "pseudo", "plain"};

// Speeds below this share of a limit are standstill.
constexpr double kStandstill = 1e-9;
constexpr double kWorthTelling = 0.005;  // s lost in a slow stretch
constexpr double kOverLimit = 1e-6;      // relative: more than rounding

Posture mid_range(const Arm& arm) { return 0.5 * (arm.search_lower() + arm.search_upper()); }

void check_options(const Arm& arm, const FollowOptions& options, int rows) {
  if (!(options.rate >= 10.0 && options.rate <= 1e5))
    throw InputError(
        fmt::format("the rate is 10 to 100000 steps a second, found {}", options.rate));
  if (!(options.clearance >= 0.0) || !std::isfinite(options.clearance))
    throw InputError("the clearance is zero or more");
  if (!(options.gain > 0.0 && options.gain <= options.rate))
    throw InputError("the gain is above zero and at most the rate");
  if (!(options.deviation > 0.0) || !(options.turn_deviation > 0.0))
    throw InputError("what the tool may stray is above zero");
  if (options.mode == FollowMode::plain && rows != arm.dof())
    throw InputError(fmt::format("the path holds {} of 6, arm '{}' has {} moving joints: a matrix "
                                 "that is not square has no plain inverse",
                                 rows, arm.name(), arm.dof()),
                     "use pseudo, damped or limited");
}

// Micrometres count here.
std::string fine(double value, const char* unit) {
  return value < 1e-4 ? fmt::format("under 0.0001 {}", unit)
                      : fmt::format("{:.4f} {}", value, unit);
}
std::string fine_length(double metres) { return fine(to_mm(metres), "mm"); }
std::string fine_angle(double radians) { return fine(to_deg(radians), "deg"); }

// One run along the path, step by step.
class Run {
 public:
  Run(const CellQuery& query, const Tool& tool, const PosePath& path, const FollowOptions& options)
      : query_(query),
        arm_(query.arm()),
        tool_(arm_, tool, options.free),
        path_(path),
        options_(options),
        period_(1.0 / options.rate) {
    check_options(arm_, options, rows_of(options.free));
    if (options_.towards.size() == 0) options_.towards = mid_range(arm_);
    arm_.check_posture(options_.towards, "the posture that joints are drawn to");
    out_.mode = options.mode;
    out_.asked = path.duration();
  }

  Following from(const Posture& start) {
    arm_.check_posture(start, "the start of the path");
    const TrackedTool::Off off = tool_.off(start, path_.at(0.0));
    if (off.position > 1e-6 || off.angle > 1e-6)
      throw InputError(fmt::format("at the start the tool is {} and {} from where the path begins",
                                   text_length(off.position), text_angle(off.angle)),
                       "start at a posture that reaches the first pose");
    out_.samples.push_back({.posture = start, .velocity = Posture::Zero(arm_.dof())});
    question_.unit = arm_.limits().velocity;
    for (double& unit : question_.unit)
      if (!std::isfinite(unit) || !(unit > 0.0)) unit = 1.0;
    if (const std::string breach = arm_.limit_breach(start); !breach.empty()) {
      out_.no = Reason{Cause::start_blocked, "no: at the start, " + breach};
    } else if (options_.mode == FollowMode::limited && !query_.is_free(start, options_.clearance)) {
      out_.no = Reason{
          Cause::start_blocked,
          fmt::format("no: the start is too near to something: {}, where {} is asked "
                      "for",
                      query_.describe(query_.nearest(start)), text_length(options_.clearance))};
    } else if (options_.mode == FollowMode::limited) {
      run_limited();
    } else {
      run_unlimited();
    }
    measure();
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
    const double end = way_.end();
    double path_time = 0.0;
    int idle = 0;  // steps without getting on
    while (end - path_time > 1e-9 || !is_still(out_.samples.back().velocity)) {
      const FollowSample& last = out_.samples.back();
      const double allowed = end - path_time > 1e-9 ? allowed_scale(path_time, last.scale, end) : 0;
      joint_box(arm_.limits(), last.posture, last.velocity, period_, box_);
      if (way_.jumps_after(hint_))
        along_jump(last, path_time, allowed);
      else
        along_path(last, path_time, allowed);
      note_slow(last.time, path_time, allowed);
      path_time = std::min(end, path_time + answer_.scale * period_);
      push(path_time);
      if (strays(out_.samples.back())) {
        way_.ended_by = "the limits leave no way to keep to the path (" +
                        (open_ ? open_->why : std::string("at full speed")) + ")";
        way_.cause = Cause::off_line;
        brake(path_time);
        break;
      }
      idle = answer_.scale * period_ < 1e-12 ? idle + 1 : 0;
      if (idle > options_.rate) break;  // a second
    }
    if (idle > options_.rate) way_.ended_by = "the arm comes to a stop: " + open_->why;
    close_slowdown();
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

  // To rest as quickly as each joint can.
  void brake(double path_time) {
    while (!is_still(out_.samples.back().velocity)) {
      const FollowSample& last = out_.samples.back();
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
    tool_.rows(last.posture, last.velocity, period_, path_.at(path_time),
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
  double allowed_scale(double path_time, double before, double end) {
    std::size_t hint = hint_;
    const double here = way_.scale_at(path_time, hint_);
    hint = hint_;
    const double guess = std::min(here, before + 1.0);
    const double there = way_.scale_at(path_time + guess * period_, hint);
    double allowed = std::min(here, 0.5 * (here + there));
    // The speed allowed falls to nothing at the end, and would never quite get there.
    if (end - path_time < period_) allowed = std::max(allowed, kCreep);
    return std::min(allowed, (end - path_time) / period_);
  }

  void run_unlimited() {
    const auto steps = static_cast<long>(std::ceil(path_.duration() * options_.rate - 1e-9));
    question_.wish = Posture::Zero(arm_.dof());
    for (long i = 0; i < steps; ++i) {
      const FollowSample& last = out_.samples.back();
      const double now = last.path_time;
      const double next = std::min(path_.duration(), static_cast<double>(i + 1) * period_);
      tool_.rows(last.posture, last.velocity, period_, path_.at(now), path_.at(next), next - now,
                 options_.gain, question_);
      velocity_step(question_, options_.mode, answer_);
      if (!answer_.velocity.allFinite()) answer_.velocity.setZero();
      push(next);
    }
    out_.followed = path_.duration();
  }

  [[nodiscard]] bool is_still(const Posture& velocity) const {
    return (velocity.cwiseAbs().array() <= kStandstill * question_.unit.array()).all();
  }

  void push(double path_time) {
    const FollowSample& last = out_.samples.back();
    FollowSample sample{.time = static_cast<double>(out_.samples.size()) * period_,
                        .path_time = path_time,
                        .posture = last.posture + period_ * answer_.velocity,
                        .velocity = answer_.velocity,
                        .scale = answer_.scale};
    const TrackedTool::Off off = tool_.off(sample.posture, path_.at(path_time));
    sample.off = off.position;
    sample.off_angle = off.angle;
    out_.samples.push_back(std::move(sample));
  }

  // Steps at less than the path's own speed, gathered into stretches; each is named for what held
  // it at its slowest, apart from starting and stopping.
  void note_slow(double time, double path_time, double allowed) {
    if (answer_.scale > 0.999) {
      close_slowdown();
      return;
    }
    std::string why;
    if (answer_.held_by >= 0 || !answer_.on_course) {
      why = answer_.held_by < 0 ? "the arm cannot brake and keep the path"
                                : why_of(answer_.held_up ? box_.upper_by : box_.lower_by);
    } else {
      why = why_of(way_.nodes[hint_ + 1 < way_.nodes.size() ? hint_ + 1 : hint_].by);
    }
    const bool starting = !open_ && time < 10.0 * period_;
    if (!open_) {
      open_ = Slowdown{.from = time, .to = time, .why = why};
      if (starting) open_->why = "gathering speed from rest";
      starting_ = starting;
    }
    // A stretch that begins at the start ends at the first other cause.
    if (starting_ && answer_.scale > allowed - 1e-9 && way_.nodes[hint_].by.joint >= 0) {
      close_slowdown();
      open_ = Slowdown{.from = time, .to = time, .why = why};
    }
    open_->to = time + period_;
    open_->lost += (1.0 - answer_.scale) * period_;
    if (answer_.scale < open_->least_scale) {
      open_->least_scale = answer_.scale;
      if (!starting_ && way_.end() - path_time > 10.0 * period_) open_->why = why;
    }
  }

  void close_slowdown() {
    if (open_ && open_->lost > kWorthTelling) out_.slowdowns.push_back(*open_);
    open_.reset();
    starting_ = false;
  }

  [[nodiscard]] std::string why_of(const std::array<LimitKind, kMaxJoints>& by) const {
    return why_of(SlowBy{by[static_cast<std::size_t>(answer_.held_by)], answer_.held_by});
  }

  [[nodiscard]] std::string why_of(const SlowBy& by) const {
    if (by.joint < 0) return way_.ended_by.empty() ? "coming to rest" : way_.ended_by;
    const Joint& joint = arm_.moving_joint(by.joint);
    const Limits& limits = arm_.limits();
    const auto rate = [&](double limit, const char* per) { return text_value(joint, limit) + per; };
    switch (by.kind) {
      case LimitKind::velocity:
        return fmt::format("joint {} at its velocity limit of {}", joint.name,
                           rate(limits.velocity[by.joint], "/s"));
      case LimitKind::acceleration:
        return fmt::format("joint {} at its acceleration limit of {}", joint.name,
                           rate(limits.acceleration[by.joint], "/s^2"));
      default:
        return fmt::format("joint {} comes near the end of its range", joint.name);
    }
  }

  // What the whole motion used and kept, whatever the mode.
  void measure() {
    const Limits& limits = arm_.limits();
    std::vector<Posture> postures{out_.samples.front().posture};
    double worst = 0.0;
    for (std::size_t i = 1; i < out_.samples.size(); ++i) {
      const FollowSample& s = out_.samples[i];
      const FollowSample& before = out_.samples[i - 1];
      postures.push_back(s.posture);
      for (Eigen::Index k = 0; k < arm_.dof(); ++k) {
        note_use(out_.velocity, std::abs(s.velocity[k]) / limits.velocity[k], k, s.time);
        note_use(out_.acceleration,
                 std::abs(s.velocity[k] - before.velocity[k]) / period_ / limits.acceleration[k], k,
                 s.time);
      }
      if (out_.range_breach.empty()) out_.range_breach = arm_.limit_breach(s.posture);
      out_.worst_off = std::max(out_.worst_off, s.off);
      out_.worst_off_angle = std::max(out_.worst_off_angle, s.off_angle);
      const double off =
          std::max(s.off / options_.deviation, s.off_angle / options_.turn_deviation);
      if (off > worst) {
        worst = off;
        out_.worst_at = s.time;
      }
    }
    out_.clearance = least_clearance(query_, postures);
    if (!out_.no) judge(worst);
  }

  static void note_use(PeakUse& use, double share, Eigen::Index joint, double time) {
    if (share > use.share) use = {share, static_cast<int>(joint), time};
  }

  // The first of what is wrong with the motion, the worst thing first.
  void judge(double worst) {
    const auto at_limit = [&](const PeakUse& use, const char* what) {
      return fmt::format("no: joint {} would need {:.3g} times its {} limit, at {}",
                         arm_.moving_joint(use.joint).name, use.share, what, text_time(use.time));
    };
    const std::string nearest =
        out_.clearance.nearest.first < 0 ? "" : query_.describe(out_.clearance.nearest);
    if (out_.clearance.nearest.distance <= 0.0)
      out_.no = Reason{Cause::in_collision, "no: the arm would hit something: " + nearest};
    else if (out_.clearance.lower <= 0.0)
      out_.no = Reason{Cause::in_collision, "no: too near to prove that it is no hit: " + nearest};
    else if (!out_.range_breach.empty())
      out_.no = Reason{Cause::beyond_limits, "no: " + out_.range_breach};
    else if (out_.velocity.share > 1.0 + kOverLimit)
      out_.no = Reason{Cause::too_fast, at_limit(out_.velocity, "velocity")};
    else if (out_.acceleration.share > 1.0 + kOverLimit)
      out_.no = Reason{Cause::too_fast, at_limit(out_.acceleration, "acceleration")};
    else if (worst > 1.0)
      out_.no =
          Reason{Cause::off_line,
                 fmt::format("no: the tool strays up to {} and {} from the path, {} and {} "
                             "are allowed",
                             fine_length(out_.worst_off), fine_angle(out_.worst_off_angle),
                             fine_length(options_.deviation), fine_angle(options_.turn_deviation))};
    else if (out_.clearance.nearest.distance < options_.clearance)
      out_.no = Reason{Cause::in_collision, fmt::format("no: {}, where {} is asked for",
                                                        query_.describe(out_.clearance.nearest),
                                                        text_length(options_.clearance))};
  }

  static constexpr double kCreep = 1e-3;  // of the path's speed: how the last bit is done

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
  std::optional<Slowdown> open_;
  bool starting_ = false;
  Following out_;
};

std::string used(const Arm& arm, const PeakUse& use) {
  if (use.joint < 0) return "none";
  return fmt::format("{:.1f} % ({}, at {})", 100.0 * use.share, arm.moving_joint(use.joint).name,
                     text_time(use.time));
}

}  // namespace

std::string_view name_of(FollowMode mode) { return kModeNames[static_cast<std::size_t>(mode)]; }

FollowMode follow_mode_named(std::string_view name) {
  for (std::size_t i = 0; i < kModeNames.size(); ++i)
    if (kModeNames[i] == name) return static_cast<FollowMode>(i);
  const std::vector<std::string> known(kModeNames.begin(), kModeNames.end());
  throw unknown_name("mode", name, known);
}

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

std::string Following::summary(const CellQuery& query) const {
  if (no) return no->text;
  const double late = duration() - asked;
  return fmt::format("yes: {} follows the path of {} in {} ({}), at most {} and {} off",
                     query.arm().name(), text_time(asked), text_time(duration()),
                     late < 5e-4 ? "nothing lost" : text_time(late) + " more",
                     fine_length(worst_off), fine_angle(worst_off_angle));
}

std::string Following::report(const CellQuery& query) const {
  const Arm& arm = query.arm();
  std::string out;
  const auto line = [&](const char* what, const std::string& text) {
    out += fmt::format("  {:<24}{}\n", what, text);
  };
  line("path", fmt::format("{} of {} followed", text_time(followed), text_time(asked)));
  line("time taken", text_time(duration()));
  line("off the path", fmt::format("at most {} and {}, worst at {}", fine_length(worst_off),
                                   fine_angle(worst_off_angle), text_time(worst_at)));
  line("most of a velocity", used(arm, velocity));
  line("most of an acceleration", used(arm, acceleration));
  if (clearance.nearest.first >= 0) line("least clearance", query.describe(clearance.nearest));
  if (slowdowns.empty()) return out;
  out += "  slowed down:\n";
  Table table({"from", "to", "lost", "least speed", "<why"});
  for (const Slowdown& s : slowdowns)
    table.row({text_time(s.from), text_time(s.to), text_time(s.lost),
               fmt::format("{:.1f} %", 100.0 * s.least_scale), s.why});
  return out + table.text(4);
}

}  // namespace er
