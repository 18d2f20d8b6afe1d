// Elimination over a few rows, in vector lanes: one column a lane.
#pragma once

#include <array>

#include "elbowroom/base/posture.hpp"

namespace er {

/// Equations a x = b for up to two b at once.
struct RowSystem {
  static constexpr int kMostRows = 6;
  static constexpr int kMostSides = 2;
  static constexpr int kMostWidth = kMaxJoints + 8;  // room for the sides, and whole eights
  int rows = 0;
  int columns = 0;  ///< up to kMaxJoints
  int sides = 0;
  /// Each row of a, then of each b.
  std::array<std::array<double, kMostWidth>, kMostRows> row;
};

/// The same equations, when each row that counts has a one where all others have nothing.
struct ReducedRows {
  int rank = 0;  ///< how many count
  /// Row order[i] counts for i < rank, and has its one in column pivot[i].
  std::array<int, RowSystem::kMostRows> order;
  std::array<int, RowSystem::kMostRows> pivot;
  std::array<std::array<double, RowSystem::kMostWidth>, RowSystem::kMostRows> row;
};

/// A row counts when, less what the others say, some entry of it is larger than `least` times the
/// largest of the matrix. Gauss and Jordan's elimination; pivots from all columns, and rows in the
/// order they come as long as their pivot is large, then the largest first (G. Golub and C. Van
/// Loan, "Matrix Computations", section 3.4). The same bits on every instruction set. Lives on the
/// stack, allocates nothing.
void reduce_rows(const RowSystem& system, double least, ReducedRows& out);

}  // namespace er
