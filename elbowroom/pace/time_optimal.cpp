#include "elbowroom/pace/time_optimal.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

constexpr double kEndless = std::numeric_limits<double>::infinity();

// The path at one point of the grid.
struct GridPoint {
  double s = 0.0;
  std::size_t piece = 0;   // of the path, that the interval after it lies in
  double most = kEndless;  // x by the velocity limits
  Vector3 tool_slope = Vector3::Zero();
  Vector3 tool_curvature = Vector3::Zero();
};

// A bound on u as a function of x near some x: its value and how that changes.
struct Bound {
  double value = kEndless;
  double slope = 0.0;
};

// The limits of one interval. Of each |p u + r x| <= a, with p > 0: u is between -c - d x and
// c - d x, where c = a / p and d = r / p. Where p vanishes, x alone is bounded.
class IntervalLimits {
 public:
  explicit IntervalLimits(double length) : over_(1.0 / (2.0 * length)) {}

  void add(double p, double r, double most) {
    if (p < 0.0) {
      p = -p;
      r = -r;
    }
    if (p <= 1e-12 * std::abs(r)) {
      if (r != 0.0) most_ = std::min(most_, most / std::abs(r));
      return;
    }
    if (p == 0.0) return;
    c_[count_] = most / p;
    d_[count_] = r / p;
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
      if (middle + c_[k] < high.value) high = {middle + c_[k], -d_[k]};
      if (middle - c_[k] > low.value) low = {middle - c_[k], -d_[k]};
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
  std::array<double, 2 * kMaxJoints> c_;  // NOLINT: not initialised
  std::array<double, 2 * kMaxJoints> d_;  // NOLINT: not initialised
  std::array<Cone, 2> cones_ = {};
};

class Optimal {
 public:
  Optimal(const JointCurve& path, const Arm& arm, const PathLimits& limits,
          const TimeOptimalOptions& options)
      : path_(path), arm_(arm), limits_(limits), dof_(static_cast<std::size_t>(path.dof())) {
    // Where nothing but the joints' own limits holds, a straight line has the same ones throughout.
    const bool joints_alone = limits.link < 0 && limits.caps.empty();
    for (const CurvePiece& piece : path.pieces())
      straight_.push_back(joints_alone && is_straight(piece));
    make_grid(options);
    x_.assign(grid_.size(), 0.0);
    backward();
    forward();
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
    double start = 0.0;
    for (std::size_t piece = 0; piece < path_.pieces().size(); ++piece) {
      const double length = path_.pieces()[piece].duration;
      const int count =
          straight_[piece] ? 1 : std::max(16, static_cast<int>(std::ceil(length / step)));
      const bool is_last = piece + 1 == path_.pieces().size();
      for (int i = 0; i < count + (is_last ? 1 : 0); ++i)
        add_point(piece, start, length * i / count);
      start += length;
    }
  }

  void add_point(std::size_t piece, double start, double t) {
    GridPoint out;
    out.s = start + t;
    out.piece = piece;
    double share = 1.0;
    for (const StretchCap& cap : limits_.caps)
      if (out.s >= cap.from - 1e-12 && out.s <= cap.to + 1e-12) share = std::min(share, cap.share);
    double most = kEndless;  // of ds/dt
    for (std::size_t k = 0; k < dof_; ++k) {
      const ValueAndDerivatives at = all_at(path_.pieces()[piece].joints[k], t);
      position_.push_back(at.value);
      slope_.push_back(at.first);
      curvature_.push_back(at.second);
      if (at.first != 0.0)
        most = std::min(
            most, share * limits_.velocity[static_cast<Eigen::Index>(k)] / std::abs(at.first));
    }
    if (limits_.link >= 0) {
      tool_derivatives(out, grid_.size());
      if (const double slope = out.tool_slope.norm(); slope > 0.0)
        most = std::min(most, limits_.tool_speed / slope);
    }
    out.most = most * most;
    grid_.push_back(out);
  }

  [[nodiscard]] Eigen::Map<const Posture> row(const std::vector<double>& values,
                                              std::size_t i) const {
    return Eigen::Map<const Posture>(values.data() + i * dof_, static_cast<Eigen::Index>(dof_));
  }

  // The tool's velocity and acceleration per unit of the path, the latter by central differences of
  // the former along the curve's own parabola.
  void tool_derivatives(GridPoint& out, std::size_t i) const {
    const auto velocity = [&](double by) {
      const Posture q =
          row(position_, i) + by * row(slope_, i) + 0.5 * by * by * row(curvature_, i);
      const Posture v = row(slope_, i) + by * row(curvature_, i);
      return point_velocity(arm_, limits_.link, limits_.tip, q, v);
    };
    constexpr double kStep = 1e-5;
    out.tool_slope = velocity(0.0);
    out.tool_curvature = (velocity(kStep) - velocity(-kStep)) / (2.0 * kStep);
  }

  // Of the interval after a point: at both of its ends, x at the far one being x + 2 length u.
  [[nodiscard]] IntervalLimits limits_after(std::size_t i) const {
    const double length = grid_[i + 1].s - grid_[i].s;
    IntervalLimits out(length);
    const std::size_t here = i * dof_;
    const std::size_t there = here + dof_;
    for (std::size_t k = 0; k < dof_; ++k) {
      const double most = limits_.acceleration[static_cast<Eigen::Index>(k)];
      out.add(slope_[here + k], curvature_[here + k], most);
      if (straight_[grid_[i].piece]) continue;
      out.add(slope_[there + k] + 2.0 * length * curvature_[there + k], curvature_[there + k],
              most);
    }
    if (!std::isfinite(limits_.tool_acceleration)) return out;
    const GridPoint& a = grid_[i];
    const GridPoint& b = grid_[i + 1];
    out.add_cone(a.tool_slope, a.tool_curvature, limits_.tool_acceleration);
    out.add_cone(b.tool_slope + 2.0 * length * b.tool_curvature, b.tool_curvature,
                 limits_.tool_acceleration);
    return out;
  }

  // x_: the largest from which the rest can be kept, to rest at the end.
  void backward() {
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

  // Along a straight line: up to the highest speed that the rest of it leaves room for, a cruise
  // where that is the limit, and down.
  void add_straight(std::size_t i, std::vector<CurvePiece>& pieces) const {
    const double length = grid_[i + 1].s - grid_[i].s;
    double most = kEndless;  // of the acceleration of progress
    for (std::size_t k = 0; k < dof_; ++k)
      if (const double slope = std::abs(slope_[i * dof_ + k]); slope > 0.0)
        most = std::min(most, limits_.acceleration[static_cast<Eigen::Index>(k)] / slope);
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
    CurvePiece piece{2.0 * (to - from) / (speed + std::sqrt(next)), {}};
    piece.joints.reserve(dof_);
    for (std::size_t k = i * dof_; k < (i + 1) * dof_; ++k)
      piece.joints.push_back(
          {position_[k] + from * slope_[k], speed * slope_[k], 0.5 * u * slope_[k], 0.0, 0.0, 0.0});
    pieces.push_back(std::move(piece));
  }

  [[nodiscard]] CurvePiece curved(std::size_t i) const {
    const double u = acceleration(i);
    const double first = std::sqrt(x_[i]);
    const double last = std::sqrt(x_[i + 1]);
    CurvePiece piece{duration(i), {}};
    piece.joints.reserve(dof_);
    for (std::size_t a = i * dof_; a < (i + 1) * dof_; ++a) {
      const std::size_t b = a + dof_;
      piece.joints.push_back(quintic_between(
          {position_[a], first * slope_[a], u * slope_[a] + x_[i] * curvature_[a]},
          {position_[b], last * slope_[b], u * slope_[b] + x_[i + 1] * curvature_[b]},
          piece.duration));
    }
    return piece;
  }

  const JointCurve& path_;
  const Arm& arm_;
  const PathLimits& limits_;
  std::size_t dof_;
  std::vector<bool> straight_;  // pieces of the path
  std::vector<GridPoint> grid_;
  std::vector<double> position_;  // of each grid point, joint by joint, and its derivatives by s
  std::vector<double> slope_;
  std::vector<double> curvature_;
  std::vector<double> x_;
};

// What share of its limits the tool uses, the most at a few samples in each piece.
struct ToolUse {
  double speed = 0.0;
  double acceleration = 0.0;
};

ToolUse tool_use(const Motion& motion, const Arm& arm, const PathLimits& limits) {
  ToolUse use;
  if (limits.link < 0) return use;
  // Along one piece's own polynomials: across its ends accelerations jump.
  const auto velocity = [&](const CurvePiece& piece, double t) {
    Posture q(motion.dof());
    Posture v(motion.dof());
    for (Eigen::Index k = 0; k < q.size(); ++k) {
      const ValueAndDerivatives at = all_at(piece.joints[static_cast<std::size_t>(k)], t);
      q[k] = at.value;
      v[k] = at.first;
    }
    return point_velocity(arm, limits.link, limits.tip, q, v);
  };
  for (const CurvePiece& piece : motion.pieces()) {
    constexpr int kSamples = 8;
    const double step = 1e-3 * piece.duration;
    for (int i = 0; i <= kSamples; ++i) {
      const double t = piece.duration * i / kSamples;
      const Vector3 change = velocity(piece, t + step) - velocity(piece, t - step);
      use.speed = std::max(use.speed, velocity(piece, t).norm() / limits.tool_speed);
      use.acceleration =
          std::max(use.acceleration, change.norm() / (2.0 * step) / limits.tool_acceleration);
    }
  }
  return use;
}

void check(const JointCurve& path, const PathLimits& limits) {
  if (path.pieces().empty()) throw InputError("a path of no length needs no time");
  for (const Posture* values : {&limits.velocity, &limits.acceleration}) {
    if (values->size() != path.dof())
      throw InputError(
          fmt::format("there are {} limits for {} joints", values->size(), path.dof()));
    for (Eigen::Index k = 0; k < values->size(); ++k)
      if (!((*values)[k] > 0.0))
        throw InputError(
            fmt::format("the limits of joint {} are above zero, found {:g}", k + 1, (*values)[k]));
  }
  if (!(limits.tool_speed > 0.0) || !(limits.tool_acceleration > 0.0))
    throw InputError("the tool's limits of speed and acceleration are above zero");
  for (const StretchCap& cap : limits.caps)
    if (!(cap.share > 0.0))
      throw InputError(fmt::format("a stretch cannot be gone along at {:g} %", 100.0 * cap.share));
}

}  // namespace

TimeOptimal time_optimal(const JointCurve& path, const Arm& arm, const PathLimits& limits,
                         const TimeOptimalOptions& options) {
  check(path, limits);
  const Optimal found(path, arm, limits, options);
  TimeOptimal out{found.motion(), found.intervals(), 0.0};
  Limits own;
  own.velocity = limits.velocity;
  own.acceleration = limits.acceleration;
  own.jerk = Posture::Constant(path.dof(), kEndless);
  const MotionPeaks peaks = peaks_of(out.motion, own);
  const ToolUse tool = tool_use(out.motion, arm, limits);
  const double velocity = std::max(peaks.velocity.share, tool.speed);
  const double acceleration = std::max(peaks.acceleration.share, tool.acceleration);
  const double stretch = std::max(velocity, std::sqrt(acceleration));
  if (stretch > 1.0) {
    out.motion = out.motion.stretched(stretch);
    out.excess = std::max(velocity, acceleration) - 1.0;
  }
  return out;
}

}  // namespace er
