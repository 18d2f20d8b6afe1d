#include "elbowroom/reach/six_elimination.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/reach/six_elimination.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/base/lane_linear-inl.hpp"
#include "elbowroom/reach/lane_turns-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

using Constants = SixElimination::Constants;
using Reduced = SixElimination::Reduced;

// Columns: eight monomials of joints 1 and 2, what is constant, 27 of joints 3 to 5; filled up.
constexpr int kColumns = 40;

// The orthogonal triangularisation of the first eight columns (A. Householder, "Unitary
// triangularization of a nonsymmetric matrix", 1958), the others taken along; packs hold columns.
// Gives the smallest pivot's share of the largest.
double triangularise(double (&a)[14][kColumns]) {
  double most = 0.0;
  double least_pivot = 1e300;
  for (int k = 0; k < 8; ++k) {
    double v[14];
    double square_sum = 0.0;
    for (int r = k; r < 14; ++r) {
      v[r] = a[r][k];
      square_sum += v[r] * v[r];
    }
    const double size = __builtin_sqrt(square_sum);
    most = size > most ? size : most;
    least_pivot = size < least_pivot ? size : least_pivot;
    if (size == 0.0) return 0.0;
    v[k] += v[k] > 0.0 ? size : -size;
    const Pack beta = pack(2.0 / (square_sum - a[k][k] * a[k][k] + v[k] * v[k]));
    for (int c = 0; c < kColumns; c += kPackSize) {
      Pack along = pack(0.0);
      for (int r = k; r < 14; ++r) along = along + pack(v[r]) * load(a[r] + c);
      along = beta * along;
      for (int r = k; r < 14; ++r) store(load(a[r] + c) - pack(v[r]) * along, a[r] + c);
    }
  }
  return least_pivot / most;
}

void reduce(double (&a)[14][kColumns], Reduced& out) {
  constexpr double kRegular = 1e-9;
  out.regular = triangularise(a) > kRegular;
  for (int r = 0; r < 8; ++r) {
    for (int c = 0; c < 8; ++c) out.root[r][c] = a[r][c];
    out.right[r] = a[r][8];
    for (int c = 0; c < 27; ++c) out.top[r][c] = a[r][9 + c];
  }
  // Cosine, sine and 1 of an angle times 1 + x^2, x the tangent of its half: 1 - x^2, 2 x, 1 + x^2.
  for (int m = 0; m < 3; ++m)
    for (int r = 0; r < 6; ++r) {
      double* row = a[8 + r] + 9 + 9 * m;
      if (m == 2) row[8] -= a[8 + r][8];
      double half[9];  // joint 4 by powers, joint 5 by monomials
      for (int j = 0; j < 3; ++j) {
        half[j] = row[j] + row[6 + j];
        half[3 + j] = 2.0 * row[3 + j];
        half[6 + j] = row[6 + j] - row[j];
      }
      for (int i = 0; i < 9; i += 3) {
        out.rows[m][r][i] = half[i] + half[i + 2];
        out.rows[m][r][i + 1] = 2.0 * half[i + 1];
        out.rows[m][r][i + 2] = half[i + 2] - half[i];
      }
    }
}

// The matrix at values of joint 3, with the powers x4^0 and x4^3 eliminated: 6 x 6 are left, over
// x4 and x4^2 times powers of x5. Gives what was divided out.
HWY_INLINE Pack six_by_six(const Reduced& reduced, const Turn& third, Pack (&out)[6][6]) {
  Pack low[6][9];   // columns as they are: x4^0 first
  Pack high[6][9];  // times x4: x4^3 first
  for (int r = 0; r < 6; ++r)
    for (int c = 0; c < 9; ++c) {
      const Pack entry = third.cosine * pack(reduced.rows[0][r][c]) +
                         third.sine * pack(reduced.rows[1][r][c]) + pack(reduced.rows[2][r][c]);
      low[r][c] = entry;
      high[r][c < 6 ? c + 3 : c - 6] = entry;
    }
  const Pack pivots = eliminate<3>(low) * eliminate<3>(high);
  for (int r = 0; r < 3; ++r)
    for (int c = 0; c < 6; ++c) {
      out[r][c] = low[3 + r][3 + c];
      out[3 + r][c] = high[3 + r][3 + c];
    }
  return pivots;
}

void determinants(const Reduced& reduced, const double* cosines, const double* sines, int count,
                  double* out) {
  for (int at = 0; at < count; at += kPackSize) {
    Pack a[6][6];
    const Pack pivots = six_by_six(reduced, {load(cosines + at), load(sines + at)}, a);
    store(pivots * eliminate<6>(a), out + at);
  }
}

// The null vector of an upper triangle that is all but singular, by two rounds of inverse iteration
// on U^T U, which needs no exchanges.
HWY_INLINE void null_vector(const Pack (&u)[6][6], const Pack (&inverse)[6], double slope,
                            Pack (&v)[6]) {
  for (int i = 0; i < 6; ++i) v[i] = pack(1.0 + slope * i);
  for (int round = 0; round < 2; ++round) {
    for (int i = 0; i < 6; ++i) {
      Pack sum = v[i];
      for (int k = 0; k < i; ++k) sum = sum - u[k][i] * v[k];
      v[i] = sum * inverse[i];
    }
    for (int pass = 0; pass < 2; ++pass) {
      if (pass == 1)
        for (int i = 5; i >= 0; --i) {
          Pack sum = v[i];
          for (int k = i + 1; k < 6; ++k) sum = sum - u[i][k] * v[k];
          v[i] = sum * inverse[i];
        }
      Pack size = pack(0.0);
      for (int i = 0; i < 6; ++i) size = largest(size, hn::Abs(v[i]));
      const Pack scale = pack(1.0) / size;
      for (int i = 0; i < 6; ++i) v[i] = scale * v[i];
    }
  }
}

// The turn whose half has the tangent high / low, from the pair with the largest size.
struct HalfTangent {
  Pack low;
  Pack high;
  Pack size;

  HWY_INLINE void consider(Pack other_low, Pack other_high) {
    const Pack other = square(other_low) + square(other_high);
    const PackMask better = other > size;
    low = choose(better, other_low, low);
    high = choose(better, other_high, high);
    size = choose(better, other, size);
  }
  [[nodiscard]] HWY_INLINE Turn turn() const {
    const Pack inverse = pack(1.0) / size;
    return {(square(low) - square(high)) * inverse, pack(2.0) * low * high * inverse};
  }
};

// `values[j][i]` for root i of joint 3, values[2]; `alone[i]` is 0 where the null vector is not the
// only one.
void candidates(const Constants& constants, const Reduced& reduced, int count,
                double (*values)[SixCandidates::kMost], double* alone) {
  for (int at = 0; at < count; at += kPackSize) {
    const SineCosine both = sine_cosine(load(values[2] + at));
    const Turn third{both.cosine, both.sine};
    Pack u[6][6];
    six_by_six(reduced, third, u);
    eliminate<6>(u);
    Pack scale = pack(0.0);
    for (const auto& row : u)
      for (const Pack& entry : row) scale = largest(scale, hn::Abs(entry));
    Pack inverse[6];
    for (int i = 0; i < 6; ++i) {
      const PackMask nil = hn::Abs(u[i][i]) < pack(1e-16) * scale;
      inverse[i] = pack(1.0) / choose(nil, pack(1e-16) * scale, u[i][i]);
    }
    Pack v[6];
    Pack other[6];
    null_vector(u, inverse, -0.14, v);
    null_vector(u, inverse, 0.36, other);
    Pack vv = pack(0.0);
    Pack oo = pack(0.0);
    Pack vo = pack(0.0);
    for (int i = 0; i < 6; ++i) {
      vv = vv + square(v[i]);
      oo = oo + square(other[i]);
      vo = vo + v[i] * other[i];
    }
    store(choose(square(vo) > pack(1.0 - 1e-6) * vv * oo, pack(1.0), pack(0.0)), alone + at);

    HalfTangent half_fourth{pack(1.0), pack(0.0), pack(-1.0)};
    HalfTangent half_fifth = half_fourth;
    for (int j = 0; j < 3; ++j) half_fourth.consider(v[j], v[3 + j]);
    for (const int j : {0, 1, 3, 4}) half_fifth.consider(v[j], v[j + 1]);
    const Turn fourth = half_fourth.turn();
    const Turn fifth = half_fifth.turn();

    // The monomials of joints 1 and 2 from those of the other three.
    const Pack one = pack(1.0);
    const Pack by3[3] = {third.cosine, third.sine, one};
    const Pack by4[3] = {fourth.cosine, fourth.sine, one};
    const Pack by5[3] = {fifth.cosine, fifth.sine, one};
    Pack m[8];
    for (int r = 0; r < 8; ++r) m[r] = hn::Neg(pack(reduced.right[r]));
    for (int i = 0; i < 3; ++i)
      for (int j = 0; j < 3; ++j)
        for (int k = 0; k < 3; ++k) {
          const Pack monomial = by3[i] * by4[j] * by5[k];
          for (int r = 0; r < 8; ++r)
            m[r] = m[r] + pack(reduced.top[r][9 * i + 3 * j + k]) * monomial;
        }
    for (int r = 7; r >= 0; --r) {
      for (int c = r + 1; c < 8; ++c) m[r] = m[r] - pack(reduced.root[r][c]) * m[c];
      m[r] = m[r] / pack(reduced.root[r][r]);
    }
    // Order: joint 2 outside, joint 1 inside, both counting backwards; those of one joint alone
    // stand at 2 and 5, and at 6 and 7.
    const Turn second = back(unit_turn(m[2], m[5]));
    const Turn first = back(unit_turn(m[6], m[7]));

    // The last joint from what turn is left.
    const Turn turns[5] = {first, second, third, fourth, fifth};
    PackVector left = pack(reduced.pointed);
    for (std::size_t k = 0; k < 5; ++k)
      left = turned(pack(constants.axis[k]), back(turns[k]), left);
    const Turn sixth = turn_onto(pack(constants.axis[5]), pack(constants.pointer), left);
    store(angle_of(first), values[0] + at);
    store(angle_of(second), values[1] + at);
    store(angle_of(fourth), values[3] + at);
    store(angle_of(fifth), values[4] + at);
    store(angle_of(sixth), values[5] + at);
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/base/trigonometric.hpp"

namespace er {
namespace {
HWY_EXPORT(reduce);
HWY_EXPORT(determinants);
HWY_EXPORT(candidates);

constexpr int kDegree = 8;
constexpr int kSamples = 24;  // whole packs, and more than the 17 that are needed
// Of the determinant, against the sum of its coefficients' sizes. Rounding seldom comes to so much,
// but at full stretch it must not part what only just meets.
constexpr double kNoise = 4e-15;
// Of chains that have some, the largest value of the determinant is 1e-15 and more; of those whose
// determinant is zero at every angle, 1e-24 and less, and that need not look like noise.
constexpr double kNothing = 1e-20;

// For a line through p along l: p, l, p.p, p.l, p x l, (p.p) l - 2 (p.l) p. Under a motion these
// fourteen go over into linear combinations of themselves and 1, so that turns about two axes after
// each other make them bilinear in the cosines and sines of the two angles.
using Fourteen = std::array<double, 14>;
Fourteen fourteen(const Vector3& p, const Vector3& l) {
  const double pp = p.squaredNorm();
  const double pl = p.dot(l);
  const Vector3 c = p.cross(l);
  const Vector3 w = pp * l - 2.0 * pl * p;
  return {p[0], p[1], p[2], l[0], l[1], l[2], pp, pl, c[0], c[1], c[2], w[0], w[1], w[2]};
}

// Turns by 0, 90 and 180 deg about `first` (outer) and `second`.
std::array<Pose, 9> quarter_turns(const Screw& first, const Screw& second) {
  std::array<Pose, 9> out;
  for (int a = 0; a < 3; ++a)
    for (int b = 0; b < 3; ++b)
      out[static_cast<std::size_t>(3 * a + b)] = motion_of(first, 0.5 * a * std::numbers::pi) *
                                                 motion_of(second, 0.5 * b * std::numbers::pi);
  return out;
}

// From values at 0, 90 and 180 deg to the coefficients of cosine, sine and 1.
template <class Number>
void fit(Number& at_0, Number& at_90, Number& at_180) {
  const Number constant = 0.5 * (at_0 + at_180);
  at_0 -= constant;
  at_90 -= constant;
  at_180 = constant;
}

// The fourteen values of a line after each of nine turns as coefficients of the nine monomials,
// [monomial][value].
using Nine = std::array<Eigen::Matrix<double, 14, 1>, 9>;
Nine coefficients(const Pose& before, const std::array<Pose, 9>& turns, const Vector3& point,
                  const Vector3& direction) {
  Nine out;
  for (std::size_t i = 0; i < 9; ++i) {
    const Vector3 p = before * (turns[i] * point);
    const Vector3 l = product(before.rotation, product(turns[i].rotation, direction));
    const Fourteen values = fourteen(p, l);
    std::copy(values.begin(), values.end(), out[i].data());
  }
  for (std::size_t a = 0; a < 9; a += 3) fit(out[a], out[a + 1], out[a + 2]);
  for (std::size_t b = 0; b < 3; ++b) fit(out[b], out[b + 3], out[b + 6]);
  return out;
}

}  // namespace

SixElimination::SixElimination(const std::array<Screw, 6>& given) {
  Constants& c = constants_;
  c.middle = given[3].point;
  c.size = 0.0;
  for (const Screw& screw : given) {
    // The foot of the axis: its point may lie anywhere along it.
    const Vector3 from = screw.point - c.middle;
    c.size = std::max(c.size, (from - screw.axis.dot(from) * screw.axis).norm());
  }
  if (c.size == 0.0) c.size = 1.0;
  std::array<Screw, 6> screws = given;
  for (std::size_t k = 0; k < 6; ++k) {
    const Vector3 from = screws[k].point - c.middle;
    screws[k].point = (from - screws[k].axis.dot(from) * screws[k].axis) / c.size;
    c.axis[k] = screws[k].axis;
  }
  c.hand_point = screws[5].point;
  c.pointer = any_perpendicular(c.axis[5]);
  c.backwards = quarter_turns(screws[1], screws[0]);
  // Joints 3, 4 and 5 applied to the line of joint 6.
  const std::array<Pose, 9> turns = quarter_turns(screws[3], screws[4]);
  std::array<Nine, 3> by_third;
  for (std::size_t m = 0; m < 3; ++m)
    by_third[m] =
        coefficients(motion_of(screws[2], 0.5 * static_cast<double>(m) * std::numbers::pi), turns,
                     screws[5].point, screws[5].axis);
  for (std::size_t i = 0; i < 9; ++i) fit(by_third[0][i], by_third[1][i], by_third[2][i]);
  for (std::size_t m = 0; m < 3; ++m)
    for (std::size_t i = 0; i < 9; ++i)
      for (std::size_t r = 0; r < 14; ++r)
        c.left[r][9 * m + i] = by_third[m][i][static_cast<Eigen::Index>(r)];
}

void SixElimination::solve(const Pose& whole, SixCandidates& out) const {
  const Constants& c = constants_;
  // The same motion seen from the chain's middle in its own size.
  const Pose moved{whole.rotation,
                   (product(whole.rotation, c.middle) + whole.position - c.middle) / c.size};
  const Nine right =
      coefficients(Pose{}, c.backwards, moved * c.hand_point, product(moved.rotation, c.axis[5]));
  double a[14][40] = {};
  for (int r = 0; r < 14; ++r) {
    for (std::size_t i = 0; i < 9; ++i) a[r][i] = right[i][r];
    std::copy(std::begin(c.left[r]), std::end(c.left[r]), a[r] + 9);
  }
  Reduced reduced;
  HWY_DYNAMIC_DISPATCH(reduce)(a, reduced);
  reduced.pointed = product(moved.rotation, c.pointer);
  out.count = out.roots = 0;
  out.sure = reduced.regular;
  if (!reduced.regular) return;

  static const EvenAngles even(kSamples);
  std::array<double, kSamples> samples;
  HWY_DYNAMIC_DISPATCH(determinants)
  (reduced, even.cosine.data(), even.sine.data(), kSamples, samples.data());
  const bool is_nothing = std::all_of(samples.begin(), samples.end(),
                                      [](double value) { return std::abs(value) < kNothing; });
  out.sure = !is_nothing;
  if (is_nothing) return;
  const TrigRoots roots = TrigPolynomial::through(samples.data(), even, kDegree).roots(kNoise);
  out.sure = roots.all_isolated && roots.count <= 2 * kDegree;
  if (roots.count > SixCandidates::kMost) return;  // all but zero throughout
  out.roots = roots.count;
  out.count = std::min(roots.count + roots.touches, SixCandidates::kMost);
  double values[6][SixCandidates::kMost] = {};
  double alone[SixCandidates::kMost];
  std::copy_n(roots.begin(), out.roots, values[2]);
  std::copy_n(roots.touch.begin(), out.count - out.roots, values[2] + out.roots);
  HWY_DYNAMIC_DISPATCH(candidates)(c, reduced, out.count, values, alone);
  for (std::size_t i = 0; i < static_cast<std::size_t>(out.count); ++i) {
    out.sure = out.sure && alone[i] > 0.0;
    for (std::size_t j = 0; j < 6; ++j) out.values[i][j] = values[j][i];
  }
}

}  // namespace er
#endif
