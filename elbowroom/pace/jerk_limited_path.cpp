#include "elbowroom/pace/jerk_limited_path.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/pace/eased_path.hpp"
#include "elbowroom/pace/path_barrier.hpp"
#include "elbowroom/pace/path_efforts.hpp"

namespace er {
namespace {

using Values = std::vector<double>;

constexpr double kSlowedTooMuch = 1.01;
constexpr int kFiner = 4;          // times as many intervals as before
constexpr int kFewest = 16;        // to begin with
constexpr double kCoarser = 10.0;  // times the accuracy, where it only leads to more intervals

// A symmetric matrix with two diagonals beside the middle one: of[d][i] is in row i, column i - d.
struct BandMatrix {
  std::array<Values, 3> of;

  void clear(std::size_t size) {
    for (Values& diagonal : of) diagonal.assign(size, 0.0);
  }
};

// Solves band x = right by L D L^T, in place of both.
void solve(BandMatrix& band, Values& x) {
  auto& [d, one, two] = band.of;
  const std::size_t n = d.size();
  for (std::size_t i = 0; i < n; ++i) {
    if (i >= 2) {
      const double l = two[i] / d[i - 2];
      one[i] -= two[i] * one[i - 1];
      d[i] -= l * two[i];
      two[i] = l;
      x[i] -= l * x[i - 2];
    }
    if (i >= 1) {
      const double l = one[i] / d[i - 1];
      d[i] -= l * one[i];
      one[i] = l;
      x[i] -= l * x[i - 1];
    }
  }
  for (std::size_t i = n; i-- > 0;) {
    x[i] /= d[i];
    if (i + 1 < n) x[i] -= one[i + 1] * x[i + 1];
    if (i + 2 < n) x[i] -= two[i + 2] * x[i + 2];
  }
}

// x = (dz/dt)^2 as a spline of second degree with a knot between any two intervals. Three
// coefficients bear on an interval.
class SpeedSpline {
 public:
  explicit SpeedSpline(const Values& lengths) : lengths_(lengths) {
    for (std::size_t i = 0; i <= lengths.size(); ++i) {
      const double before = i > 0 ? lengths[i - 1] : 0.0;
      const double after = i < lengths.size() ? lengths[i] : 0.0;
      here_.push_back(after / (before + after));
      slope_.push_back(2.0 / (before + after));
    }
  }

  // x, its slope and its bend.
  using Local = std::array<double, 3>;
  [[nodiscard]] double at_knot(const Values& c, std::size_t i) const {
    return here_[i] * c[i] + (1.0 - here_[i]) * c[i + 1];
  }
  [[nodiscard]] Local at(const Values& c, std::size_t interval, double by) const {
    const double slope = slope_at_knot(c, interval);
    const double bend = (slope_at_knot(c, interval + 1) - slope) / lengths_[interval];
    return {at_knot(c, interval) + by * (slope + 0.5 * by * bend), slope + by * bend, bend};
  }

  // Where in z each coefficient counts most: the ends, and the middles of intervals. There the
  // spline is nearly its coefficient.
  [[nodiscard]] Values places() const {
    Values out{0.0};
    double start = 0.0;
    for (const double length : lengths_) {
      out.push_back(start + 0.5 * length);
      start += length;
    }
    out.push_back(start);
    return out;
  }
  // At several places, which ascend.
  [[nodiscard]] Values values_at(const Values& c, const Values& places) const {
    Values out;
    std::size_t interval = 0;
    double start = 0.0;
    for (const double z : places) {
      while (interval + 1 < lengths_.size() && z > start + lengths_[interval])
        start += lengths_[interval++];
      out.push_back(at(c, interval, std::min(z - start, lengths_[interval]))[0]);
    }
    return out;
  }

  // The least x of an interval.
  [[nodiscard]] double least(const Values& c, std::size_t interval) const {
    const auto [x, slope, bend] = at(c, interval, 0.0);
    const bool dips = slope < 0.0 && -slope < bend * lengths_[interval];
    return dips ? x - 0.5 * slope * slope / bend : std::min(x, at_knot(c, interval + 1));
  }

  // How x, slope and bend come from the three coefficients.
  using Dependence = std::array<Local, 3>;
  [[nodiscard]] Dependence dependence(std::size_t i, double by) const {
    const double h = lengths_[i];
    Dependence out{Local{here_[i], 1.0 - here_[i], 0.0}, Local{-slope_[i], slope_[i], 0.0},
                   Local{slope_[i] / h, -(slope_[i] + slope_[i + 1]) / h, slope_[i + 1] / h}};
    for (std::size_t k = 0; k < 3; ++k) {
      out[0][k] += by * (out[1][k] + 0.5 * by * out[2][k]);
      out[1][k] += by * out[2][k];
    }
    return out;
  }

  // The time that an interval takes: five points of Gauss and Legendre.
  [[nodiscard]] double duration(const Values& c, std::size_t interval) const {
    constexpr std::array<double, 5> kAt{0.0469100770306680, 0.2307653449471585, 0.5,
                                        0.7692346550528415, 0.9530899229693320};
    constexpr std::array<double, 5> kWeight{0.1184634425280945, 0.2393143352496832,
                                            0.2844444444444444, 0.2393143352496832,
                                            0.1184634425280945};
    const double h = lengths_[interval];
    double sum = 0.0;
    for (std::size_t g = 0; g < 5; ++g)
      sum += h * kWeight[g] / std::sqrt(at(c, interval, h * kAt[g])[0]);
    return sum;
  }
  // What the value at a knot counts in the whole duration, by trapezoids.
  [[nodiscard]] double weight(std::size_t knot) const { return 1.0 / slope_[knot]; }
  [[nodiscard]] double here(std::size_t knot) const { return here_[knot]; }

 private:
  [[nodiscard]] double slope_at_knot(const Values& c, std::size_t i) const {
    return slope_[i] * (c[i + 1] - c[i]);
  }

  const Values& lengths_;
  Values here_;   // what x at a knot has of the coefficient before it
  Values slope_;  // and its slope of the difference to the next one
};

class Optimiser {
 public:
  Optimiser(const EasedPath& path, const Arm& arm, const PathLimits& limits)
      : path_(path), arm_(arm), limits_(limits), n_(path.intervals()), spline_(path.lengths) {
    for (const EasedPath::Row& row : path.rows)
      dependence_.push_back(spline_.dependence(row.interval, row.by));
  }

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
      (void)look(c_, here);
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
    for (std::size_t i = 0; i < n_; ++i) {
      std::size_t last = row;
      while (last + 1 < path_.rows.size() && path_.rows[last + 1].interval == i) ++last;
      CurvePiece piece{spline_.duration(c_, i), {}};
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
  static constexpr double kFirstSlack = 0.004;  // of x, where it begins with a coarse solution

  // Gradients and Hessians by the coefficients, of the duration and of the barrier.
  struct Sums {
    Values of_time;
    Values of_barrier;
    BandMatrix time_band;
    BandMatrix barrier_band;
  };

  struct Step {
    Values by;
    double decrement = 0.0;  // how fast the sum falls along it
  };

  [[nodiscard]] EndValues end_of(std::size_t row, Eigen::Index k) const {
    const auto at = static_cast<Eigen::Index>(row);
    const SpeedSpline::Local x = spline_.at(c_, path_.rows[row].interval, path_.rows[row].by);
    return {path_.position(at, k), path_.first(at, k) * std::sqrt(x[0]),
            0.5 * path_.first(at, k) * x[1] + path_.second(at, k) * x[0]};
  }

  [[nodiscard]] double duration() const {
    double sum = 0.0;
    for (std::size_t i = 0; i <= n_; ++i)
      sum += spline_.weight(i) / std::sqrt(spline_.at_knot(c_, i));
    return sum;
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
      const double acceleration = 1.0 / limits_.acceleration[k];
      bounds_.linear.push_back({values(path_.second.col(k), acceleration),
                                values(path_.first.col(k), 0.5 * acceleration)});
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
    double x = std::numeric_limits<double>::infinity();
    const auto keep = [&](double value, double most, double power) {
      if (value != 0.0) x = std::min(x, std::pow(most / std::abs(value), power));
    };
    for (std::size_t i = 0; i < path_.rows.size(); ++i) {
      for (const PathBounds::Linear& bound : bounds_.linear) {
        // Half of what is left goes to each of the two.
        const double left = bound.still.empty() ? 1.0 : 0.5 * (1.0 - std::abs(bound.still[i]));
        keep(bound.of_x[i], left, 1.0);
        if (!bound.by_root.empty()) keep(bound.by_root[i], left, 2.0);
      }
      for (const PathBounds::Jerk& jerk : bounds_.jerks) keep(jerk.of_x[i], 1.0, 2.0 / 3.0);
      for (const PathBounds::Cone& cone : bounds_.cones)
        keep(Vector3(cone.of_x[0][i], cone.of_x[1][i], cone.of_x[2][i]).norm(), 1.0, 1.0);
    }
    c_.assign(n_ + 2, 0.5 * x);
  }

  // A little slower than what was found with fewer intervals, so that all bounds are kept. False
  // where that does not help.
  bool start_near(const Optimiser& coarse, Sums& here) {
    const Values there = coarse.spline_.values_at(coarse.c_, spline_.places());
    for (double slack = kFirstSlack; slack < 0.5; slack *= 2.0) {
      c_ = there;
      for (double& c : c_) c *= 1.0 - slack;
      if (look(c_, here)) return true;
    }
    return false;
  }

  // The weight of the barrier at which neither a little more speed nor a little less is better.
  [[nodiscard]] double balance(const Sums& here) const {
    double time = 0.0;
    double barrier = 0.0;
    for (std::size_t i = 0; i < c_.size(); ++i) {
      time += here.of_time[i] * c_[i];
      barrier += here.of_barrier[i] * c_[i];
    }
    return -time / barrier;
  }

  // False where a bound is not kept, or x might not be above zero between rows.
  bool look(const Values& c, Sums& out) {
    for (std::size_t i = 0; i < n_; ++i)
      if (!(spline_.least(c, i) > 0.0)) return false;
    x_.assign(bounds_.count, 1.0);
    slopes_.assign(bounds_.count, 0.0);
    bends_.assign(bounds_.count, 0.0);
    for (std::size_t i = 0; i < path_.rows.size(); ++i) {
      const SpeedSpline::Local at = spline_.at(c, path_.rows[i].interval, path_.rows[i].by);
      x_[i] = at[0];
      slopes_[i] = at[1];
      bends_[i] = at[2];
    }
    if (!path_barrier(bounds_, x_, slopes_, bends_, barrier_)) return false;
    out.of_barrier.assign(n_ + 2, 0.0);
    out.barrier_band.clear(n_ + 2);
    for (std::size_t i = 0; i < path_.rows.size(); ++i)
      spread(i, path_.rows[i].interval, out.of_barrier, out.barrier_band);
    out.of_time.assign(n_ + 2, 0.0);
    out.time_band.clear(n_ + 2);
    for (std::size_t i = 0; i <= n_; ++i) {
      const double x = spline_.at_knot(c, i);
      const double slope = -0.5 * spline_.weight(i) / (x * std::sqrt(x));
      const double bend = -1.5 * slope / x;
      const double a = spline_.here(i);
      const double b = 1.0 - a;
      out.of_time[i] += a * slope;
      out.of_time[i + 1] += b * slope;
      out.time_band.of[0][i] += a * a * bend;
      out.time_band.of[0][i + 1] += b * b * bend;
      out.time_band.of[1][i + 1] += a * b * bend;
    }
    return true;
  }

  // From x, its slope and bend to the three coefficients that they come from.
  void spread(std::size_t row, std::size_t first, Values& gradient, BandMatrix& band) const {
    const auto& h = barrier_.hessian;
    const SpeedSpline::Dependence& by = dependence_[row];
    for (std::size_t i = 0; i < 3; ++i) {
      const double v = by[0][i];
      const double s = by[1][i];
      const double b = by[2][i];
      gradient[first + i] += barrier_.gradient[0][row] * v + barrier_.gradient[1][row] * s +
                             barrier_.gradient[2][row] * b;
      const double by_value = h[0][row] * v + h[1][row] * s + h[3][row] * b;
      const double by_slope = h[1][row] * v + h[2][row] * s + h[4][row] * b;
      const double by_bend = h[3][row] * v + h[4][row] * s + h[5][row] * b;
      for (std::size_t j = 0; j <= i; ++j)
        band.of[i - j][first + i] += by_value * by[0][j] + by_slope * by[1][j] + by_bend * by[2][j];
    }
  }

  [[nodiscard]] Step newton_step(const Sums& here, double mu) const {
    Step out;
    BandMatrix band = here.time_band;
    for (std::size_t d = 0; d < 3; ++d)
      for (std::size_t i = 0; i < n_ + 2; ++i) band.of[d][i] += mu * here.barrier_band.of[d][i];
    Values gradient(n_ + 2);
    for (std::size_t i = 0; i < n_ + 2; ++i)
      gradient[i] = here.of_time[i] + mu * here.of_barrier[i];
    out.by.resize(n_ + 2);
    for (std::size_t i = 0; i < n_ + 2; ++i) out.by[i] = -gradient[i];
    solve(band, out.by);
    for (std::size_t i = 0; i < n_ + 2; ++i) out.decrement -= gradient[i] * out.by[i];
    return out;
  }

  // As much of the step as stays inside and does not lead up again steeper than it led down. Gives
  // the share of it, and what is there.
  double advance(const Step& step, double mu, Sums& here) {
    tried_.resize(c_.size());
    for (double share = 1.0; share > 1e-6; share *= 0.6) {
      for (std::size_t i = 0; i < c_.size(); ++i) tried_[i] = c_[i] + share * step.by[i];
      if (!look(tried_, there_)) continue;
      double slope = 0.0;
      for (std::size_t i = 0; i < c_.size(); ++i)
        slope += step.by[i] * (there_.of_time[i] + mu * there_.of_barrier[i]);
      if (slope > 0.5 * step.decrement) continue;
      c_.swap(tried_);
      std::swap(here, there_);
      return share;
    }
    return 0.0;
  }

  const EasedPath& path_;
  const Arm& arm_;
  const PathLimits& limits_;
  std::size_t n_;
  SpeedSpline spline_;
  std::vector<SpeedSpline::Dependence> dependence_;  // of each row
  PathEfforts efforts_;
  PathBounds bounds_{path_.rows.size()};
  PathBarrier barrier_;
  Values x_;  // at each row
  Values slopes_;
  Values bends_;
  Values c_;  // the spline's coefficients
  Values tried_;
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
