// The rows of a small wide matrix: how many say different things, and what they leave free.
#pragma once

#include <array>

#include "elbowroom/base/posture.hpp"

namespace er {

/// Of a matrix of up to 6 rows over up to kMaxJoints columns: its rank, found by orthogonal
/// triangles with the largest row first, and an orthonormal basis of what its rows leave free
/// (Householder's method; G. Golub and C. Van Loan, "Matrix Computations", section 5.4). Lives on
/// the stack, allocates nothing.
class RowSpace {
 public:
  static constexpr int kMostRows = 6;
  /// Row i begins at `a + i * stride`. A row counts as a sum of others when what is left of it is
  /// below `least` times the largest row.
  RowSpace(const double* a, int rows, int columns, int stride, double least);

  [[nodiscard]] int rank() const { return rank_; }
  /// The size of what is new in the last row counted, beside the largest row: how near the matrix
  /// is to having a lower rank.
  [[nodiscard]] double smallest() const { return smallest_; }
  /// Fills `basis` with columns - rank unit vectors at right angles to all rows, each `columns`
  /// long and kMaxJoints apart.
  void free_basis(double* basis) const;
  /// The shortest x with a x = b in the rows that count. Returns the largest |a x - b| over those
  /// that do not.
  double shortest(const double* b, double* x) const;

 private:
  using Column = std::array<double, kMaxJoints>;
  void apply(double* x) const;  // the product of the reflections, to a vector

  int rows_;
  int columns_;
  int rank_ = 0;
  double smallest_ = 0.0;
  std::array<int, kMostRows> order_;  // which row came first, second, ...
  std::array<Column, kMostRows> r_;   // of each row in that order: its part along each basis vector
  std::array<Column, kMostRows> mirror_;  // of each reflection
  std::array<double, kMostRows> weight_;  // 2 / |mirror|^2
};

}  // namespace er
