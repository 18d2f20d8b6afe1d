// Small systems of linear equations in vector lanes: one system a lane. See base/lanes-inl.hpp.

#if defined(ELBOWROOM_BASE_LANE_LINEAR_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef ELBOWROOM_BASE_LANE_LINEAR_INL_HPP
#undef ELBOWROOM_BASE_LANE_LINEAR_INL_HPP
#else
#define ELBOWROOM_BASE_LANE_LINEAR_INL_HPP
#endif

#include "elbowroom/base/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

/// A x = b for a symmetric positive A of n rows, lower half given; b becomes x, A is used up. By
/// pivots of two rows at a time: half the divisions that wait for each other, and no square roots.
/// (J. Bunch and B. Parlett, "Direct methods for solving symmetric indefinite systems of linear
/// equations", 1971; a positive A needs no exchanges.)
template <int most>
HWY_INLINE void solve_positive(Pack (&a)[most][most], Pack* b, int n) {
  constexpr double kTiny = 1e-30;  // of a pivot that rounding has left nothing of
  for (int k = 0; k + 1 < n; k += 2) {
    const Pack p = a[k][k];
    const Pack q = a[k + 1][k];
    const Pack r = a[k + 1][k + 1];
    const Pack inverse = pack(1.0) / largest(p * r - square(q), pack(kTiny * kTiny));
    for (int i = k + 2; i < n; ++i) {
      // The upper half keeps what is to be taken of the two rows.
      a[k][i] = (r * a[i][k] - q * a[i][k + 1]) * inverse;
      a[k + 1][i] = (p * a[i][k + 1] - q * a[i][k]) * inverse;
      for (int j = k + 2; j <= i; ++j)
        a[i][j] = a[i][j] - (a[k][i] * a[j][k] + a[k + 1][i] * a[j][k + 1]);
      b[i] = b[i] - (a[k][i] * b[k] + a[k + 1][i] * b[k + 1]);
    }
    const Pack first = b[k];
    b[k] = (r * first - q * b[k + 1]) * inverse;
    b[k + 1] = (p * b[k + 1] - q * first) * inverse;
  }
  if (n % 2 == 1) b[n - 1] = b[n - 1] / largest(a[n - 1][n - 1], pack(kTiny));
  for (int k = n / 2 * 2 - 2; k >= 0; k -= 2) {
    for (int i = k + 2; i < n; ++i) {
      b[k] = b[k] - a[k][i] * b[i];
      b[k + 1] = b[k + 1] - a[k + 1][i] * b[i];
    }
  }
}

/// Gauss' elimination with row exchanges, each lane its own: the first `steps` columns of A become
/// upper triangular, the multipliers are not kept. Gives the product of the pivots with the sign of
/// the exchanges: the determinant when steps = n. A pivot that is zero counts as next to zero.
template <int steps, int n, int columns>
HWY_INLINE Pack eliminate(Pack (&a)[n][columns]) {
  Pack determinant = pack(1.0);
  for (int k = 0; k < steps; ++k) {
    for (int i = k + 1; i < n; ++i) {
      const PackMask swap = hn::Abs(a[i][k]) > hn::Abs(a[k][k]);
      for (int c = k; c < columns; ++c) {
        const Pack upper = a[k][c];
        a[k][c] = choose(swap, a[i][c], upper);
        a[i][c] = choose(swap, upper, a[i][c]);
      }
      determinant = negate_if(swap, determinant);
    }
    a[k][k] = choose(a[k][k] == pack(0.0), pack(1e-200), a[k][k]);
    determinant = determinant * a[k][k];
    const Pack inverse = pack(1.0) / a[k][k];
    for (int i = k + 1; i < n; ++i) {
      const Pack share = a[i][k] * inverse;
      for (int c = k + 1; c < columns; ++c) a[i][c] = a[i][c] - share * a[k][c];
    }
  }
  return determinant;
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
