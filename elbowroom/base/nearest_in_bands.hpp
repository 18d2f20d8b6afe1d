// The point nearest to a wanted one that keeps a few linear bands, or a proof that none does.
//
// This is a strictly convex quadratic programme, solved by the dual active-set method of D.
// Goldfarb and A. Idnani, "A numerically stable dual method for solving strictly convex quadratic
// programs", 1983: it starts from the wanted point and takes in one broken band after another.
#pragma once

#include <array>

#include "elbowroom/base/posture.hpp"

namespace er {

/// lower <= a x <= upper, one band a row; sides may be infinite. Lives on the stack.
struct LinearBands {
  static constexpr int kMostColumns = kMaxJoints + 1;
  static constexpr int kMostRows = kMaxJoints + 17;
  struct Row {
    std::array<double, kMostColumns> a;
    double lower;
    double upper;
  };
  int columns = 0;  ///< the length of x; may be 0
  int count = 0;
  std::array<Row, kMostRows> rows;
};

struct NearestInBands {
  enum class Outcome { found, none, gave_up };  ///< gave_up: too many steps, from rounding
  Outcome outcome = Outcome::gave_up;
  std::array<double, LinearBands::kMostColumns> x;  ///< where found
  /// Where there is none: a multiplier for each row, above zero for its upper side, below for its
  /// lower one, so that sum of m a = 0 and yet sum of m (that side) < 0, which no x can do.
  std::array<double, LinearBands::kMostRows> proof;
};

/// `wanted` has as many values as `bands` has columns. A band counts as kept to 1e-12 of the size
/// of its side. Allocates nothing.
void nearest_in_bands(const LinearBands& bands, const double* wanted, NearestInBands& out);

}  // namespace er
