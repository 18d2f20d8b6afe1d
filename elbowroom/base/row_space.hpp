// A few equations with more unknowns: how many say different things, and what they leave free.
#pragma once

#include "elbowroom/base/row_reduction.hpp"

namespace er {

struct RowSolution {
  using Column = std::array<double, kMaxJoints>;
  int rank = 0;
  /// Of each b, the shortest x that does the rows that count.
  std::array<Column, RowSystem::kMostSides> shortest;
  /// Of each b, the largest |a x - b| over the other rows.
  std::array<double, RowSystem::kMostSides> off;
  /// columns - rank unit vectors at right angles to the rows and to each other.
  std::array<Column, kMaxJoints> free;
};

/// Of a matrix with entries of one kind, so that their sizes can be compared. Which rows count:
/// see reduce_rows. Lives on the stack, allocates nothing.
void solve_rows(const RowSystem& system, double least, RowSolution& out);

}  // namespace er
