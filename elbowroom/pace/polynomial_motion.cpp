#include "elbowroom/pace/polynomial_motion.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/model/curve_ranges.hpp"

namespace er {
namespace {

std::string name_of(const TimedWaypoint& waypoint, std::size_t index) {
  return waypoint.name.empty() ? fmt::format("waypoint {}", index + 1)
                               : fmt::format("waypoint {} ({})", index + 1, waypoint.name);
}

void check_numbers(const Arm& arm, const Posture& values, const std::string& what) {
  if (values.size() != arm.dof())
    throw InputError(fmt::format("{} has {} value{}, the arm has {} moving joints", what,
                                 values.size(), values.size() == 1 ? "" : "s", arm.dof()));
  if (!values.allFinite()) throw InputError(what + " has a value that is no finite number");
}

void check_waypoints(const std::vector<TimedWaypoint>& waypoints, const Arm& arm,
                     const PolynomialOptions& options) {
  if (waypoints.size() < 2)
    throw InputError(fmt::format("a motion needs two waypoints, found {}",
                                 waypoints.empty() ? "none" : "only one"));
  if (!(options.speed > 0.0) || options.speed > 1.0)
    throw InputError(fmt::format("the speed must be above 0 and at most 100 %, found {:g} %",
                                 100.0 * options.speed));
  for (std::size_t i = 0; i < waypoints.size(); ++i) {
    const TimedWaypoint& w = waypoints[i];
    const std::string name = name_of(w, i);
    check_numbers(arm, w.position, name);
    if (w.velocity) check_numbers(arm, *w.velocity, "the velocity at " + name);
    if (w.acceleration) check_numbers(arm, *w.acceleration, "the acceleration at " + name);
    if (i == 0 && w.after)
      throw InputError(name + " is the first: there is nothing that it could be after",
                       "give the duration at the waypoint that it leads to");
    if (w.after && (!(*w.after > 0.0) || !std::isfinite(*w.after)))
      throw InputError(fmt::format("{} is to be reached after {:g} s", name, *w.after),
                       "a duration is above zero");
    if (i > 0 && !w.after && (w.position - waypoints[i - 1].position).cwiseAbs().maxCoeff() < 1e-12)
      throw InputError(fmt::format("{} is where the waypoint before is, and has no duration", name),
                       "say after how long, or leave one of them out");
  }
}

// What the options say of the waypoints on the way, said at each of them.
std::vector<SplineKnot> knots_of(const std::vector<TimedWaypoint>& waypoints,
                                 const PolynomialOptions& options) {
  std::vector<SplineKnot> knots;
  const bool quintic = options.degree == SplineDegree::quintic;
  for (std::size_t i = 0; i < waypoints.size(); ++i) {
    const TimedWaypoint& w = waypoints[i];
    SplineKnot knot{w.position, w.velocity, w.acceleration};
    const bool inside = i > 0 && i + 1 < waypoints.size();
    if (inside && options.on_the_way == OnTheWay::stop) {
      const Posture none = Posture::Zero(w.position.size());
      if (!knot.velocity) knot.velocity = none;
      if (quintic && !knot.acceleration) knot.acceleration = none;
    }
    knots.push_back(std::move(knot));
  }
  return knots;
}

// The factor by which a motion would have to be longer for its limits, if all its derivatives went
// down with that.
double stretch_needed(const MotionPeaks& peaks, double speed) {
  return std::max({peaks.velocity.share / speed, std::sqrt(peaks.acceleration.share),
                   std::cbrt(peaks.jerk.share)});
}

bool is_still(const std::optional<Posture>& value) { return !value || value->isZero(0.0); }

// Each of more stretches is not tried by itself: every try solves for the whole spline.
constexpr std::ptrdiff_t kMostShortened = 40;

// Chooses the durations that are not given.
class Durations {
 public:
  Durations(const std::vector<TimedWaypoint>& waypoints, const std::vector<SplineKnot>& knots,
            const Arm& arm, const PolynomialOptions& options)
      : knots_(knots), arm_(arm), options_(options) {
    for (std::size_t i = 1; i < waypoints.size(); ++i) {
      chosen_.push_back(!waypoints[i].after);
      values_.push_back(waypoints[i].after ? *waypoints[i].after
                                           : at_least(knots[i - 1], knots[i]));
    }
  }

  [[nodiscard]] const std::vector<double>& values() const { return values_; }
  [[nodiscard]] const std::vector<bool>& chosen() const { return chosen_; }

  // False when no durations do.
  bool choose() {
    const auto free = std::count(chosen_.begin(), chosen_.end(), true);
    if (free == 0) return true;
    if (!make_long_enough()) return false;
    even_out();
    for (int round = 0; free <= kMostShortened && round < 20 && shorten_each(); ++round) {
    }
    round_up();
    return true;
  }

 private:
  // From rest to rest with a cubic's or quintic's own peaks: a beginning.
  [[nodiscard]] double at_least(const SplineKnot& from, const SplineKnot& to) const {
    const bool cubic = options_.degree == SplineDegree::cubic;
    double time = 1e-6;
    const Posture way = (to.position - from.position).cwiseAbs();
    for (Eigen::Index k = 0; k < way.size(); ++k)
      time = std::max(
          {time, (cubic ? 1.5 : 1.875) * way[k] / limits().velocity[k],
           std::sqrt((cubic ? 6.0 : 10.0 / std::sqrt(3.0)) * way[k] / limits().acceleration[k])});
    return time;
  }
  [[nodiscard]] const Limits& limits() const { return arm_.limits(); }

  [[nodiscard]] double need(const std::vector<double>& durations) const {
    const Motion motion = spline_through(knots_, durations, options_.degree, options_.ends);
    return stretch_needed(peaks_of(motion, limits()), options_.speed);
  }
  [[nodiscard]] bool fits(const std::vector<double>& durations) const {
    return need(durations) <= 1.0 + 1e-9;
  }
  // Those that may be chosen, so many times as long.
  void scale(std::vector<double>& durations, double factor) const {
    for (std::size_t i = 0; i < durations.size(); ++i)
      if (chosen_[i]) durations[i] *= factor;
  }

  bool make_long_enough() {
    for (int i = 0; i < 400; ++i) {
      const double factor = need(values_);
      if (factor <= 1.0 + 1e-9) return true;
      scale(values_, std::clamp(factor, 1.0 + 1e-9, 1.05));
    }
    return false;
  }

  // Time goes from stretches that use little of their limits to those that use much.
  void even_out() {
    double best = sum(values_);
    std::vector<double> trial = values_;
    for (int i = 0; i < 40; ++i) {
      const Motion motion = spline_through(knots_, trial, options_.degree, options_.ends);
      for (std::size_t k = 0; k < trial.size(); ++k) {
        if (!chosen_[k]) continue;
        const double own =
            stretch_needed(peaks_of(Motion({motion.pieces()[k]}), limits()), options_.speed);
        trial[k] *= std::clamp(std::sqrt(own), 0.8, 1.25);
      }
      std::vector<double> whole = trial;
      scale(whole, std::max(need(whole), 1.0));
      if (!fits(whole) || sum(whole) >= best) continue;
      best = sum(whole);
      values_ = whole;
    }
  }

  // Each as short as the others let it be. False when little was gained.
  bool shorten_each() {
    const double before = sum(values_);
    for (std::size_t i = 0; i < values_.size(); ++i) {
      if (!chosen_[i]) continue;
      std::vector<double> trial = values_;
      double high = values_[i];
      double low = high;
      do {  // as far as it fits without a gap
        low *= 0.98;
        trial[i] = low;
        if (!fits(trial)) break;
        high = low;
      } while (low > 1e-9);
      for (int k = 0; k < 40 && high - low > 1e-12 * high; ++k) {
        trial[i] = 0.5 * (low + high);
        (fits(trial) ? high : low) = trial[i];
      }
      values_[i] = high;
    }
    return sum(values_) < before * (1.0 - 1e-3);
  }

  // To whole microseconds, which are easier to read and to type in again.
  void round_up() {
    std::vector<double> rounded = values_;
    for (std::size_t i = 0; i < rounded.size(); ++i)
      if (chosen_[i]) rounded[i] = std::ceil(rounded[i] * 1e6 - 1e-3) / 1e6;
    if (fits(rounded)) values_ = rounded;
  }

  static double sum(const std::vector<double>& values) {
    double total = 0.0;
    for (const double value : values) total += value;
    return total;
  }

  const std::vector<SplineKnot>& knots_;
  const Arm& arm_;
  const PolynomialOptions& options_;
  std::vector<double> values_;
  std::vector<bool> chosen_;
};

std::vector<Overshoot> overshoots_of(const Motion& motion) {
  std::vector<Overshoot> out;
  double start = 0.0;
  int stretch = 0;
  for (const CurvePiece& piece : motion.pieces()) {
    ++stretch;
    for (int k = 0; k < motion.dof(); ++k) {
      const Quintic& c = piece.joints[static_cast<std::size_t>(k)];
      const Extremes e = extremes_of(c, piece.duration);
      const double first = value_at(c, 0.0);
      const double last = value_at(c, piece.duration);
      const double above = e.high - std::max(first, last);
      const double below = std::min(first, last) - e.low;
      const double beyond = std::max(above, below);
      if (beyond > 1e-9)
        out.push_back({k, stretch, beyond, start + (above >= below ? e.high_at : e.low_at)});
    }
    start += piece.duration;
  }
  return out;
}

// Where the acceleration differs most between the end of one stretch and the beginning of the next.
PeakUse largest_jump(const Motion& motion) {
  PeakUse most;
  const auto& pieces = motion.pieces();
  double time = 0.0;
  for (std::size_t i = 0; i <= pieces.size(); ++i) {
    for (int k = 0; k < motion.dof(); ++k) {
      const double jump = std::abs(jump_before(motion, i, k, 2));
      if (jump > most.share) most = {jump, k, time};
    }
    if (i < pieces.size()) time += pieces[i].duration;
  }
  return most;
}

PolynomialMotion with_durations(const std::vector<SplineKnot>& knots,
                                const std::vector<double>& durations,
                                const std::vector<bool>& chosen, const Arm& arm,
                                const PolynomialOptions& options) {
  PolynomialMotion out;
  out.options = options;
  out.knots = knots;
  out.durations = durations;
  out.chosen = chosen;
  out.equations = spline_equations(knots, durations, options.degree, options.ends);
  out.motion = spline_through(knots, durations, options.degree, options.ends);
  out.peaks = peaks_of(out.motion, arm.limits());
  out.overshoots = overshoots_of(out.motion);
  out.jump = largest_jump(out.motion);
  return out;
}

std::string joint_text(const Joint& joint, double value, const char* per) {
  return joint.kind == JointKind::prismatic ? fmt::format("{:.1f} mm{}", to_mm(value), per)
                                            : fmt::format("{:.1f} deg{}", to_deg(value), per);
}

// `now`: the derivative at the peak, whose way the limit is.
std::string breach_of(const char* what, const char* per, const PeakUse& peak, double now,
                      const WayLimits& limits, const Arm& arm) {
  const Joint& joint = arm.moving_joint(peak.joint);
  const double limit = now >= 0.0 ? limits.high : -limits.low;
  const auto text = [&](double value) { return joint_text(joint, value, per); };
  return fmt::format("no: joint {} would need {} of {} at {:.3f} s, limit {}", joint.name,
                     text(peak.share * limit), what, peak.time, text(limit));
}

}  // namespace

Verdict<PolynomialMotion> polynomial_motion(const std::vector<TimedWaypoint>& waypoints,
                                            const Arm& arm, const PolynomialOptions& options) {
  check_waypoints(waypoints, arm, options);
  for (std::size_t i = 0; i < waypoints.size(); ++i)
    if (const std::string breach = arm.limit_breach(waypoints[i].position); !breach.empty())
      return Reason{Cause::beyond_limits,
                    fmt::format("no: at {}: {}", name_of(waypoints[i], i), breach)};
  const std::vector<SplineKnot> knots = knots_of(waypoints, options);
  Durations durations(waypoints, knots, arm, options);
  if (std::find(durations.chosen().begin(), durations.chosen().end(), true) !=
      durations.chosen().end())
    for (int k = 0; k < arm.dof(); ++k)
      if (!std::isfinite(arm.limits().velocity[k]) || !std::isfinite(arm.limits().acceleration[k]))
        throw InputError(fmt::format("joint '{}' of arm '{}' does not state both its limits of "
                                     "velocity and acceleration, so no duration can be chosen",
                                     arm.moving_joint(k).name, arm.name()),
                         "state them, or give every duration");
  if (!durations.choose()) {
    const PolynomialMotion longest =
        with_durations(knots, durations.values(), durations.chosen(), arm, options);
    const auto breach = polynomial_breach(longest, arm);
    return Reason{Cause::too_fast,
                  fmt::format("no: however long it takes, what is given at the waypoints breaks a "
                              "limit{}",
                              breach ? ": " + breach->text.substr(4) : "")};
  }
  return with_durations(knots, durations.values(), durations.chosen(), arm, options);
}

std::optional<Reason> polynomial_breach(const PolynomialMotion& paced, const Arm& arm) {
  if (const auto left = leaves_ranges(paced.motion, arm))
    return Reason{Cause::beyond_limits, "no: on the way: " + left->what};
  const Limits& limits = arm.limits();
  const MotionPeaks& p = paced.peaks;
  const double needed = stretch_needed(p, 1.0);
  if (needed <= 1.0 + 1e-6) return std::nullopt;
  Reason reason{Cause::too_fast, ""};
  if (const int k = p.velocity.joint; p.velocity.share >= needed * (1 - 1e-12))
    reason.text =
        breach_of("velocity", "/s", p.velocity, paced.motion.at(p.velocity.time).velocity[k],
                  limits.velocity_of(k), arm);
  else if (const int j = p.acceleration.joint;
           std::sqrt(p.acceleration.share) >= needed * (1 - 1e-12))
    reason.text = breach_of("acceleration", "/s^2", p.acceleration,
                            paced.motion.at(p.acceleration.time).acceleration[j],
                            limits.acceleration_of(j), arm);
  else
    reason.text = breach_of("jerk", "/s^3", p.jerk, 0.0,
                            {-limits.jerk[p.jerk.joint], limits.jerk[p.jerk.joint]}, arm);
  reason.figures = {{"stretch", needed, ""},
                    {"velocity_share", p.velocity.share, ""},
                    {"acceleration_share", p.acceleration.share, ""},
                    {"jerk_share", p.jerk.share, ""}};
  bool still = true;
  for (const SplineKnot& knot : paced.knots)
    still = still && is_still(knot.velocity) && is_still(knot.acceleration);
  if (!still) return reason;  // velocities that are given do not go down with time
  std::vector<double> longer = paced.durations;
  const double factor = std::ceil(1000.0 * needed) / 1000.0;
  for (double& duration : longer) duration *= factor;
  const PolynomialMotion again =
      with_durations(paced.knots, longer, paced.chosen, arm, paced.options);
  if (stretch_needed(again.peaks, 1.0) <= 1.0 + 1e-6)
    reason.remedies.push_back({fmt::format("every stretch {:.3f} times as long, {} in all", factor,
                                           text_time(again.motion.duration()))});
  return reason;
}

std::string PolynomialMotion::summary() const {
  const bool cubic = options.degree == SplineDegree::cubic;
  const auto free = std::count(chosen.begin(), chosen.end(), true);
  return fmt::format(
      "yes: {} in all, {} {} of degree {}{}; at most {:.1f} % of a velocity limit, {:.1f} % of an "
      "acceleration limit{}",
      text_time(motion.duration()), durations.size(),
      durations.size() == 1 ? "polynomial" : "polynomials", cubic ? 3 : 5,
      free == 0 ? ""
      : free == std::ptrdiff_t(chosen.size())
          ? ", durations chosen"
          : fmt::format(", {} of {} durations chosen", free, chosen.size()),
      100.0 * peaks.velocity.share, 100.0 * peaks.acceleration.share,
      peaks.jerk.share > 0.0
          ? fmt::format(" and {:.1f} % of a jerk limit", 100.0 * peaks.jerk.share)
          : "");
}

std::string PolynomialMotion::notes(const Arm& arm) const {
  std::string out;
  int slight = 0;
  for (const Overshoot& one : overshoots) {
    const Joint& joint = arm.moving_joint(one.joint);
    const double shown =
        joint.kind == JointKind::prismatic ? to_mm(one.beyond) : to_deg(one.beyond);
    if (shown < 0.05) {
      ++slight;
      continue;
    }
    out += fmt::format("  {} goes {} beyond its values at both ends of stretch {}, at {:.3f} s\n",
                       joint.name, joint_text(joint, one.beyond, ""), one.stretch, one.time);
  }
  if (slight > 0)
    out += fmt::format("  {} by less than 0.05 deg or mm\n",
                       slight == 1 ? "one overshoot" : fmt::format("{} overshoots", slight));
  if (jump.share > 1e-9)
    out += fmt::format(
        "  acceleration jumps, most by {} of {} at {:.3f} s: jerk is not limited "
        "there\n",
        joint_text(arm.moving_joint(jump.joint), jump.share, "/s^2"),
        arm.moving_joint(jump.joint).name, jump.time);
  return out;
}

namespace {

// The value of an enumeration by its name.
template <class T>
T named(std::string_view what, std::string_view name,
        const std::vector<std::pair<std::string, T>>& all) {
  std::vector<std::string> known;
  for (const auto& [own, value] : all) {
    if (own == name) return value;
    known.push_back(own);
  }
  throw unknown_name(what, name, known);
}

}  // namespace

SplineDegree degree_named(std::string_view name) {
  return named<SplineDegree>("polynomial", name,
                             {{"cubic", SplineDegree::cubic}, {"quintic", SplineDegree::quintic}});
}

OnTheWay on_the_way_named(std::string_view name) {
  return named<OnTheWay>("way through waypoints", name,
                         {{"smooth", OnTheWay::smooth}, {"stop", OnTheWay::stop}});
}

SplineEnds ends_named(std::string_view name) {
  return named<SplineEnds>("kind of ends", name,
                           {{"clamped", SplineEnds::clamped},
                            {"natural", SplineEnds::natural},
                            {"periodic", SplineEnds::periodic}});
}

}  // namespace er
