#include "elbowroom/reach/general_six.hpp"

#include <Eigen/Geometry>
#include <Eigen/LU>
#include <Eigen/QR>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

#include "elbowroom/base/random.hpp"
#include "elbowroom/base/trigonometric.hpp"
#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/polish.hpp"
#include "elbowroom/reach/subproblems.hpp"

namespace er {
namespace {

constexpr double kPi = std::numbers::pi;
constexpr int kDegree = 8;
constexpr int kSamples = 2 * kDegree + 1;
constexpr double kNoise = 4e-15;  // of the determinant, against its largest value
constexpr double kMetBy = 1e-10;  // m and rad; a candidate that is polished to this is a posture
constexpr double kSamePosture = 1e-7;  // rad
constexpr int kChanges = 48;  // chains a little different that special geometry is looked at with
constexpr std::size_t kMostCandidates = 48;
constexpr int kSteps = 6;    // from a changed chain back to the exact one
constexpr int kEnough = 12;  // so many in a row without a new posture

// For a line through p along l: p, l, p.p, p.l, p x l, (p.p) l - 2 (p.l) p. Under a motion these
// fourteen go over into linear combinations of themselves and 1, so that turns about two axes after
// each other make them bilinear in the cosines and sines of the two angles.
using Fourteen = Eigen::Matrix<double, 14, 1>;

Fourteen fourteen(const Vector3& p, const Vector3& l) {
  Fourteen v;
  v << p, l, p.squaredNorm(), p.dot(l), p.cross(l), p.squaredNorm() * l - 2.0 * p.dot(l) * p;
  return v;
}

// Monomials of two angles a, b in the order (cos a, sin a, 1) x (cos b, sin b, 1).
using Nine = Eigen::Matrix<double, 14, 9>;
using Twelve = Eigen::Matrix<double, 12, 12>;

struct Line {
  Vector3 point;
  Vector3 direction;
};

Line moved(const Pose& pose, const Line& line) {
  return {pose * line.point, pose.rotation * line.direction};
}

// The coefficients of a function of one angle of the form a cos + b sin + c, from its values at 0,
// 90 and 180 degrees.
template <class Values>
std::array<Values, 3> fitted(const Values& at_0, const Values& at_90, const Values& at_180) {
  const Values c = 0.5 * (at_0 + at_180);
  return {Values(at_0 - c), Values(at_90 - c), c};
}

// The fourteen values of a line after turns about `first` and `second` (the second nearest the
// line) as coefficients of the nine monomials.
Nine coefficients(const Screw& first, const Screw& second, const Line& line, const Pose& before) {
  Nine out;
  std::array<std::array<Fourteen, 3>, 3> by_first;  // [angle of first][monomial of second]
  for (int a = 0; a < 3; ++a) {
    std::array<Fourteen, 3> values;
    for (int b = 0; b < 3; ++b) {
      const Line there =
          moved(before * motion_of(first, a * kPi / 2) * motion_of(second, b * kPi / 2), line);
      values[static_cast<std::size_t>(b)] = fourteen(there.point, there.direction);
    }
    by_first[static_cast<std::size_t>(a)] = fitted(values[0], values[1], values[2]);
  }
  for (std::size_t b = 0; b < 3; ++b) {
    const auto fit = fitted(by_first[0][b], by_first[1][b], by_first[2][b]);
    for (std::size_t a = 0; a < 3; ++a) out.col(static_cast<Eigen::Index>(3 * a + b)) = fit[a];
  }
  return out;
}

// The monomials (cos, sin, 1) of an angle times (1 + x^2), x the tangent of its half, in powers of
// x, for two angles at once.
const Eigen::Matrix<double, 9, 9>& to_half_tangents() {
  static const Eigen::Matrix<double, 9, 9> matrix = [] {
    Eigen::Matrix3d one;
    one << 1, 0, -1,  // cos
        0, 2, 0,      // sin
        1, 0, 1;      // 1
    Eigen::Matrix<double, 9, 9> both;
    for (int a = 0; a < 3; ++a)
      for (int b = 0; b < 3; ++b)
        for (int i = 0; i < 3; ++i)
          for (int j = 0; j < 3; ++j) both(3 * a + b, 3 * i + j) = one(a, i) * one(b, j);
    return both;
  }();
  return matrix;
}

using Left = std::array<Nine, 3>;  // the left side's monomials of joint 3: cos, sin, 1

// Joints 3, 4 and 5 applied to the line of joint 6.
Left left_side(const std::array<Screw, 6>& screws) {
  const Line line{screws[5].point, screws[5].axis};
  std::array<Nine, 3> at;
  for (int i = 0; i < 3; ++i)
    at[static_cast<std::size_t>(i)] =
        coefficients(screws[3], screws[4], line, motion_of(screws[2], i * kPi / 2));
  return fitted(at[0], at[1], at[2]);
}

// What is left of the equations when joints 1 and 2 are eliminated, as a matrix that is singular
// where joint 3 has a value of a posture.
class Elimination {
 public:
  Elimination(const std::array<Screw, 6>& screws, const Pose& whole, const Left& left)
      : left_(left) {
    // Turned back by joint 1, then by joint 2: the angles of these two count backwards.
    right_ =
        coefficients(screws[1], screws[0], moved(whole, {screws[5].point, screws[5].axis}), {});
    right_qr_.compute(right_.leftCols<8>());
    rank_is_full_ = right_qr_.rank() == 8;
    const Eigen::Matrix<double, 14, 14> q = right_qr_.householderQ();
    const auto free = q.rightCols<6>();
    for (std::size_t m = 0; m < 3; ++m) {
      Eigen::Matrix<double, 6, 9> rows = free.transpose() * left[m];
      if (m == 2) rows.col(8) -= free.transpose() * right_.col(8);
      rows_[m] = rows * to_half_tangents();
    }
  }

  [[nodiscard]] bool rank_is_full() const { return rank_is_full_; }

  // Columns: powers of the two half tangents, x4^i x5^j at 3 i + j, i to 3 and j to 2.
  [[nodiscard]] Twelve at(double third) const {
    const Eigen::Matrix<double, 6, 9> rows =
        std::cos(third) * rows_[0] + std::sin(third) * rows_[1] + rows_[2];
    Twelve out = Twelve::Zero();
    out.topLeftCorner<6, 9>() = rows;
    out.bottomRightCorner<6, 9>() = rows;
    return out;
  }

  // Joints 1 and 2 from the other three.
  void first_two(std::array<double, kMostClosedJoints>& q) const {
    Eigen::Matrix<double, 9, 1> mono;
    const double a[] = {std::cos(q[3]), std::sin(q[3]), 1.0};
    const double b[] = {std::cos(q[4]), std::sin(q[4]), 1.0};
    for (int i = 0; i < 3; ++i)
      for (int j = 0; j < 3; ++j) mono[3 * i + j] = a[i] * b[j];
    const Fourteen side =
        (std::cos(q[2]) * left_[0] + std::sin(q[2]) * left_[1] + left_[2]) * mono - right_.col(8);
    const Eigen::Matrix<double, 8, 1> m = right_qr_.solve(side);
    // Order: joint 2 outside, joint 1 inside; (cos 2, sin 2) alone stand at 2 and 5, those of joint
    // 1 at 6 and 7.
    q[1] = -std::atan2(m[5], m[2]);
    q[0] = -std::atan2(m[7], m[6]);
  }

 private:
  Left left_;
  Nine right_;
  Eigen::ColPivHouseholderQR<Eigen::Matrix<double, 14, 8>> right_qr_;
  bool rank_is_full_ = false;
  std::array<Eigen::Matrix<double, 6, 9>, 3> rows_;
};

// The angle whose half tangent is the ratio of neighbouring powers in a null vector.
double angle_from(const Eigen::Matrix<double, 12, 1>& v, bool of_fourth) {
  double best = -1.0;
  double angle = 0.0;
  for (int i = 0; i < 4; ++i)
    for (int j = 0; j < 3; ++j) {
      if (of_fourth ? i == 3 : j == 2) continue;
      const double low = v[3 * i + j];
      const double high = of_fourth ? v[3 * (i + 1) + j] : v[3 * i + j + 1];
      const double size = low * low + high * high;
      if (size <= best) continue;
      best = size;
      angle = 2.0 * std::atan2(high, low);
    }
  return angle;
}

// The null vector of an all but singular matrix, by inverse iteration; `alone` tells whether it is
// the only one.
Eigen::Matrix<double, 12, 1> null_vector(const Twelve& matrix, bool& alone) {
  // A hair off, so that an exactly singular matrix does not divide by zero.
  const Eigen::PartialPivLU<Twelve> lu(matrix + 1e-15 * matrix.norm() * Twelve::Identity());
  Eigen::Matrix<double, 12, 1> first = Eigen::Matrix<double, 12, 1>::LinSpaced(1.0, 0.3);
  Eigen::Matrix<double, 12, 1> second = Eigen::Matrix<double, 12, 1>::LinSpaced(-0.7, 1.1);
  for (int i = 0; i < 3; ++i) {
    first = lu.solve(first);
    first /= first.norm();
    second = lu.solve(second);
    second /= second.norm();
  }
  if (!first.allFinite() || !second.allFinite()) {
    alone = false;
    return Eigen::Matrix<double, 12, 1>::Unit(0);
  }
  alone = std::abs(first.dot(second)) > 1.0 - 1e-6;
  return first;
}

// All postures that elimination down to the third of the given screws leads to; false when it
// cannot be sure that there are no more.
bool eliminate(const std::array<Screw, 6>& screws, const Pose& whole, const Left& left,
               std::vector<ClosedSolution>& out) {
  const Elimination elimination(screws, whole, left);
  if (!elimination.rank_is_full()) return false;
  bool sure = true;
  std::vector<double> values(kSamples);
  for (int i = 0; i < kSamples; ++i)
    values[static_cast<std::size_t>(i)] =
        elimination.at(2.0 * kPi * i / kSamples).partialPivLu().determinant();
  const TrigPolynomial polynomial = TrigPolynomial::through(values, kDegree);
  const std::vector<double> thirds = polynomial.roots(kNoise);
  if (thirds.size() > 2 * kDegree) sure = false;
  if (thirds.size() > kMostCandidates) return false;  // all but zero throughout
  for (const double third : thirds) {
    ClosedSolution one;
    auto& q = one.values;
    bool alone = true;
    const auto powers = null_vector(elimination.at(third), alone);
    sure &= alone;
    q[2] = third;
    q[3] = angle_from(powers, true);
    q[4] = angle_from(powers, false);
    elimination.first_two(q);
    // The last joint from what turn is left.
    Matrix3 before = Matrix3::Identity();
    for (std::size_t k = 0; k < 5; ++k) before = before * rotation_about(screws[k].axis, q[k]);
    q[5] = turn_of(screws[5].axis, before.transpose() * whole.rotation);
    out.push_back(one);
  }
  return sure;
}

std::array<Screw, 6> changed_a_little(std::array<Screw, 6> screws, double amount,
                                      RandomStream& random) {
  const auto draw = [&] {
    return Vector3(random.uniform(-amount, amount), random.uniform(-amount, amount),
                   random.uniform(-amount, amount));
  };
  for (Screw& screw : screws) {
    screw.axis = (screw.axis + draw()).normalized();
    screw.point += draw();
  }
  return screws;
}

}  // namespace

struct GeneralSix::Constants {
  std::array<Screw, 6> screws;
  Left left;
  LaneChain lanes;
};

GeneralSix::GeneralSix(const ScrewChain& chain) : chain_(chain) {
  std::array<Screw, 6> screws;
  std::copy(chain.screws.begin(), chain.screws.end(), screws.begin());
  constants_ =
      std::make_shared<const Constants>(Constants{screws, left_side(screws), chain.in_lanes()});
}

std::optional<GeneralSix> GeneralSix::of(const ScrewChain& chain) {
  if (!chain.is_turning(6)) return std::nullopt;
  return GeneralSix(chain);
}

void GeneralSix::solve(const Pose& tip, ClosedSolutions& out) const {
  out.count = 0;
  const Pose whole = chain_.motion_to(tip);
  std::vector<ClosedSolution> found;
  const bool sure = eliminate(constants_->screws, whole, constants_->left, found);
  for (const ClosedSolution& one : found) take(tip, one, out);
  // Regular postures come in pairs: an odd number of them says that one is missing still.
  if (!sure || out.count % 2 != 0) solve_changed(tip, out);
}

// Special geometry makes the elimination lose postures. A chain that is a little different has none
// of it, and every regular posture of the one chain lies beside one of the other.
void GeneralSix::solve_changed(const Pose& tip, ClosedSolutions& out) const {
  RandomStream random(1);
  int without_news = 0;
  const auto enough = [&] {
    return without_news >= kEnough && out.count % 2 == 0 && out.count > 0;
  };
  for (int i = 0; i < kChanges && !enough(); ++i) {
    const auto screws = changed_a_little(constants_->screws, 0.01 * std::pow(2.0, i % 3), random);
    std::vector<ClosedSolution> found;
    eliminate(screws, chain_.motion_to(tip), left_side(screws), found);
    const int before = out.count;
    for (ClosedSolution& one : found) {
      follow_back(screws, tip, one);
      take(tip, one, out);
    }
    without_news = out.count > before ? 0 : without_news + 1;
  }
}

// A posture of a changed chain, followed while the chain goes back to what it is.
void GeneralSix::follow_back(const std::array<Screw, 6>& from, const Pose& tip,
                             ClosedSolution& one) const {
  ScrewChain between = chain_;
  for (int step = 0; step < kSteps; ++step) {
    const double share = static_cast<double>(step) / kSteps;
    for (std::size_t k = 0; k < 6; ++k) {
      between.screws[k].axis =
          (from[k].axis + share * (chain_.screws[k].axis - from[k].axis)).normalized();
      between.screws[k].point = from[k].point + share * (chain_.screws[k].point - from[k].point);
    }
    ClosedSolutions single;
    single.add(one);
    Polished left[kMostClosedSolutions];
    polish(between.in_lanes(), tip, single, 4, left);
    one = single.all[0];
  }
}

void GeneralSix::take(const Pose& tip, ClosedSolution one, ClosedSolutions& out) const {
  ClosedSolutions single;
  single.add(one);
  Polished left[kMostClosedSolutions];
  polish(constants_->lanes, tip, single, 20, left);
  one = single.all[0];
  if (left[0].position > kMetBy || left[0].angle > kMetBy) return;
  const bool known = std::any_of(out.begin(), out.end(), [&](const ClosedSolution& other) {
    for (std::size_t k = 0; k < 6; ++k)
      if (std::abs(wrapped(one.values[k] - other.values[k])) > kSamePosture) return false;
    return true;
  });
  if (!known) out.add(one);
}

}  // namespace er
