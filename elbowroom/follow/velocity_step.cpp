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
// Damping sets in where what a row says beside the others falls below kDampFrom of the longest row.
constexpr double kDampFrom = 0.1;
constexpr double kDamping = 0.1;

constexpr int kMostRows = StepQuestion::kMostRows;
static_assert(kMostRows <= RowSystem::kMostRows);
using RowValues = std::array<double, kMostRows>;
using SquareOfRows = std::array<double, std::size_t{kMostRows} * kMostRows>;

// All velocities in units of the joints, so that nothing depends on radians and metres.
void scale_rows(const StepQuestion& q, RowSystem& out) {
  out.rows = q.rows;
  out.columns = q.joints;
  for (int i = 0; i < q.rows; ++i)
    Eigen::Map<Eigen::VectorXd>(out.row[at(i)].data(), q.joints) =
        q.unit.cwiseProduct(Eigen::Map<const Eigen::VectorXd>(q.jacobian[at(i)].data(), q.joints));
}

// A right-hand side more.
void add_side(const RowValues& side, RowSystem& to) {
  for (int i = 0; i < to.rows; ++i) to.row[at(i)][at(to.columns + to.sides)] = side[at(i)];
  ++to.sides;
}

double size_of(const RowValues& rows, int count) {
  double square = 0.0;
  for (int i = 0; i < count; ++i) square += rows[at(i)] * rows[at(i)];
  return std::sqrt(square);
}

// Box and wish in units of the joints.
struct ScaledBox {
  std::array<double, kMaxJoints> lower;
  std::array<double, kMaxJoints> upper;
  std::array<double, kMaxJoints> wish;

  explicit ScaledBox(const StepQuestion& q) {
    for (int k = 0; k < q.joints; ++k) {
      const double scale = 1.0 / q.unit[k];
      lower[at(k)] = q.lower[k] * scale;
      upper[at(k)] = q.upper[k] * scale;
      wish[at(k)] = q.wish[k] * scale;
    }
  }
};

class LimitedStep {
 public:
  LimitedStep(const StepQuestion& question, StepAnswer& out) : q_(question), out_(out) {}

  void run() {
    scale_rows(q_, rows_);
    add_side(q_.correction, rows_);  // kFixed
    add_side(q_.command, rows_);     // kMoving
    solve_rows(rows_, kSingular, course_);
    double most = q_.most_scale;
    if (course_.off[kMoving] > kUnsaid * size_of(q_.command, q_.rows) + kNegligible) most = 0.0;
    freedom_ = q_.joints - course_.rank;
    out_.on_course = freedom_ == 0 ? largest_scale_alone(most) : largest_scale(most);
    if (!out_.on_course) stray_least();
    // The box is kept to the last digit.
    out_.velocity = out_.velocity.cwiseMax(q_.lower).cwiseMin(q_.upper);
  }

 private:
  // All that the rows allow: unit * (fixed + scale * moving + free y).
  [[nodiscard]] double fixed(int k) const { return course_.shortest[kFixed][at(k)]; }
  [[nodiscard]] double moving(int k) const { return course_.shortest[kMoving][at(k)]; }

  void hold(int joint, bool up) {
    out_.held_by = joint;
    out_.held_up = up;
  }

  // Without freedom: each joint leaves an interval of the scale.
  bool largest_scale_alone(double most) {
    constexpr double kStill = 1e-300;  // of less than that, the reciprocal may be infinite
    double least = 0.0;
    for (int k = 0; k < q_.joints; ++k) {
      const double here = q_.unit[k] * fixed(k);
      const double change = q_.unit[k] * moving(k);
      const double to_upper = q_.upper[k] - here;
      const double to_lower = q_.lower[k] - here;
      if (std::abs(change) < kStill) {
        if (to_upper < -1e-12 || to_lower > 1e-12) return false;
        continue;
      }
      const double scale = 1.0 / change;
      const double high = (change > 0.0 ? to_upper : to_lower) * scale;
      const double low = (change > 0.0 ? to_lower : to_upper) * scale;
      if (high < most) {
        most = high;
        hold(k, change > 0.0);
      }
      least = std::max(least, low);
    }
    if (least > most + 1e-12) return false;
    out_.scale = most;
    for (int k = 0; k < q_.joints; ++k)
      out_.velocity[k] = q_.unit[k] * (fixed(k) + most * moving(k));
    return true;
  }

  // With freedom: try a scale; where no velocity does it, the proof of that is a bound on the
  // scale.
  bool largest_scale(double scale) {
    const ScaledBox box(q_);
    bands_.columns = freedom_;
    bands_.count = q_.joints;
    for (int k = 0; k < q_.joints; ++k)
      for (int c = 0; c < freedom_; ++c) bands_.rows[at(k)].a[at(c)] = course_.free[at(c)][at(k)];
    for (int tries = 0; tries < 64; ++tries) {
      std::array<double, LinearBands::kMostColumns> wanted{};
      for (int k = 0; k < q_.joints; ++k) {
        const double on_course = fixed(k) + scale * moving(k);
        bands_.rows[at(k)].lower = box.lower[at(k)] - on_course;
        bands_.rows[at(k)].upper = box.upper[at(k)] - on_course;
        for (int c = 0; c < freedom_; ++c)
          wanted[at(c)] += bands_.rows[at(k)].a[at(c)] * (box.wish[at(k)] - on_course);
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
        constant += m * ((m > 0.0 ? box.upper : box.lower)[at(k)] - fixed(k));
        slope += m * moving(k);
        if (m * moving(k) > most) {
          most = m * moving(k);
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
      double value = fixed(k) + scale * moving(k);
      for (int c = 0; c < freedom_; ++c) value += bands_.rows[at(k)].a[at(c)] * nearest_.x[at(c)];
      out_.velocity[k] = q_.unit[k] * value;
    }
    return true;
  }

  // The velocity in the box, and the scale, whose rows are off by the least in the sum of squares;
  // as a nearest point, in coordinates in which that sum is the distance.
  void stray_least() {
    const ScaledBox box(q_);
    const int n = q_.joints + 1;
    constexpr int kStride = LinearBands::kMostColumns;
    constexpr double kFirm = 1e-6;  // keeps the sum strictly convex
    std::array<double, std::size_t{kStride} * kStride> root;
    std::array<double, kStride> wanted;
    const auto entry = [&](int i, int k) {
      return k < q_.joints ? rows_.row[at(i)][at(k)] : -q_.command[at(i)];
    };
    for (int a = 0; a < n; ++a) {
      for (int b = 0; b <= a; ++b) {
        double sum = a == b ? kFirm : 0.0;
        for (int i = 0; i < q_.rows; ++i) sum += entry(i, a) * entry(i, b);
        root[at(a * kStride + b)] = sum;
      }
      const double wish = a < q_.joints ? box.wish[at(a)] : q_.most_scale;
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
      row.lower = a < q_.joints ? box.lower[at(a)] : 0.0;
      row.upper = a < q_.joints ? box.upper[at(a)] : q_.most_scale;
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

  static constexpr std::size_t kFixed = 0;
  static constexpr std::size_t kMoving = 1;
  const StepQuestion& q_;
  StepAnswer& out_;
  RowSystem rows_;
  RowSolution course_;
  int freedom_ = 0;
  LinearBands bands_;
  NearestInBands nearest_;
};

RowValues whole_command(const StepQuestion& q) {
  RowValues all{};
  for (int i = 0; i < q.rows; ++i)
    all[at(i)] = q.most_scale * q.command[at(i)] + q.correction[at(i)];
  return all;
}

// What the row says that says least beside the others: its distance from what they span, in terms
// of the longest row. That distance is the root of 1 / (J J^T)^-1 on the diagonal.
double least_said(SquareOfRows square, int rows, double longest) {
  if (!cholesky_root(square.data(), rows, kMostRows)) return 0.0;
  double most = 0.0;
  for (int i = 0; i < rows; ++i) {
    RowValues side{};
    side[at(i)] = 1.0;
    solve_lower(square.data(), rows, kMostRows, side.data());
    const double size = size_of(side, rows);
    most = std::max(most, size * size);
  }
  return 1.0 / std::sqrt(most * longest);
}

// u = J^T (J J^T + damping^2)^-1 v.
void damped_step(const StepQuestion& q, StepAnswer& out) {
  RowSystem scaled;
  scale_rows(q, scaled);
  SquareOfRows square{};
  double longest = 0.0;  // of the rows' squares
  for (int i = 0; i < q.rows; ++i)
    for (int j = 0; j <= i; ++j) {
      double sum = 0.0;
      for (int k = 0; k < q.joints; ++k) sum += scaled.row[at(i)][at(k)] * scaled.row[at(j)][at(k)];
      square[at(i * kMostRows + j)] = sum;
      if (i == j) longest = std::max(longest, sum);
    }
  const auto add_to_diagonal = [&](double more) {
    for (int i = 0; i < q.rows; ++i) square[at(i * kMostRows + i)] += more * longest;
  };
  add_to_diagonal(1e-15);
  const double lack = std::max(0.0, 1.0 - least_said(square, q.rows, longest) / kDampFrom);
  add_to_diagonal(kDamping * kDamping * lack * lack);
  auto right = whole_command(q);
  solve_positive(square.data(), q.rows, kMostRows, right.data());
  for (int k = 0; k < q.joints; ++k) {
    double sum = 0.0;
    for (int i = 0; i < q.rows; ++i) sum += scaled.row[at(i)][at(k)] * right[at(i)];
    out.velocity[k] = q.unit[k] * sum;
  }
}

// The same for a full-rank square matrix as its inverse, except that a rank that is lacking is left
// out by `pseudo` and blows up in `plain`.
void unlimited_step(const StepQuestion& q, double least, StepAnswer& out) {
  RowSystem scaled;
  scale_rows(q, scaled);
  add_side(whole_command(q), scaled);
  RowSolution solution;
  solve_rows(scaled, least, solution);
  for (int k = 0; k < q.joints; ++k) out.velocity[k] = q.unit[k] * solution.shortest[0][at(k)];
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
