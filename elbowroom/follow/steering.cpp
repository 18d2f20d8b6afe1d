#include "elbowroom/follow/steering.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/follow/step_options.hpp"

namespace er {
namespace {

// Stops are planned with this share of the acceleration limits: the rest keeps the tool on course.
constexpr double kBrakeShare = 0.8;
constexpr double kLookVelocityShare = 0.95;  // of the velocity limits, for the look ahead
constexpr int kLookSteps = 20;               // of the look ahead, at most
// Its first step, of the time a stop takes, and how much longer each is than the one before: what
// comes next counts most, and what comes later is looked at again.
constexpr double kFirstLook = 1.0 / 48.0;
constexpr double kLookGrowth = 1.2;
// After these of its steps it is proved again that the arm could stop in a straight joint line.
constexpr std::array kProved{3, 8};
// Where the joints cannot move the tool as fast as this (m/s) that way, it would be hard to get
// away again, and to stay on the same branch: the last micrometres of an arm that is stretched out.
constexpr double kLeastSpeed = 0.001;
constexpr double kEnough = 1.0;  // m/s: faster need not be known
constexpr double kInfinity = std::numeric_limits<double>::infinity();
// m that is kept beside the clearance: what is proved to the last digit could not be left again.
constexpr double kSpare = 2e-5;
constexpr double kLeastEager = 0.05;     // of the tool's acceleration
constexpr double kEagerAfter = 0.1;      // s
constexpr double kAllButStopped = 0.05;  // of the speed that the look ahead begins with
// Pairs of parts looked at for the proofs of a step, which bounds its time: for the whole of it,
// for the braking one, and for those between.
constexpr long kChecksWhole = 150;
constexpr long kChecksBraking = 100;
constexpr long kChecksBetween = 150;
constexpr int kEasings = 5;  // halvings when a step has to be taken in part
// The last of a change is taken up with this share of the tool's acceleration.
constexpr double kSoftest = 0.05;
// A radian of a redundant joint is drawn home over about so much travel of the tool.
constexpr double kDrawnOver = 0.5;  // m

double dot(const Twist& a, const Twist& b) {
  constexpr double kSquare = TrackedTool::kTurnRadius * TrackedTool::kTurnRadius;
  return a.velocity.dot(b.velocity) + kSquare * a.turning.dot(b.turning);
}
double size_of(const Twist& a) { return std::sqrt(dot(a, a)); }

void check_options(const SteerOptions& options, const TrackedTool& tool) {
  check_step_options(tool, options.mode, options.rate, options.gain, options.clearance);
  if (!(options.tool_acceleration > 0.0))
    throw InputError("the acceleration of the tool is above zero");
  if (!(options.lag >= 0.0 && options.lag <= 1.0))
    throw InputError(fmt::format("the lag is 0 to 1 s, found {} s", options.lag));
}

}  // namespace

Steering::Steering(const CellQuery& query, const Tool& tool, const Posture& start,
                   const SteerOptions& options)
    : query_(query),
      arm_(query.arm()),
      tool_(arm_, tool, options.free),
      options_(options),
      period_(1.0 / options.rate),
      look_limits_(arm_.limits()),
      memory_(query),
      parts_(query),
      posture_(start),
      velocity_(Posture::Zero(arm_.dof())) {
  check_options(options, tool_);
  arm_.check_posture(start, "the posture to steer from");
  options_.towards = drawn_towards(arm_, options_.towards);
  const bool limited = options.mode == FollowMode::limited;
  const std::string fault = query_.fault_of(start, limited ? options_.clearance : 0.0);
  if (!fault.empty())
    throw InputError("at the posture to steer from: " + fault,
                     "start elsewhere, or ask for less clearance");
  look_limits_.acceleration *= kBrakeShare;
  look_limits_.velocity *= kLookVelocityShare;
  question_.unit = look_.unit = velocity_units(arm_.limits());
  tip_ = meant_ = tool_.tip(start);
}

void Steering::step(const Twist& command) {
  const bool finite = command.velocity.allFinite() && command.turning.allFinite();
  const Twist asked = finite ? command : Twist{};
  slow_by_ = {};
  here_.reset();
  if (options_.mode == FollowMode::limited)
    step_limited(asked);
  else
    step_unlimited(asked);
}

void Steering::step_limited(const Twist& command) {
  tool_.rows(posture_ + 0.5 * period_ * velocity_, meant_.rotation, question_);
  Twist next = head_for(lasting_share_of(command));
  checks_left_ = kChecksWhole;
  if (!answer_.on_course && slow_by_.kind == SlowBy::Kind::nothing)
    slow_by_ = {.kind = SlowBy::Kind::course};
  const bool good = answer_.on_course && is_good(answer_.velocity, next);
  if (!good) ease_off(next);
  // Gently on after a step that was too much, or the arm would shake at the bound.
  eagerness_ = good ? std::min(1.0, eagerness_ + period_ / kEagerAfter) : kLeastEager;
  if (is_standstill(answer_.velocity, question_.unit)) {
    // At rest, where the tool is, is where it is meant to be.
    answer_.velocity.setZero();
    meant_ = tip_;
    next = {};
  }
  advance(command, next);
}

void Steering::step_unlimited(const Twist& command) {
  tool_.rows(posture_ + 0.5 * period_ * velocity_, meant_.rotation, question_);
  question_.most_scale = 1.0;
  tool_.in_rows(meant_.rotation, command, question_.command);
  tool_.in_rows(meant_.rotation, twist_between(tip_, meant_, 1.0 / options_.gain),
                question_.correction);
  velocity_step(question_, options_.mode, answer_);
  if (!answer_.velocity.allFinite()) answer_.velocity.setZero();
  advance(command, command);
}

// The most of the command that the joints can keep up, whatever they do now. The question has its
// rows already.
Twist Steering::lasting_share_of(const Twist& command) {
  lasting_box(arm_.limits(), posture_, period_, box_);
  question_.lower = box_.lower;
  question_.upper = box_.upper;
  question_.most_scale = 1.0;
  question_.correction = {};
  question_.wish = (size_of(command) / kDrawnOver) * (options_.towards - posture_);
  tool_.in_rows(meant_.rotation, command, question_.command);
  velocity_step(question_, FollowMode::limited, answer_);
  const double share = answer_.on_course ? answer_.scale : 0.0;
  if (share < 1.0) {
    slow_by_.kind = answer_.held_by >= 0 ? SlowBy::Kind::limit : SlowBy::Kind::course;
    slow_by_.joint = answer_.held_by;
    if (answer_.held_by >= 0) slow_by_.limit = box_.held_by(answer_.held_by, answer_.held_up);
  }
  question_.wish *= share;
  return share * command;
}

// The step from the twist that the tool has towards the one it is to have; its answer is the
// velocity, its value the twist.
Twist Steering::head_for(const Twist& goal) {
  const Twist change = goal - twist_;
  const double size = size_of(change);
  const bool faster = size_of(goal) > size_of(twist_);
  const double most = (faster ? eagerness_ : 1.0) * options_.tool_acceleration * period_;
  const double soft = options_.lag > period_ ? period_ / options_.lag : 1.0;
  joint_box(arm_.limits(), posture_, velocity_, period_, box_);
  question_.lower = box_.lower;
  question_.upper = box_.upper;
  question_.most_scale =
      size > 0.0 ? std::min({1.0, most / size, std::max(soft, kSoftest * most / size)}) : 1.0;
  tool_.in_rows(meant_.rotation, change, question_.command);
  tool_.in_rows(meant_.rotation, twist_ + twist_between(tip_, meant_, 1.0 / options_.gain),
                question_.correction);
  velocity_step(question_, FollowMode::limited, answer_);
  return twist_ + answer_.scale * change;
}

// The step nearest to the one found, from a braking one, that can be stopped after.
void Steering::ease_off(Twist& next) {
  const SlowBy why = slow_by_;
  const StepAnswer whole = answer_;
  const Twist braked = brake();
  const Posture change = whole.velocity - answer_.velocity;
  const Twist twist_change = next - braked;
  const Posture least = answer_.velocity;
  double taken = 0.0;
  double part = 0.5;
  checks_left_ = kChecksBetween;
  for (int i = 0; whole.on_course && i < kEasings; ++i, part *= 0.5)
    if (is_good(least + (taken + part) * change, braked + (taken + part) * twist_change))
      taken += part;
  slow_by_ = why;
  answer_.velocity = least + taken * change;
  next = braked + taken * twist_change;
}

// A braking step: on course, or straying the least, if that can be stopped after; else the next bit
// of the stop in a straight joint line that was proved before.
Twist Steering::brake() {
  checks_left_ = kChecksBraking;
  question_.most_scale = 1.0;
  tool_.in_rows(meant_.rotation, -1.0 * twist_, question_.command);
  tool_.in_rows(meant_.rotation, twist_ + twist_between(tip_, meant_, 1.0 / options_.gain),
                question_.correction);
  velocity_step(question_, FollowMode::limited, answer_);
  const Twist slower = (1.0 - answer_.scale) * twist_;
  if (can_stop_after(posture_, answer_.velocity, period_)) return slower;
  const double time = stop_time(velocity_);
  const double kept = time > period_ ? 1.0 - period_ / time : 0.0;
  answer_.velocity = kept * velocity_;
  return kept * twist_;
}

// Sets slow_by where not.
bool Steering::is_good(const Posture& step, const Twist& twist) {
  if (!can_stop_after(posture_, step, period_)) return false;
  const SlowBy before = slow_by_;
  slow_by_ = {.kind = SlowBy::Kind::course};
  if (!stays_on_course(step, twist)) return false;
  slow_by_ = before;
  return true;
}

// In a straight joint line; sets slow_by where not.
bool Steering::can_stop_after(const Posture& from, const Posture& step, double after) {
  const double time = stop_time(step);
  const Posture end = from + (after + 0.5 * time) * step;
  for (int k = 0; k < arm_.dof(); ++k) {
    const bool up = end[k] > arm_.limits().upper[k];
    if (!up && !(end[k] < arm_.limits().lower[k])) continue;
    slow_by_ = {SlowBy::Kind::limit, LimitKind::range, k};
    return false;
  }
  const ZoneSpeed speed = fastest_in_zones(query_, from, step, after + 0.5 * time);
  if (speed.share > 1.0) {
    slow_by_ = {.kind = SlowBy::Kind::zone, .zone = speed};
    return false;
  }
  return is_free(from, end, options_.clearance + kSpare) || leads_away(from, end);
}

// Sets slow_by where not.
bool Steering::is_free(const Posture& from, const Posture& to, double clearance) {
  const Sweep sweep =
      sweep_line(query_, from, to, {.clearance = clearance, .most_checks = checks_left_}, memory_);
  checks_left_ -= std::min(checks_left_, sweep.checks);
  if (!sweep.free) slow_by_ = {.kind = SlowBy::Kind::clearance, .nearest = sweep.blocking};
  return sweep.free;
}

// Where something is as near as it may be already, the arm may still go away from it.
bool Steering::leads_away(const Posture& from, const Posture& to) {
  if (!here_) here_ = query_.nearest(posture_, parts_).distance;
  if (*here_ > options_.clearance + 2.0 * kSpare) return false;
  if (!query_.is_free(to, *here_, parts_)) return false;
  return is_free(from, to, std::max(options_.clearance, *here_ - 0.5 * kSpare));
}

// A stop along the tool's own line, in coarse steps: is there one within the limits, and does it
// end where the tool can be steered on from?
bool Steering::stays_on_course(const Posture& step, const Twist& twist) {
  Look look{posture_ + period_ * step, step, moved(meant_, twist, period_), 1.0};
  double h = std::max(period_, kFirstLook * stop_time(step));
  int i = 0;
  for (; i < kLookSteps && stop_time(look.velocity) > h; ++i, h *= kLookGrowth) {
    const Posture before = look.posture;
    if (!slow_down(look, twist, h)) return false;
    const bool proved = std::find(kProved.begin(), kProved.end(), i) != kProved.end();
    if (proved && !can_stop_after(before, look.velocity, h)) return false;
  }
  if (i == kLookSteps && look.speed > kAllButStopped) return false;
  const double fastest_there = fastest(look.posture, twist);
  return fastest_there > kLeastSpeed || fastest_there > fastest(posture_, twist);
}

// One coarse step of the stop, as hard as the limits that are looked ahead with allow.
bool Steering::slow_down(Look& look, const Twist& twist, double h) {
  const Twist going = look.speed * twist;
  tool_.rows(look.posture + 0.5 * h * look.velocity, meant_.rotation, look_);
  tool_.in_rows(meant_.rotation, -1.0 * going, look_.command);
  // What the coarse steps are off by is made good, so that what cannot be is found out.
  tool_.in_rows(meant_.rotation, going + twist_between(tool_.tip(look.posture), look.meant, h),
                look_.correction);
  joint_box(look_limits_, look.posture, look.velocity, h, box_);
  look_.lower = box_.lower;
  look_.upper = box_.upper;
  look_.most_scale = 1.0;
  look_.wish.setZero(arm_.dof());
  velocity_step(look_, FollowMode::limited, look_answer_);
  if (!look_answer_.on_course) {
    name_range(look.velocity);
    return false;
  }
  look.speed *= 1.0 - look_answer_.scale;
  look.meant = moved(look.meant, look.speed * twist, h);
  look.velocity = look_answer_.velocity;
  look.posture += h * look.velocity;
  return true;
}

// If a joint is too fast for what is left of its range, that is why.
void Steering::name_range(const Posture& velocity) {
  for (int k = 0; k < arm_.dof(); ++k) {
    const bool up = velocity[k] > 0.0;
    const double side = up ? box_.upper[k] : -box_.lower[k];
    if (std::abs(velocity[k]) > side && box_.held_by(k, up) == LimitKind::range)
      slow_by_ = {SlowBy::Kind::limit, LimitKind::range, k};
  }
}

// How fast the joints could move the tool that way at a posture, m/s.
double Steering::fastest(const Posture& posture, const Twist& twist) {
  const double size = size_of(twist);
  if (!(size > 0.0)) return kInfinity;
  tool_.rows(posture, meant_.rotation, look_);
  tool_.in_rows(meant_.rotation, (1.0 / size) * twist, look_.command);
  look_.correction = {};
  look_.lower = -look_.unit;
  look_.upper = look_.unit;
  look_.most_scale = kEnough;
  look_.wish.setZero(arm_.dof());
  velocity_step(look_, FollowMode::limited, look_answer_);
  return look_answer_.scale;
}

// How long the joints take to stop together, each on its way in a straight joint line.
double Steering::stop_time(const Posture& velocity) const {
  return (velocity.array().abs() / (kBrakeShare * arm_.limits().acceleration.array())).maxCoeff();
}

void Steering::advance(const Twist& command, const Twist& next) {
  velocity_ = answer_.velocity;
  posture_ += period_ * velocity_;
  twist_ = next;
  tip_ = tool_.tip(posture_);
  meant_ = tool_.carried_along(tip_, moved(meant_, twist_, period_));
  const double asked = dot(command, command);
  share_ = asked > 0.0 ? std::clamp(dot(twist_, command) / asked, 0.0, 1.0) : 1.0;
}

}  // namespace er
