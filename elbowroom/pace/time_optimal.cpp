#include "elbowroom/pace/time_optimal.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "elbowroom/pace/grid_pieces.hpp"
#include "elbowroom/pace/grid_torques.hpp"
#include "elbowroom/pace/path_efforts.hpp"
#include "elbowroom/pace/path_grid.hpp"
#include "elbowroom/pace/path_tool.hpp"
#include "elbowroom/pace/progress_passes.hpp"

namespace er {
namespace {

constexpr double kEndless = std::numeric_limits<double>::infinity();
constexpr int kIntervals = 1000;
constexpr int kIntervalsForTorques = 3000;
constexpr int kMostDampedPasses = 12;
constexpr double kWorthRefining = 1.001;
constexpr double kBeyondAll = 1e100;

class Optimal {
 public:
  Optimal(const JointCurve& path, const Arm& arm, const PathLimits& limits,
          const TimeOptimalOptions& options)
      : path_(path), arm_(arm), limits_(limits), dof_(path.dof()) {
    // Where nothing but the joints' own limits holds, a straight line has the same ones throughout.
    const bool joints_alone =
        limits.link < 0 && limits.caps.empty() && limits.frames.empty() && !limits.torques;
    make_grid(options, joints_alone);
    bound_speeds();
  }

  // A no where the arm cannot even be held still.
  [[nodiscard]] std::optional<Reason> solve() {
    PathEfforts efforts;
    std::optional<ArmDynamics> dynamics;
    if (limits_.torques) {
      dynamics.emplace(arm_, limits_.torques->dynamics);
      efforts = path_efforts(*dynamics, {grid_.position, grid_.slope, grid_.curvature, grid_.slope},
                             true);
      if (auto reason = too_heavy_to_hold(efforts.still, limits_.torques->most, arm_))
        return reason;
    }
    if (efforts.by_rate.size() > 0)
      solve_damped(efforts);
    else
      quickest_progress(grid_limits(efforts), x_);
    paced_.emplace(grid_, x_);
    slowed_ = std::max(1.0, stretch_to_keep(*paced_, limits_, straight_intervals_));
    if (!limits_.torques) return std::nullopt;
    const auto for_torque =
        stretch_for_torque(*paced_, efforts, arm_, *dynamics, limits_.torques->most, slowed_);
    if (!for_torque) return for_torque.reason();
    slowed_ = *for_torque;
    return std::nullopt;
  }

  // Slowed by what joints and motors would exceed between points of the grid.
  [[nodiscard]] KeptMotion motion() const {
    std::vector<CurvePiece> pieces;
    pieces.reserve(grid_.intervals() + 2 * straight_intervals_.size());
    std::size_t next = 0;
    for (const std::size_t i : straight_intervals_) {
      add_grid_pieces(*paced_, next, i, slowed_, pieces);
      add_straight(i, slowed_, pieces);
      next = i + 1;
    }
    add_grid_pieces(*paced_, next, grid_.intervals(), slowed_, pieces);
    return {Motion(std::move(pieces)), slowed_};
  }

  [[nodiscard]] int intervals() const { return static_cast<int>(grid_.intervals()); }

 private:
  static bool is_straight(const CurvePiece& piece) {
    for (const Quintic& c : piece.joints)
      for (std::size_t power = 2; power < 6; ++power)
        if (c[power] != 0.0) return false;
    return true;
  }

  void make_grid(const TimeOptimalOptions& options, bool lines_at_once) {
    const double step = path_.duration() / std::max(options.intervals, 1);
    std::vector<int> counts;
    std::size_t points = 0;
    for (const CurvePiece& piece : path_.pieces()) {
      const bool straight = lines_at_once && is_straight(piece);
      if (straight) straight_intervals_.push_back(points);
      counts.push_back(straight ? 1
                                : std::max(16, static_cast<int>(std::ceil(piece.duration / step))));
      points += static_cast<std::size_t>(counts.back());
    }
    grid_ = path_grid(path_, counts);
  }

  // most_, and the tool's ways where it has limits.
  void bound_speeds() {
    const auto points = static_cast<Eigen::Index>(grid_.points());
    Eigen::ArrayXd use = velocity_use(grid_, limits_);
    if (limits_.link >= 0) {
      follow_tool();
      use = use.max(tool_slope_.rowwise().norm().array() / limits_.tool_speed);
    }
    if (const LimitedFrames frames(arm_, limits_.frames); !frames.empty())
      for (Eigen::Index i = 0; i < points; ++i)
        use[i] = std::max(
            use[i], frames.use(grid_.position.row(i).transpose(), grid_.slope.row(i).transpose()));
    if (!limits_.caps.empty())
      for (Eigen::Index i = 0; i < points; ++i)
        use[i] /= cap_at(limits_, grid_.at[static_cast<std::size_t>(i)]);
    most_.resize(grid_.points());
    Eigen::Map<Eigen::ArrayXd>(most_.data(), points) = use.square().inverse().min(kBeyondAll);
  }

  void follow_tool() {
    for (PostureRows* rows : {&tool_slope_, &tool_curvature_})
      rows->resize(grid_.position.rows(), 3);
    for (Eigen::Index i = 0; i < grid_.position.rows(); ++i) {
      const PathTool tool =
          path_tool(arm_, limits_.link, limits_.tip, grid_.position.row(i).transpose(),
                    grid_.slope.row(i).transpose(), grid_.curvature.row(i).transpose());
      tool_slope_.row(i) = tool.slope.transpose();
      tool_curvature_.row(i) = tool.curvature.transpose();
    }
  }

  // What holds at each point of the grid beside the speeds.
  [[nodiscard]] GridLimits grid_limits(const PathEfforts& efforts) const {
    GridLimits out{grid_.lengths, most_};
    for (Eigen::Index k = 0; k < dof_; ++k) {
      const WayLimits own = limits_.acceleration_of(k);
      out.linear.push_back(
          {grid_.slope.col(k).data(), grid_.curvature.col(k).data(), nullptr, own.low, own.high});
    }
    for (Eigen::Index k = 0; limits_.torques && k < dof_; ++k)
      if (const double most = limits_.torques->most[k]; std::isfinite(most))
        out.linear.push_back({efforts.by_growth.col(k).data(), efforts.by_square.col(k).data(),
                              efforts.still.col(k).data(), -most, most});
    if (!std::isfinite(limits_.tool_acceleration)) return out;
    GridLimits::Cone cone{{}, {}, limits_.tool_acceleration};
    for (std::size_t axis = 0; axis < 3; ++axis) {
      cone.by_growth[axis] = tool_slope_.col(static_cast<Eigen::Index>(axis)).data();
      cone.by_square[axis] = tool_curvature_.col(static_cast<Eigen::Index>(axis)).data();
    }
    out.cones.push_back(cone);
    return out;
  }

  // Damping grows with the root of x, so it is taken at the speeds that were found before.
  void solve_damped(const PathEfforts& efforts) {
    cap_damping(efforts);
    PathEfforts damped = efforts;
    double before = 0.0;
    for (int pass = 0; pass < kMostDampedPasses; ++pass) {
      quickest_progress(grid_limits(damped), x_);
      const PacedGrid paced(grid_, x_);
      const double now = std::accumulate(paced.duration.begin(), paced.duration.end(), 0.0);
      if (std::abs(now - before) < 1e-5 * now) break;
      before = now;
      const Eigen::Map<const Eigen::VectorXd> speed(paced.speed.data(), efforts.still.rows());
      damped.still = efforts.still + speed.asDiagonal() * efforts.by_rate;
    }
  }

  // Speeds at which damping leaves a motor next to nothing to accelerate with.
  void cap_damping(const PathEfforts& efforts) {
    constexpr double kShare = 0.95;
    for (std::size_t i = 0; i < grid_.points(); ++i)
      for (Eigen::Index k = 0; k < dof_; ++k) {
        const auto row = static_cast<Eigen::Index>(i);
        const double rate = efforts.by_rate(row, k);
        if (rate == 0.0) continue;
        const double left =
            limits_.torques->most[k] - std::copysign(1.0, rate) * efforts.still(row, k);
        most_[i] = std::min(most_[i], std::pow(kShare * left / rate, 2));
      }
  }

  // Along a straight line: up to the highest speed that the rest of it leaves room for, a cruise
  // where that is the limit, and down.
  void add_straight(std::size_t i, double slowed, std::vector<CurvePiece>& pieces) const {
    const double length = grid_.lengths[i];
    double rise = kEndless;  // of the acceleration of progress, and of what slows it down
    double fall = kEndless;
    for (Eigen::Index k = 0; k < dof_; ++k) {
      const double slope = grid_.slope(static_cast<Eigen::Index>(i), k);
      if (slope == 0.0) continue;
      const WayLimits own = limits_.acceleration_of(k);
      rise = std::min(rise, (slope > 0.0 ? own.high : own.low) / slope);
      fall = std::min(fall, -(slope > 0.0 ? own.low : own.high) / slope);
    }
    // Where what it rises to meets what it has to fall from.
    const double met =
        (x_[i] * fall + x_[i + 1] * rise + 2.0 * rise * fall * length) / (rise + fall);
    const double peak = std::min(most_[i], met);
    const double up = std::max(peak - x_[i], 0.0) / (2.0 * rise);
    const double down = std::max(peak - x_[i + 1], 0.0) / (2.0 * fall);
    const auto part = [&](double from, double to, double x, double next, double growth) {
      if (to - from > 1e-12 * length)
        pieces.push_back(slower(straight_part(i, from, to, x, next, growth), slowed));
    };
    part(0.0, up, x_[i], peak, rise);
    part(up, length - down, peak, peak, 0.0);
    part(length - down, length, peak, x_[i + 1], -fall);
  }

  // From one speed (squared) to another. `growth` is half the difference over the way: where that
  // is next to nothing, the difference is rounding.
  [[nodiscard]] CurvePiece straight_part(std::size_t i, double from, double to, double x,
                                         double next, double growth) const {
    const double speed = std::sqrt(x);
    const auto row = static_cast<Eigen::Index>(i);
    CurvePiece piece{2.0 * (to - from) / (speed + std::sqrt(next)), {}};
    for (Eigen::Index k = 0; k < dof_; ++k) {
      const double slope = grid_.slope(row, k);
      piece.joints.push_back({grid_.position(row, k) + from * slope, speed * slope,
                              0.5 * growth * slope, 0.0, 0.0, 0.0});
    }
    return piece;
  }

  const JointCurve& path_;
  const Arm& arm_;
  const PathLimits& limits_;
  Eigen::Index dof_;
  std::vector<std::size_t> straight_intervals_;  // that are all of a piece of the path
  PathGrid grid_;
  std::vector<double> most_;  // x of each point by the limits of velocity
  PostureRows tool_slope_;    // the tool's way at each point, and how it bends
  PostureRows tool_curvature_;
  std::vector<double> x_;
  std::optional<PacedGrid> paced_;
  double slowed_ = 1.0;
};

}  // namespace

Verdict<TimeOptimal> time_optimal(const JointCurve& path, const Arm& arm, const PathLimits& limits,
                                  const TimeOptimalOptions& options) {
  check_path(path, limits);
  TimeOptimalOptions now = options;
  if (now.intervals == 0) now.intervals = limits.torques ? kIntervalsForTorques : kIntervals;
  for (;; now.intervals *= 4, --now.refinements) {
    Optimal optimal(path, arm, limits, now);
    if (auto reason = optimal.solve()) return *reason;
    KeptMotion kept = optimal.motion();
    if (const double for_tool = tool_stretch(kept.motion, arm, limits); for_tool > 1.0) {
      kept.motion = kept.motion.stretched(for_tool);
      kept.slowed *= for_tool;
    }
    if (kept.slowed <= kWorthRefining || now.refinements <= 0)
      return TimeOptimal{std::move(kept.motion), optimal.intervals(), kept.slowed};
  }
}

}  // namespace er
