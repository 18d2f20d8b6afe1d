#include "elbowroom/pace/time_optimal.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/pace/path_efforts.hpp"
#include "elbowroom/pace/path_tool.hpp"

namespace er {
namespace {

constexpr double kEndless = std::numeric_limits<double>::infinity();
constexpr int kMostDampedPasses = 12;
constexpr double kWorthRefining = 1.001;

// The path at one point of the grid.
struct GridPoint {
  double s = 0.0;
  std::size_t piece = 0;   // of the path, that the interval after it lies in
  double most = kEndless;  // x by the velocity limits
  PathTool tool = {};
};

// A bound on u as a function of x near some x: its value and how that changes.
struct Bound {
  double value = kEndless;
  double slope = 0.0;
};

// The limits of one interval. Of each low <= p u + r x <= high, with p > 0: u is between
// low / p - d x and high / p - d x, where d = r / p. Where p vanishes, x alone is bounded.
class IntervalLimits {
 public:
  explicit IntervalLimits(double length) : over_(1.0 / (2.0 * length)) {}

  void add(double p, double r, double most) { add(p, r, -most, most); }
  // `low` is below zero and `high` above.
  void add(double p, double r, double low, double high) {
    if (p < 0.0) {
      p = -p;
      r = -r;
      std::swap(low, high);
      low = -low;
      high = -high;
    }
    if (p <= 1e-12 * std::abs(r)) {
      if (r != 0.0) most_ = std::min(most_, r > 0.0 ? high / r : low / r);
      return;
    }
    if (p == 0.0) return;
    const double inverse = 1.0 / p;
    low_[count_] = low * inverse;
    high_[count_] = high * inverse;
    d_[count_] = r * inverse;
    ++count_;
  }

  // |p u + r x| <= most, of vectors: an ellipse, or a strip.
  void add_cone(const Vector3& p, const Vector3& r, double most) {
    const double pp = p.squaredNorm();
    if (pp < 1e-24) {
      add(0.0, r.norm(), most);
      return;
    }
    Cone cone{p.dot(r) / pp, 0.0, pp, most};
    cone.across = std::max(r.squaredNorm() - cone.ratio * cone.ratio * pp, 0.0);
    // A little inside of its widest x, where its range of u closes with an endless slope.
    if (cone.across > 0.0) most_ = std::min(most_, (1.0 - 1e-9) * most / std::sqrt(cone.across));
    cones_[cone_count_++] = cone;
  }

  // The largest x up to `most` from which an u leads to no more than `next` at the far end. The
  // ends of the range of u are concave and convex in x, so going to where their tangents cross
  // never passes the answer.
  [[nodiscard]] double largest(double most, double next) const {
    double x = std::min(most, most_);
    for (int i = 0; i < 100; ++i) {
      Bound low;
      Bound high;
      range(x, low, high);
      const double end = (next - x) * over_;
      if (end < high.value) high = {end, -over_};
      const double gap = high.value - low.value;
      if (gap >= 0.0) return x;
      const double lower = x - gap / (high.slope - low.slope);
      if (!(lower > 0.0)) return 0.0;
      if (lower >= x * (1.0 - 1e-15)) return lower;
      x = lower;
    }
    return x;
  }

  // The largest u at x that leads to no more than `next`.
  [[nodiscard]] double quickest(double x, double next) const {
    Bound low;
    Bound high;
    range(x, low, high);
    return std::max(std::min(high.value, (next - x) * over_), low.value);
  }

 private:
  struct Cone {
    double ratio = 0.0;   // p.r / p.p
    double across = 0.0;  // the part of r across p, squared
    double pp = 0.0;
    double most = 0.0;
  };

  void range(double x, Bound& low, Bound& high) const {
    low = {-x * over_, -over_};  // the velocity must not turn round
    high = {kEndless, 0.0};
    for (std::size_t k = 0; k < count_; ++k) {
      const double middle = -d_[k] * x;
      if (middle + high_[k] < high.value) high = {middle + high_[k], -d_[k]};
      if (middle + low_[k] > low.value) low = {middle + low_[k], -d_[k]};
    }
    for (std::size_t k = 0; k < cone_count_; ++k) {
      const Cone& cone = cones_[k];
      const double left = std::max(cone.most * cone.most - cone.across * x * x, 0.0);
      const double half = std::sqrt(left / cone.pp);
      const double bend = half > 0.0 ? -cone.across * x / (cone.pp * half) : 0.0;
      const double middle = -cone.ratio * x;
      if (middle + half < high.value) high = {middle + half, bend - cone.ratio};
      if (middle - half > low.value) low = {middle - half, -bend - cone.ratio};
    }
  }

  double over_;
  double most_ = kEndless;
  std::size_t count_ = 0;
  std::size_t cone_count_ = 0;
  static constexpr std::size_t kMostRows = 4 * kMaxJoints;
  std::array<double, kMostRows> low_;   // NOLINT: not initialised
  std::array<double, kMostRows> high_;  // NOLINT: not initialised
  std::array<double, kMostRows> d_;     // NOLINT: not initialised
  std::array<Cone, 2> cones_ = {};
};

class Optimal {
 public:
  Optimal(const JointCurve& path, const Arm& arm, const PathLimits& limits,
          const TimeOptimalOptions& options)
      : path_(path), arm_(arm), limits_(limits), dof_(path.dof()) {
    // Where nothing but the joints' own limits holds, a straight line has the same ones throughout.
    const bool joints_alone = limits.link < 0 && limits.caps.empty() && !limits.torques;
    for (const CurvePiece& piece : path.pieces())
      straight_.push_back(joints_alone && is_straight(piece));
    make_grid(options);
  }

  // A no where the arm cannot even be held still.
  [[nodiscard]] std::optional<Reason> solve() {
    x_.assign(grid_.size(), 0.0);
    bool damped = false;
    if (limits_.torques) {
      const DynamicsOptions& dynamics = limits_.torques->dynamics;
      efforts_ = even_efforts(arm_, dynamics, position_, slope_, curvature_, slope_);
      by_growth_ = efforts_by_growth(arm_, dynamics, position_, slope_);
      if (auto reason = too_heavy_to_hold(efforts_.still, limits_.torques->most, arm_))
        return reason;
      damped = !efforts_.by_rate.isZero(0.0);
      if (damped) cap_damping();
    }
    // Damping grows with the root of x, so it is taken at the speeds that were found before.
    still_ = efforts_.still;
    double before = 0.0;
    for (int pass = 0; pass < kMostDampedPasses; ++pass) {
      backward();
      forward();
      const double now = whole_duration();
      if (!damped || std::abs(now - before) < 1e-5 * now) break;
      before = now;
      still_ = efforts_.still + damping_at_found_speeds();
    }
    return std::nullopt;
  }

  [[nodiscard]] int intervals() const { return static_cast<int>(grid_.size()) - 1; }

  [[nodiscard]] Motion motion() const {
    std::vector<CurvePiece> pieces;
    for (std::size_t i = 0; i + 1 < grid_.size(); ++i) {
      if (straight_[grid_[i].piece])
        add_straight(i, pieces);
      else
        pieces.push_back(curved(i));
    }
    return Motion(std::move(pieces));
  }

 private:
  static bool is_straight(const CurvePiece& piece) {
    for (const Quintic& c : piece.joints)
      for (std::size_t power = 2; power < 6; ++power)
        if (c[power] != 0.0) return false;
    return true;
  }

  void make_grid(const TimeOptimalOptions& options) {
    const double step = path_.duration() / std::max(options.intervals, 1);
    std::vector<int> counts;
    Eigen::Index rows = 1;
    for (std::size_t piece = 0; piece < path_.pieces().size(); ++piece) {
      const double length = path_.pieces()[piece].duration;
      counts.push_back(straight_[piece] ? 1
                                        : std::max(16, static_cast<int>(std::ceil(length / step))));
      rows += counts.back();
    }
    for (PostureRows* values : {&position_, &slope_, &curvature_}) values->resize(rows, dof_);
    grid_.reserve(static_cast<std::size_t>(rows));
    double start = 0.0;
    for (std::size_t piece = 0; piece < counts.size(); ++piece) {
      const double length = path_.pieces()[piece].duration;
      const bool is_last = piece + 1 == counts.size();
      for (int i = 0; i < counts[piece] + (is_last ? 1 : 0); ++i)
        add_point(piece, start, length * i / counts[piece]);
      start += length;
    }
  }

  void add_point(std::size_t piece, double start, double t) {
    GridPoint out;
    out.s = start + t;
    out.piece = piece;
    const auto row = static_cast<Eigen::Index>(grid_.size());
    const double share = cap_at(limits_, out.s);
    double most = kEndless;  // of ds/dt
    for (Eigen::Index k = 0; k < dof_; ++k) {
      const ValueAndDerivatives at =
          all_at(path_.pieces()[piece].joints[static_cast<std::size_t>(k)], t);
      position_(row, k) = at.value;
      slope_(row, k) = at.first;
      curvature_(row, k) = at.second;
      if (at.first != 0.0) most = std::min(most, share * limits_.velocity[k] / std::abs(at.first));
    }
    if (limits_.link >= 0) {
      out.tool = path_tool(arm_, limits_.link, limits_.tip, position_.row(row).transpose(),
                           slope_.row(row).transpose(), curvature_.row(row).transpose());
      if (const double slope = out.tool.slope.norm(); slope > 0.0)
        most = std::min(most, share * limits_.tool_speed / slope);
    }
    out.most = most * most;
    grid_.push_back(out);
  }

  // Of the interval after a point: at both of its ends, x at the far one being x + 2 length u.
  [[nodiscard]] IntervalLimits limits_after(std::size_t i) const {
    const double twice = 2.0 * (grid_[i + 1].s - grid_[i].s);
    IntervalLimits out(0.5 * twice);
    const auto row = static_cast<Eigen::Index>(i);
    for (Eigen::Index k = 0; k < dof_; ++k) {
      const double most = limits_.acceleration[k];
      out.add(slope_(row, k), curvature_(row, k), most);
      if (straight_[grid_[i].piece]) continue;
      out.add(slope_(row + 1, k) + twice * curvature_(row + 1, k), curvature_(row + 1, k), most);
    }
    if (limits_.torques)
      for (Eigen::Index k = 0; k < dof_; ++k) {
        add_torque(row, k, 0.0, out);
        add_torque(row + 1, k, twice, out);
      }
    if (!std::isfinite(limits_.tool_acceleration)) return out;
    const PathTool& a = grid_[i].tool;
    const PathTool& b = grid_[i + 1].tool;
    out.add_cone(a.slope, a.curvature, limits_.tool_acceleration);
    out.add_cone(b.slope + twice * b.curvature, b.curvature, limits_.tool_acceleration);
    return out;
  }

  // At one end of an interval, where x is that at its beginning and `twice` u.
  void add_torque(Eigen::Index row, Eigen::Index k, double twice, IntervalLimits& out) const {
    const double most = limits_.torques->most[k];
    if (!std::isfinite(most)) return;
    const double still = still_(row, k);
    const double r = efforts_.by_square(row, k);
    out.add(by_growth_(row, k) + twice * r, r, -most - still, most - still);
  }

  // Speeds at which damping leaves a motor next to nothing to accelerate with.
  void cap_damping() {
    constexpr double kShare = 0.95;
    for (std::size_t i = 0; i < grid_.size(); ++i)
      for (Eigen::Index k = 0; k < dof_; ++k) {
        const auto row = static_cast<Eigen::Index>(i);
        const double rate = efforts_.by_rate(row, k);
        if (rate == 0.0) continue;
        const double left =
            limits_.torques->most[k] - std::copysign(1.0, rate) * efforts_.still(row, k);
        grid_[i].most = std::min(grid_[i].most, std::pow(kShare * left / rate, 2));
      }
  }

  [[nodiscard]] PostureRows damping_at_found_speeds() const {
    PostureRows out = efforts_.by_rate;
    for (std::size_t i = 0; i < grid_.size(); ++i)
      out.row(static_cast<Eigen::Index>(i)) *= std::sqrt(x_[i]);
    return out;
  }

  // x_: the largest from which the rest can be kept, to rest at the end.
  void backward() {
    x_.back() = 0.0;
    for (std::size_t i = grid_.size() - 1; i-- > 0;)
      x_[i] = limits_after(i).largest(grid_[i].most, x_[i + 1]);
    x_[0] = 0.0;
  }

  void forward() {
    for (std::size_t i = 0; i + 1 < grid_.size(); ++i) {
      const double length = grid_[i + 1].s - grid_[i].s;
      const double u = limits_after(i).quickest(x_[i], x_[i + 1]);
      x_[i + 1] = std::clamp(x_[i] + 2.0 * length * u, 0.0, x_[i + 1]);
    }
  }

  // Over the interval after a point.
  [[nodiscard]] double acceleration(std::size_t i) const {
    return (x_[i + 1] - x_[i]) / (2.0 * (grid_[i + 1].s - grid_[i].s));
  }
  [[nodiscard]] double duration(std::size_t i) const {
    return 2.0 * (grid_[i + 1].s - grid_[i].s) / (std::sqrt(x_[i]) + std::sqrt(x_[i + 1]));
  }

  [[nodiscard]] double whole_duration() const {
    double sum = 0.0;
    for (std::size_t i = 0; i + 1 < grid_.size(); ++i) sum += duration(i);
    return sum;
  }

  // Along a straight line: up to the highest speed that the rest of it leaves room for, a cruise
  // where that is the limit, and down.
  void add_straight(std::size_t i, std::vector<CurvePiece>& pieces) const {
    const double length = grid_[i + 1].s - grid_[i].s;
    double most = kEndless;  // of the acceleration of progress
    for (Eigen::Index k = 0; k < dof_; ++k)
      if (const double slope = std::abs(slope_(static_cast<Eigen::Index>(i), k)); slope > 0.0)
        most = std::min(most, limits_.acceleration[k] / slope);
    const double peak = std::min(grid_[i].most, 0.5 * (x_[i] + x_[i + 1]) + length * most);
    const double up = std::max(peak - x_[i], 0.0) / (2.0 * most);
    const double down = std::max(peak - x_[i + 1], 0.0) / (2.0 * most);
    add_straight(i, 0.0, up, x_[i], peak, pieces);
    add_straight(i, up, length - down, peak, peak, pieces);
    add_straight(i, length - down, length, peak, x_[i + 1], pieces);
  }

  // Part of it, from one speed (squared) to another.
  void add_straight(std::size_t i, double from, double to, double x, double next,
                    std::vector<CurvePiece>& pieces) const {
    if (to - from <= 1e-12 * (grid_[i + 1].s - grid_[i].s)) return;
    const double speed = std::sqrt(x);
    const double u = (next - x) / (2.0 * (to - from));
    const auto row = static_cast<Eigen::Index>(i);
    CurvePiece piece{2.0 * (to - from) / (speed + std::sqrt(next)), {}};
    piece.joints.reserve(static_cast<std::size_t>(dof_));
    for (Eigen::Index k = 0; k < dof_; ++k) {
      const double slope = slope_(row, k);
      piece.joints.push_back(
          {position_(row, k) + from * slope, speed * slope, 0.5 * u * slope, 0.0, 0.0, 0.0});
    }
    pieces.push_back(std::move(piece));
  }

  [[nodiscard]] CurvePiece curved(std::size_t i) const {
    const double u = acceleration(i);
    const double first = std::sqrt(x_[i]);
    const double last = std::sqrt(x_[i + 1]);
    CurvePiece piece{duration(i), {}};
    piece.joints.reserve(static_cast<std::size_t>(dof_));
    const auto a = static_cast<Eigen::Index>(i);
    const Eigen::Index b = a + 1;
    for (Eigen::Index k = 0; k < dof_; ++k)
      piece.joints.push_back(quintic_between(
          {position_(a, k), first * slope_(a, k), u * slope_(a, k) + x_[i] * curvature_(a, k)},
          {position_(b, k), last * slope_(b, k), u * slope_(b, k) + x_[i + 1] * curvature_(b, k)},
          piece.duration));
    return piece;
  }

  const JointCurve& path_;
  const Arm& arm_;
  const PathLimits& limits_;
  Eigen::Index dof_;
  std::vector<bool> straight_;  // pieces of the path
  std::vector<GridPoint> grid_;
  PostureRows position_;  // of each grid point, and its derivatives by s
  PostureRows slope_;
  PostureRows curvature_;
  EvenEfforts efforts_;
  PostureRows by_growth_;
  PostureRows still_;  // of the efforts, with damping at the speed that is expected
  std::vector<double> x_;
};

}  // namespace

Verdict<TimeOptimal> time_optimal(const JointCurve& path, const Arm& arm, const PathLimits& limits,
                                  const TimeOptimalOptions& options) {
  check_path(path, limits);
  PathLimits own = limits;
  own.jerk = {};
  TimeOptimalOptions now = options;
  for (;; now.intervals *= 4, --now.refinements) {
    Optimal optimal(path, arm, limits, now);
    if (auto reason = optimal.solve()) return *reason;
    auto kept = kept_within(optimal.motion(), arm, own);
    if (!kept) return kept.reason();
    if (kept->slowed <= kWorthRefining || now.refinements <= 0)
      return TimeOptimal{std::move(kept->motion), optimal.intervals(), kept->slowed};
  }
}

}  // namespace er
