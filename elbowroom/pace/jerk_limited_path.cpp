#include "elbowroom/pace/jerk_limited_path.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/pace/eased_path.hpp"
#include "elbowroom/pace/path_barrier.hpp"
#include "elbowroom/pace/path_efforts.hpp"
#include "elbowroom/pace/speed_spline.hpp"

namespace er {
namespace {

using Values = std::vector<double>;  // a row each, as bounds have them

constexpr double kSlowedTooMuch = 1.01;
constexpr int kFiner = 16;         // times as many intervals as before
constexpr int kFewest = 16;        // to begin with
constexpr double kCoarser = 10.0;  // times the accuracy, where it only leads to more intervals

class Optimiser {
 public:
  Optimiser(const EasedPath& path, const Arm& arm, const PathLimits& limits)
      : path_(path), arm_(arm), limits_(limits), spline_(path.lengths) {}

  // From what was found with fewer intervals, or (null) from an even pace. A no where the arm
  // cannot even be held still.
  [[nodiscard]] std::optional<Reason> minimise(const JerkLimitedPathOptions& options,
                                               const Optimiser* coarse) {
    if (limits_.torques) {
      efforts_ = path_efforts(ArmDynamics(arm_, limits_.torques->dynamics),
                              {path_.position, path_.first, path_.second, path_.way}, true);
      if (auto reason = too_heavy_to_hold(efforts_.still, limits_.torques->most, arm_))
        return reason;
    }
    gather_bounds();
    const auto bounds =
        static_cast<double>(2 * path_.rows.size() *
                            (bounds_.linear.size() + bounds_.cones.size() + bounds_.jerks.size()));
    Sums here;
    double mu = 0.0;
    if (coarse != nullptr && start_near(*coarse, here)) {
      mu = balance(here);
    } else {
      start();
      mu = duration() / bounds;
      evaluate(c_, state_);
      (void)look(c_, state_, here);
    }
    while (steps_ < options.most_steps) {
      ++steps_;
      const Step step = newton_step(here, mu);
      const double moved = advance(step, mu, here);
      const double least = duration() * options.accuracy / bounds;
      const bool centred = step.decrement < kCentred * mu || moved == 0.0;
      if (centred && mu <= least) break;
      if (centred || moved > kGoodStep) mu = std::max(mu * kShrink, 0.9 * least);
    }
    return std::nullopt;
  }

  [[nodiscard]] int steps() const { return steps_; }

  // Each interval as the quintics that meet the path's position, velocity and acceleration.
  [[nodiscard]] Motion motion() const {
    std::vector<CurvePiece> pieces;
    std::size_t row = 0;
    for (std::size_t i = 0; i < path_.intervals(); ++i) {
      std::size_t last = row;
      while (last + 1 < path_.rows.size() && path_.rows[last + 1].interval == i) ++last;
      CurvePiece piece{spline_.duration(c_, static_cast<Eigen::Index>(i)), {}};
      for (Eigen::Index k = 0; k < path_.position.cols(); ++k)
        piece.joints.push_back(quintic_between(end_of(row, k), end_of(last, k), piece.duration));
      pieces.push_back(std::move(piece));
      row = last + 1;
    }
    return Motion(std::move(pieces));
  }

 private:
  static constexpr double kCentred = 1.0;   // of mu: the decrement at which a step was the last
  static constexpr double kGoodStep = 0.5;  // of a full one, after which mu may fall
  static constexpr double kShrink = 0.3;
  static constexpr double kNearBounds = 0.9;    // of the way to the first one
  static constexpr double kFirstSlack = 0.004;  // of x, where it begins with a coarse solution

  // Gradients and Hessians by the coefficients, of the duration and of the barrier.
  struct Sums {
    Eigen::ArrayXd of_time;
    Eigen::ArrayXd of_barrier;
    BandMatrix time_band;
    BandMatrix barrier_band;
  };

  struct Step {
    Eigen::ArrayXd by;
    double decrement = 0.0;  // how fast the sum falls along it
  };

  [[nodiscard]] EndValues end_of(std::size_t row, Eigen::Index k) const {
    const auto at = static_cast<Eigen::Index>(row);
    const auto interval = static_cast<Eigen::Index>(path_.rows[row].interval);
    const SpeedSpline::Local x = spline_.at(c_, interval, path_.rows[row].by);
    return {path_.position(at, k), path_.first(at, k) * std::sqrt(x[0]),
            0.5 * path_.first(at, k) * x[1] + path_.second(at, k) * x[0]};
  }

  [[nodiscard]] double duration() const {
    return (spline_.weights() / spline_.at_knots(c_).sqrt()).sum();
  }

  // A column of rows, each times a factor, filled up with zeros.
  template <class Column>
  [[nodiscard]] Values values(const Column& column, double factor) const {
    Values out(bounds_.count, 0.0);
    for (Eigen::Index i = 0; i < column.size(); ++i)
      out[static_cast<std::size_t>(i)] = factor * column[i];
    return out;
  }

  void gather_bounds() {
    Values speed(bounds_.count, 0.0);
    for (std::size_t i = 0; i < path_.most.size(); ++i) speed[i] = 1.0 / path_.most[i];
    bounds_.linear.push_back({std::move(speed), Values(bounds_.count, 0.0)});
    const bool damped = efforts_.by_rate.size() > 0;
    for (Eigen::Index k = 0; k < path_.position.cols(); ++k) {
      // Seen from the middle of both ways, they are one limit.
      const WayLimits own = limits_.acceleration_of(k);
      const double acceleration = 2.0 / (own.high - own.low);
      bounds_.linear.push_back({values(path_.second.col(k), acceleration),
                                values(path_.first.col(k), 0.5 * acceleration)});
      if (const double middle = 0.5 * (own.low + own.high); middle != 0.0)
        bounds_.linear.back().still = Values(bounds_.count, -acceleration * middle);
      const double jerk = 1.0 / limits_.jerk[k];
      bounds_.jerks.push_back({values(path_.third.col(k), jerk),
                               values(path_.second.col(k), 1.5 * jerk),
                               values(path_.first.col(k), 0.5 * jerk)});
      if (!limits_.torques || !std::isfinite(limits_.torques->most[k])) continue;
      const double torque = 1.0 / limits_.torques->most[k];
      bounds_.linear.push_back({values(efforts_.by_square.col(k), torque),
                                values(efforts_.by_growth.col(k), 0.5 * torque),
                                values(efforts_.still.col(k), torque),
                                damped ? values(efforts_.by_rate.col(k), torque) : Values{}});
    }
    if (!std::isfinite(limits_.tool_acceleration)) return;
    PathBounds::Cone cone;
    for (std::size_t axis = 0; axis < 3; ++axis) {
      cone.of_x[axis].assign(bounds_.count, 0.0);
      cone.of_slope[axis].assign(bounds_.count, 0.0);
      for (std::size_t i = 0; i < path_.tool.size(); ++i) {
        const auto a = static_cast<Eigen::Index>(axis);
        cone.of_x[axis][i] = path_.tool[i].curvature[a] / limits_.tool_acceleration;
        cone.of_slope[axis][i] = 0.5 * path_.tool[i].slope[a] / limits_.tool_acceleration;
      }
    }
    bounds_.cones.push_back(std::move(cone));
  }

  // An even pace, slow enough for all bounds.
  void start() {
    // The least of what bounds leave of what they have by x, by its root and by its power 3/2.
    double by_x = std::numeric_limits<double>::infinity();
    double by_root = by_x;
    double by_jerk = by_x;
    const auto keep = [](double value, double most, double& least) {
      if (value != 0.0) least = std::min(least, most / std::abs(value));
    };
    for (std::size_t i = 0; i < path_.rows.size(); ++i) {
      for (const PathBounds::Linear& bound : bounds_.linear) {
        // Half of what is left goes to each of the two.
        const double left = bound.still.empty() ? 1.0 : 0.5 * (1.0 - std::abs(bound.still[i]));
        keep(bound.of_x[i], left, by_x);
        if (!bound.by_root.empty()) keep(bound.by_root[i], left, by_root);
      }
      for (const PathBounds::Jerk& jerk : bounds_.jerks) keep(jerk.of_x[i], 1.0, by_jerk);
      for (const PathBounds::Cone& cone : bounds_.cones)
        keep(Vector3(cone.of_x[0][i], cone.of_x[1][i], cone.of_x[2][i]).norm(), 1.0, by_x);
    }
    const double x = std::min({by_x, by_root * by_root, std::pow(by_jerk, 2.0 / 3.0)});
    c_.setConstant(spline_.coefficients(), 0.5 * x);
  }

  // A little slower than what was found with fewer intervals, so that all bounds are kept. False
  // where that does not help.
  bool start_near(const Optimiser& coarse, Sums& here) {
    const Eigen::ArrayXd there = coarse.spline_.values_at(coarse.c_, spline_.places());
    for (double slack = kFirstSlack; slack < 0.5; slack *= 2.0) {
      c_ = (1.0 - slack) * there;
      evaluate(c_, state_);
      if (look(c_, state_, here)) return true;
    }
    return false;
  }

  // The weight of the barrier at which neither a little more speed nor a little less is better.
  [[nodiscard]] double balance(const Sums& here) const {
    return -(here.of_time * c_).sum() / (here.of_barrier * c_).sum();
  }

  // x and its derivatives at each row, for these coefficients; linear in them.
  void evaluate(const Eigen::ArrayXd& c, PathState& out) const {
    out.x.assign(bounds_.count, 1.0);
    out.slope.assign(bounds_.count, 0.0);
    out.bend.assign(bounds_.count, 0.0);
    SpeedSpline::Local start{};
    for (std::size_t row = 0; row < path_.rows.size(); ++row) {
      const double by = path_.rows[row].by;
      if (by == 0.0)
        start = spline_.at(c, static_cast<Eigen::Index>(path_.rows[row].interval), 0.0);
      out.x[row] = start[0] + by * (start[1] + 0.5 * by * start[2]);
      out.slope[row] = start[1] + by * start[2];
      out.bend[row] = start[2];
    }
  }

  // False where a bound is not kept, or x might not be above zero between rows.
  bool look(const Eigen::ArrayXd& c, const PathState& state, Sums& out) {
    const Eigen::ArrayXd x = spline_.at_knots(c);
    if (!(spline_.least(c, x) > 0.0)) return false;
    if (!path_barrier(bounds_, state, barrier_)) return false;
    out.of_barrier.setZero(c.size());
    out.barrier_band.clear(c.size());
    for (std::size_t row = 0; row < path_.rows.size();) row = spread_interval(row, out);
    const Eigen::ArrayXd slope = -0.5 * spline_.weights() / (x * x.sqrt());
    const Eigen::ArrayXd bend = -1.5 * slope / x;
    const Eigen::ArrayXd& before = spline_.here();
    const Eigen::ArrayXd after = 1.0 - before;
    const Eigen::Index knots = x.size();
    out.of_time.setZero(c.size());
    out.of_time.head(knots) += before * slope;
    out.of_time.tail(knots) += after * slope;
    out.time_band.clear(c.size());
    out.time_band.of[0].head(knots) += before.square() * bend;
    out.time_band.of[0].tail(knots) += after.square() * bend;
    out.time_band.of[1].tail(knots) += before * after * bend;
    return true;
  }

  // What the barrier has at the rows of the interval that `row` is the first of: brought together
  // where it begins, and from there to the three coefficients. Gives the row after them.
  std::size_t spread_interval(std::size_t row, Sums& out) const {
    const std::size_t interval = path_.rows[row].interval;
    std::array<double, 3> g{};
    std::array<double, 6> h{};  // 00 10 11 20 21 22
    for (; row < path_.rows.size() && path_.rows[row].interval == interval; ++row) {
      // The value there is x + p slope + q bend, the slope slope + p bend.
      const double p = path_.rows[row].by;
      const double q = 0.5 * p * p;
      const auto at = [&](const auto& values, std::size_t i) { return values[i][row]; };
      const double g0 = at(barrier_.gradient, 0);
      const double g1 = at(barrier_.gradient, 1);
      const double h00 = at(barrier_.hessian, 0);
      const double h10 = at(barrier_.hessian, 1);
      const double h11 = at(barrier_.hessian, 2);
      const double h20 = at(barrier_.hessian, 3);
      const double h21 = at(barrier_.hessian, 4);
      g[0] += g0;
      g[1] += p * g0 + g1;
      g[2] += q * g0 + p * g1 + at(barrier_.gradient, 2);
      const double by_slope = p * h00 + h10;           // of the value, by the slope
      const double by_bend = q * h00 + p * h10 + h20;  // and by the bend
      const double slope_by_bend = q * h10 + p * h11 + h21;
      h[0] += h00;
      h[1] += by_slope;
      h[2] += p * by_slope + p * h10 + h11;
      h[3] += by_bend;
      h[4] += p * by_bend + slope_by_bend;
      h[5] += q * by_bend + p * slope_by_bend + q * h20 + p * h21 + at(barrier_.hessian, 5);
    }
    const auto first = static_cast<Eigen::Index>(interval);
    const SpeedSpline::Dependence by = spline_.dependence(first);
    for (std::size_t i = 0; i < 3; ++i) {
      const Eigen::Index to = first + static_cast<Eigen::Index>(i);
      const double v = by[0][i];
      const double s = by[1][i];
      const double b = by[2][i];
      out.of_barrier[to] += g[0] * v + g[1] * s + g[2] * b;
      const double by_value = h[0] * v + h[1] * s + h[3] * b;
      const double by_slope = h[1] * v + h[2] * s + h[4] * b;
      const double by_bend = h[3] * v + h[4] * s + h[5] * b;
      for (std::size_t j = 0; j <= i; ++j)
        out.barrier_band.of[i - j][to] +=
            by_value * by[0][j] + by_slope * by[1][j] + by_bend * by[2][j];
    }
    return row;
  }

  [[nodiscard]] Step newton_step(const Sums& here, double mu) const {
    Step out;
    BandMatrix band;
    for (std::size_t d = 0; d < 3; ++d)
      band.of[d] = here.time_band.of[d] + mu * here.barrier_band.of[d];
    const Eigen::ArrayXd gradient = here.of_time + mu * here.of_barrier;
    out.by = -gradient;
    solve(band, out.by);
    out.decrement = -(gradient * out.by).sum();
    return out;
  }

  // As much of the step as stays inside and does not lead up again steeper than it led down. Gives
  // the share of it, and what is there.
  double advance(const Step& step, double mu, Sums& here) {
    evaluate(step.by, way_);
    const double within = share_within(bounds_, state_, way_);
    for (double share = within < 1.0 ? kNearBounds * within : 1.0; share > 1e-6; share *= 0.6) {
      tried_ = c_ + share * step.by;
      go(state_, way_, share, state_there_);
      if (!look(tried_, state_there_, there_)) continue;
      const double slope = (step.by * (there_.of_time + mu * there_.of_barrier)).sum();
      if (slope > 0.5 * step.decrement) continue;
      c_.swap(tried_);
      std::swap(state_, state_there_);
      std::swap(here, there_);
      return share;
    }
    return 0.0;
  }

  static void go(const PathState& from, const PathState& way, double share, PathState& to) {
    const auto add = [share](const Values& a, const Values& b, Values& out) {
      out.resize(a.size());
      const auto count = static_cast<Eigen::Index>(a.size());
      using All = Eigen::Map<const Eigen::ArrayXd>;
      Eigen::ArrayXd::Map(out.data(), count) = All(a.data(), count) + share * All(b.data(), count);
    };
    add(from.x, way.x, to.x);
    add(from.slope, way.slope, to.slope);
    add(from.bend, way.bend, to.bend);
  }

  const EasedPath& path_;
  const Arm& arm_;
  const PathLimits& limits_;
  SpeedSpline spline_;
  PathEfforts efforts_;
  PathBounds bounds_{path_.rows.size()};
  PathBarrier barrier_;
  Eigen::ArrayXd c_;  // the spline's coefficients
  PathState state_;   // what they come to at each row
  PathState way_;     // and what a step of Newton's adds to that
  Eigen::ArrayXd tried_;
  PathState state_there_;
  Sums there_;
  int steps_ = 0;
};

// The path with so many intervals, and what is found with them.
struct Level {
  Level(const JointCurve& curve, const Arm& arm, const PathLimits& limits, int intervals)
      : path(eased_path(curve, arm, limits, intervals)), optimiser(path, arm, limits) {}
  EasedPath path;
  Optimiser optimiser;
};

}  // namespace

Verdict<JerkLimitedPath> jerk_limited_path(const JointCurve& path, const Arm& arm,
                                           const PathLimits& limits,
                                           const JerkLimitedPathOptions& options) {
  check_path(path, limits);
  if (limits.jerk.size() != path.dof() || !limits.jerk.allFinite())
    throw InputError("limiting jerk takes a finite limit of every joint");
  // From few intervals to many: what few have found leaves little to do with more.
  std::vector<int> counts{std::max(options.intervals, 1)};
  while (counts.back() >= kFiner * kFewest) counts.push_back(counts.back() / kFiner);
  std::unique_ptr<Level> level;
  int refinements = options.refinements;
  int steps = 0;
  for (;;) {
    auto finer = std::make_unique<Level>(path, arm, limits, counts.back());
    JerkLimitedPathOptions own = options;
    if (counts.size() > 1) own.accuracy *= kCoarser;
    if (auto reason = finer->optimiser.minimise(own, level ? &level->optimiser : nullptr))
      return *reason;
    level = std::move(finer);
    steps += level->optimiser.steps();
    const int count = counts.back();
    counts.pop_back();
    if (!counts.empty()) continue;
    auto kept = kept_within(level->optimiser.motion(), arm, limits);
    if (!kept) return kept.reason();
    if (kept->slowed <= kSlowedTooMuch || refinements-- <= 0)
      return JerkLimitedPath{std::move(kept->motion), static_cast<int>(level->path.intervals()),
                             steps, kept->slowed};
    counts.push_back(2 * count);
  }
}

}  // namespace er
