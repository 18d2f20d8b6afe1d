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

/// A x = b for a symmetric positive A of n rows, lower half given, by Cholesky's square root in
/// place; b becomes x.
template <int most>
HWY_INLINE void solve_positive(Pack (&a)[most][most], Pack* b, int n) {
  for (int i = 0; i < n; ++i) {
    for (int j = 0; j < i; ++j) {
      Pack sum = a[i][j];
      for (int k = 0; k < j; ++k) sum = sum - a[i][k] * a[j][k];
      a[i][j] = sum * a[j][j];
    }
    Pack sum = a[i][i];
    for (int k = 0; k < i; ++k) sum = sum - square(a[i][k]);
    a[i][i] = pack(1.0) / hn::Sqrt(largest(sum, pack(1e-30)));  // the diagonal is kept inverted
    Pack right = b[i];
    for (int k = 0; k < i; ++k) right = right - a[i][k] * b[k];
    b[i] = right * a[i][i];
  }
  for (int i = n - 1; i >= 0; --i) {
    Pack sum = b[i];
    for (int k = i + 1; k < n; ++k) sum = sum - a[k][i] * b[k];
    b[i] = sum * a[i][i];
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
