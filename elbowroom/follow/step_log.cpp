#include "elbowroom/follow/step_log.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

constexpr double kWorthTelling = 0.005;  // s lost in a slow stretch
constexpr double kOneStretch = 0.05;     // s between two that are told as one
constexpr double kOverCap = 1.0 + 2e-4;  // of a zone: more than the bound is loose
constexpr double kOverLimit = 1e-6;      // relative: more than rounding

void note_use(PeakUse& use, double share, int joint, double time) {
  if (share > use.share) use = {share, joint, time};
}

std::string fine(double value, const char* unit) {
  return value < 1e-4 ? fmt::format("under 0.0001 {}", unit)
                      : fmt::format("{:.4f} {}", value, unit);
}

// "98.2 % (waist, at 1.250 s)".
std::string used_text(const Arm& arm, const PeakUse& use) {
  if (use.joint < 0) return "none";
  return fmt::format("{:.1f} % ({}, at {})", 100.0 * use.share, arm.moving_joint(use.joint).name,
                     text_time(use.time));
}

}  // namespace

std::string fine_length(double metres) { return fine(to_mm(metres), "mm"); }
std::string fine_angle(double radians) { return fine(to_deg(radians), "deg"); }

std::string report_line(const std::string& what, const std::string& text) {
  return fmt::format("  {:<24}{}\n", what, text);
}

std::string StepLog::report(const CellQuery& query, const std::string& course,
                            const std::string& slowed) const {
  const Arm& arm = query.arm();
  std::string out = report_line(
      "off " + course, fmt::format("by {} and {} at most, worst at {}", fine_length(worst_off),
                                   fine_angle(worst_off_angle), text_time(worst_at)));
  out += report_line("most of a velocity", used_text(arm, velocity));
  out += report_line("most of an acceleration", used_text(arm, acceleration));
  if (clearance.nearest.first >= 0)
    out += report_line("least clearance", query.describe(clearance.nearest));
  if (slowdowns.empty()) return out;
  Table table({"from", "to", "lost", "least speed", "<why"});
  for (const Slowdown& s : slowdowns)
    table.row({text_time(s.from), text_time(s.to), text_time(s.lost),
               fmt::format("{:.1f} %", 100.0 * s.least_scale), s.why});
  return out + "  " + slowed + ":\n" + table.text(4);
}

StepLogger::StepLogger(const CellQuery& query, double period, const StepTolerances& tolerances,
                       StepLog& log)
    : query_(query), arm_(query.arm()), period_(period), tolerances_(tolerances), log_(log) {}

void StepLogger::begin(const Posture& start) {
  log_.samples.push_back({.posture = start, .velocity = Posture::Zero(arm_.dof())});
}

void StepLogger::push(FollowSample sample) {
  sample.time = static_cast<double>(log_.samples.size()) * period_;
  for (int k = 0; k < arm_.dof(); ++k) {
    const double v = std::abs(sample.velocity[k]) / arm_.limits().velocity[k];
    const double a =
        std::abs(sample.velocity[k] - last().velocity[k]) / period_ / arm_.limits().acceleration[k];
    sample.velocity_use = std::max(sample.velocity_use, v);
    sample.acceleration_use = std::max(sample.acceleration_use, a);
    note_use(log_.velocity, v, k, sample.time);
    note_use(log_.acceleration, a, k, sample.time);
  }
  log_.samples.push_back(std::move(sample));
}

void StepLogger::note_slow(double scale, const SlowBy& by) {
  if (scale > 0.999) {
    close_stretch();
    return;
  }
  const double time = last().time;
  if (!open_) open_stretch(time, by);
  open_->to = time + period_;
  open_->lost += (1.0 - scale) * period_;
  if (scale >= open_->least_scale) return;
  open_->least_scale = scale;
  // Coming to rest in the end does not hide what was asked for before.
  if (by.kind == SlowBy::Kind::nothing && slow_by_.kind != SlowBy::Kind::nothing) return;
  slow_by_ = by;
}

// A stretch that only just ended goes on, if the cause is the same.
void StepLogger::open_stretch(double time, const SlowBy& by) {
  const bool same = by.kind == slow_by_.kind && by.limit == slow_by_.limit &&
                    by.joint == slow_by_.joint && by.nearest.first == slow_by_.nearest.first &&
                    by.nearest.second == slow_by_.nearest.second;
  if (same && told_last_ && time - log_.slowdowns.back().to < kOneStretch) {
    open_ = log_.slowdowns.back();
    log_.slowdowns.pop_back();
    return;
  }
  open_ = Slowdown{.from = time};
  slow_by_ = {};
}

void StepLogger::close_stretch() {
  if (!open_) return;
  told_last_ = open_->lost > kWorthTelling;
  if (told_last_) {
    open_->why = why(slow_by_);
    log_.slowdowns.push_back(*open_);
  }
  open_.reset();
}

std::string StepLogger::why(const SlowBy& by) const {
  if (by.kind == SlowBy::Kind::nothing) return rest_;
  if (by.kind == SlowBy::Kind::course)
    return "further on it could not be kept on its course: a singularity, or too fast for a joint";
  if (by.kind == SlowBy::Kind::zone) return describe(query_, by.zone);
  if (by.kind == SlowBy::Kind::clearance) return query_.describe(by.nearest, tolerances_.clearance);
  const Joint& joint = arm_.moving_joint(by.joint);
  const Limits& limits = arm_.limits();
  const auto rate = [&](double limit, const char* per) { return text_value(joint, limit) + per; };
  switch (by.limit) {
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

void StepLogger::finish() {
  close_stretch();
  std::vector<Posture> postures;
  double worst = 0.0;
  for (const FollowSample& s : log_.samples) {
    postures.push_back(s.posture);
    if (log_.range_breach.empty()) log_.range_breach = arm_.limit_breach(s.posture);
    log_.worst_off = std::max(log_.worst_off, s.off);
    log_.worst_off_angle = std::max(log_.worst_off_angle, s.off_angle);
    const double off =
        std::max(s.off / tolerances_.deviation, s.off_angle / tolerances_.turn_deviation);
    if (off <= worst) continue;
    worst = off;
    log_.worst_at = s.time;
  }
  log_.clearance = least_clearance(query_, postures);
  for (std::size_t i = 1; i < log_.samples.size(); ++i) {
    const ZoneSpeed speed =
        fastest_in_zones(query_, postures[i - 1], log_.samples[i].velocity, period_);
    if (speed.share > std::max(log_.zone.share, kOverCap)) log_.zone = speed;
  }
  if (!log_.no) judge(worst);
}

// The first of what is wrong with the motion, the worst thing first.
void StepLogger::judge(double worst) {
  const auto at_limit = [&](const PeakUse& use, const char* what) {
    return fmt::format("no: joint {} would need {:.3g} times its {} limit, at {}",
                       arm_.moving_joint(use.joint).name, use.share, what, text_time(use.time));
  };
  const std::string nearest = query_.describe(log_.clearance.nearest);
  if (log_.clearance.nearest.distance <= 0.0)
    log_.no = Reason{Cause::in_collision, "no: the arm would hit something: " + nearest};
  else if (log_.clearance.lower <= 0.0)
    log_.no = Reason{Cause::in_collision, "no: too near to prove that it is no hit: " + nearest};
  else if (!log_.range_breach.empty())
    log_.no = Reason{Cause::beyond_limits, "no: " + log_.range_breach};
  else if (log_.velocity.share > 1.0 + kOverLimit)
    log_.no = Reason{Cause::too_fast, at_limit(log_.velocity, "velocity")};
  else if (log_.acceleration.share > 1.0 + kOverLimit)
    log_.no = Reason{Cause::too_fast, at_limit(log_.acceleration, "acceleration")};
  else if (log_.zone.share > 0.0)
    log_.no = Reason{Cause::too_fast, fmt::format("no: {:.3g} times too fast: {}", log_.zone.share,
                                                  describe(query_, log_.zone))};
  else if (worst > 1.0)
    log_.no = Reason{
        Cause::off_line,
        fmt::format("no: the tool strays up to {} and {} from the path, {} and {} "
                    "are allowed",
                    fine_length(log_.worst_off), fine_angle(log_.worst_off_angle),
                    fine_length(tolerances_.deviation), fine_angle(tolerances_.turn_deviation))};
  else if (log_.clearance.nearest.distance < tolerances_.clearance)
    log_.no = Reason{Cause::in_collision,
                     "no: " + query_.describe(log_.clearance.nearest, tolerances_.clearance)};
}

}  // namespace er
