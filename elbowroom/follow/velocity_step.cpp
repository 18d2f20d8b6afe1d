#include "elbowroom/follow/velocity_step.hpp"

#include <algorithm>
#include <cmath>

#include "elbowroom/base/nearest_in_bands.hpp"
#include "elbowroom/base/row_space.hpp"
#include "elbowroom/base/symmetric.hpp"

namespace er {
namespace {

std::size_t at(int i) { return static_cast<std::size_t>(i); }

// Below this, a row says nothing new: the arm stands in a singularity.
constexpr double kSingular = 1e-8;
// What the rows that say nothing new may be off by, of the command's size, before the arm has to
// stop.
constexpr double kUnsaid = 1e-4;
// And whatever its size: m/s, and rad/s at the rows' radius. What the gain brings back is a
// twentieth of a micrometre then. A command that is nearly nothing is mostly rounding.
constexpr double kNegligible = 1e-6;
// Damping sets in where the Jacobian's smallest part falls below kDampFrom of its largest.
constexpr double kDampFrom = 0.1;
constexpr double kDamping = 0.1;

// All velocities in units of the joints, so that nothing depends on radians and metres.
struct ScaledRows {
  std::array<double, std::size_t{StepQuestion::kMostRows} * kMaxJoints> a;

  explicit ScaledRows(const StepQuestion& q) {
    for (int i = 0; i < q.rows; ++i)
      for (int k = 0; k < q.joints; ++k)
        a[at(i * kMaxJoints + k)] = q.jacobian[at(i)][at(k)] * q.unit[k];
  }
};

double size_of(const std::array<double, StepQuestion::kMostRows>& rows, int count) {
  double square = 0.0;
  for (int i = 0; i < count; ++i) square += rows[at(i)] * rows[at(i)];
  return std::sqrt(square);
}

// u = unit * (fixed + scale * moving + basis y): all that the rows allow.
struct Course {
  std::array<double, kMaxJoints> fixed;
  std::array<double, kMaxJoints> moving;
  std::array<double, std::size_t{kMaxJoints} * kMaxJoints> basis;
  int freedom = 0;
};

class LimitedStep {
 public:
  LimitedStep(const StepQuestion& question, StepAnswer& out) : q_(question), out_(out) {}

  void run() {
    const ScaledRows scaled(q_);
    const RowSpace space(scaled.a.data(), q_.rows, q_.joints, kMaxJoints, kSingular);
    out_.regular = space.rank() < q_.rows ? 0.0 : space.smallest();
    double most = q_.most_scale;
    space.shortest(q_.correction.data(), course_.fixed.data());
    const double unsaid = space.shortest(q_.command.data(), course_.moving.data());
    if (unsaid > kUnsaid * size_of(q_.command, q_.rows) + kNegligible) most = 0.0;
    course_.freedom = q_.joints - space.rank();
    if (course_.freedom > 0) space.free_basis(course_.basis.data());
    out_.on_course = course_.freedom == 0 ? largest_scale_alone(most) : largest_scale(most);
    if (!out_.on_course) stray_least(scaled);
    // The box is kept to the last digit.
    out_.velocity = out_.velocity.cwiseMax(q_.lower).cwiseMin(q_.upper);
  }

 private:
  [[nodiscard]] double lower(int k) const { return q_.lower[k] / q_.unit[k]; }
  [[nodiscard]] double upper(int k) const { return q_.upper[k] / q_.unit[k]; }

  void hold(int joint, bool up) {
    out_.held_by = joint;
    out_.held_up = up;
  }

  // Without freedom: each joint leaves an interval of the scale.
  bool largest_scale_alone(double most) {
    double least = 0.0;
    for (int k = 0; k < q_.joints; ++k) {
      const double w = course_.moving[at(k)];
      const double to_upper = upper(k) - course_.fixed[at(k)];
      const double to_lower = lower(k) - course_.fixed[at(k)];
      if (w == 0.0) {
        if (to_upper < -1e-12 || to_lower > 1e-12) return false;
        continue;
      }
      const double high = (w > 0.0 ? to_upper : to_lower) / w;
      const double low = (w > 0.0 ? to_lower : to_upper) / w;
      if (high < most) {
        most = high;
        hold(k, w > 0.0);
      }
      least = std::max(least, low);
    }
    if (least > most + 1e-12) return false;
    out_.scale = most;
    for (int k = 0; k < q_.joints; ++k)
      out_.velocity[k] = q_.unit[k] * (course_.fixed[at(k)] + most * course_.moving[at(k)]);
    return true;
  }

  // With freedom: try a scale; where no velocity does it, the proof of that is a bound on the
  // scale.
  bool largest_scale(double scale) {
    bands_.columns = course_.freedom;
    bands_.count = q_.joints;
    for (int k = 0; k < q_.joints; ++k)
      for (int c = 0; c < course_.freedom; ++c)
        bands_.rows[at(k)].a[at(c)] = course_.basis[at(c * kMaxJoints + k)];
    for (int tries = 0; tries < 64; ++tries) {
      std::array<double, LinearBands::kMostColumns> wanted{};
      for (int k = 0; k < q_.joints; ++k) {
        const double on_course = course_.fixed[at(k)] + scale * course_.moving[at(k)];
        bands_.rows[at(k)].lower = lower(k) - on_course;
        bands_.rows[at(k)].upper = upper(k) - on_course;
        for (int c = 0; c < course_.freedom; ++c)
          wanted[at(c)] += bands_.rows[at(k)].a[at(c)] * (q_.wish[k] / q_.unit[k] - on_course);
      }
      nearest_in_bands(bands_, wanted.data(), nearest_);
      if (nearest_.outcome == NearestInBands::Outcome::gave_up) return false;
      if (nearest_.outcome == NearestInBands::Outcome::found) return accept(scale);
      // sum m (side - fixed - scale moving) >= 0 must hold and does not.
      double constant = 0.0;
      double slope = 0.0;
      double most = 0.0;
      for (int k = 0; k < q_.joints; ++k) {
        const double m = nearest_.proof[at(k)];
        if (m == 0.0) continue;
        constant += m * ((m > 0.0 ? upper(k) : lower(k)) - course_.fixed[at(k)]);
        slope += m * course_.moving[at(k)];
        if (m * course_.moving[at(k)] > most) {
          most = m * course_.moving[at(k)];
          hold(k, m > 0.0);
        }
      }
      if (!(slope > 0.0) || constant < 0.0) return false;  // no smaller scale would do
      scale = std::min(constant / slope, scale * (1.0 - 1e-15));
    }
    return false;
  }

  bool accept(double scale) {
    out_.scale = scale;
    for (int k = 0; k < q_.joints; ++k) {
      double value = course_.fixed[at(k)] + scale * course_.moving[at(k)];
      for (int c = 0; c < course_.freedom; ++c)
        value += bands_.rows[at(k)].a[at(c)] * nearest_.x[at(c)];
      out_.velocity[k] = q_.unit[k] * value;
    }
    return true;
  }

  // The velocity in the box, and the scale, whose rows are off by the least in the sum of squares;
  // as a nearest point, in coordinates in which that sum is the distance.
  void stray_least(const ScaledRows& scaled) {
    const int n = q_.joints + 1;
    constexpr int kStride = LinearBands::kMostColumns;
    constexpr double kFirm = 1e-6;  // keeps the sum strictly convex
    std::array<double, std::size_t{kStride} * kStride> root;
    std::array<double, kStride> wanted;
    const auto entry = [&](int i, int k) {
      return k < q_.joints ? scaled.a[at(i * kMaxJoints + k)] : -q_.command[at(i)];
    };
    for (int a = 0; a < n; ++a) {
      for (int b = 0; b <= a; ++b) {
        double sum = a == b ? kFirm : 0.0;
        for (int i = 0; i < q_.rows; ++i) sum += entry(i, a) * entry(i, b);
        root[at(a * kStride + b)] = sum;
      }
      const double wish = a < q_.joints ? q_.wish[a] / q_.unit[a] : q_.most_scale;
      wanted[at(a)] = kFirm * wish;
      for (int i = 0; i < q_.rows; ++i) wanted[at(a)] += entry(i, a) * q_.correction[at(i)];
    }
    cholesky_root(root.data(), n, kStride);
    solve_lower(root.data(), n, kStride, wanted.data());
    bands_.columns = n;
    bands_.count = n;
    for (int a = 0; a < n; ++a) {
      LinearBands::Row& row = bands_.rows[at(a)];
      std::fill_n(row.a.begin(), n, 0.0);
      row.a[at(a)] = 1.0;
      solve_lower(root.data(), n, kStride, row.a.data());
      row.lower = a < q_.joints ? lower(a) : 0.0;
      row.upper = a < q_.joints ? upper(a) : q_.most_scale;
    }
    nearest_in_bands(bands_, wanted.data(), nearest_);
    out_.scale = 0.0;
    for (int k = 0; k < q_.joints; ++k) {
      double value = 0.0;  // clamped into the box, this is the hardest braking there is
      if (nearest_.outcome == NearestInBands::Outcome::found)
        for (int c = 0; c < n; ++c) value += bands_.rows[at(k)].a[at(c)] * nearest_.x[at(c)];
      out_.velocity[k] = q_.unit[k] * value;
    }
    if (nearest_.outcome == NearestInBands::Outcome::found)
      for (int c = 0; c < n; ++c)
        out_.scale += bands_.rows[at(q_.joints)].a[at(c)] * nearest_.x[at(c)];
    out_.scale = std::clamp(out_.scale, 0.0, q_.most_scale);
  }

  const StepQuestion& q_;
  StepAnswer& out_;
  Course course_;
  LinearBands bands_;
  NearestInBands nearest_;
};

std::array<double, StepQuestion::kMostRows> whole_command(const StepQuestion& q) {
  std::array<double, StepQuestion::kMostRows> all{};
  for (int i = 0; i < q.rows; ++i)
    all[at(i)] = q.most_scale * q.command[at(i)] + q.correction[at(i)];
  return all;
}

// u = J^T (J J^T + damping^2)^-1 v.
void damped_step(const StepQuestion& q, StepAnswer& out) {
  const ScaledRows scaled(q);
  const RowSpace space(scaled.a.data(), q.rows, q.joints, kMaxJoints, kSingular);
  out.regular = space.rank() < q.rows ? 0.0 : space.smallest();
  double largest = 0.0;
  std::array<double, std::size_t{StepQuestion::kMostRows} * StepQuestion::kMostRows> square;
  for (int i = 0; i < q.rows; ++i)
    for (int j = 0; j <= i; ++j) {
      double sum = 0.0;
      for (int k = 0; k < q.joints; ++k)
        sum += scaled.a[at(i * kMaxJoints + k)] * scaled.a[at(j * kMaxJoints + k)];
      square[at(i * StepQuestion::kMostRows + j)] = sum;
      if (i == j) largest = std::max(largest, sum);
    }
  const double lack = std::max(0.0, 1.0 - out.regular / kDampFrom);
  for (int i = 0; i < q.rows; ++i)
    square[at(i * StepQuestion::kMostRows + i)] +=
        largest * (kDamping * kDamping * lack * lack + 1e-15);
  auto right = whole_command(q);
  solve_positive(square.data(), q.rows, StepQuestion::kMostRows, right.data());
  for (int k = 0; k < q.joints; ++k) {
    double sum = 0.0;
    for (int i = 0; i < q.rows; ++i) sum += scaled.a[at(i * kMaxJoints + k)] * right[at(i)];
    out.velocity[k] = q.unit[k] * sum;
  }
}

// The same for a full-rank square matrix as its inverse, except that a rank that is lacking is left
// out by `pseudo` and blows up in `plain`.
void unlimited_step(const StepQuestion& q, double least, StepAnswer& out) {
  const ScaledRows scaled(q);
  const RowSpace space(scaled.a.data(), q.rows, q.joints, kMaxJoints, least);
  out.regular = space.rank() < q.rows ? 0.0 : space.smallest();
  std::array<double, kMaxJoints> x;
  space.shortest(whole_command(q).data(), x.data());
  for (int k = 0; k < q.joints; ++k) out.velocity[k] = q.unit[k] * x[at(k)];
}

}  // namespace

void velocity_step(const StepQuestion& question, FollowMode mode, StepAnswer& out) {
  out.velocity.resize(question.joints);
  out.held_by = -1;
  out.on_course = true;
  out.scale = question.most_scale;
  switch (mode) {
    case FollowMode::limited:
      LimitedStep(question, out).run();
      return;
    case FollowMode::damped:
      damped_step(question, out);
      return;
    case FollowMode::pseudo:
      unlimited_step(question, kSingular, out);
      return;
    case FollowMode::plain:
      unlimited_step(question, 0.0, out);
      return;
  }
}

bool is_standstill(const Posture& velocity, const Posture& unit) {
  constexpr double kStandstill = 1e-9;
  return (velocity.cwiseAbs().array() <= kStandstill * unit.array()).all();
}

}  // namespace er
