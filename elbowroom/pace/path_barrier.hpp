// A barrier around what may be done along a path, at many points of it side by side.
#pragma once

#include <array>
#include <cstddef>
#include <vector>

namespace er {

/// Bounds at points of a path on x = (ds/dt)^2 and its first two derivatives by s there, one value
/// a point in each list. Lists are filled up to a multiple of eight with zeros.
struct PathBounds {
  explicit PathBounds(std::size_t points) : count((points + 7) / 8 * 8) {}
  using Values = std::vector<double>;

  /// |of_x x + of_slope x' + still + by_root sqrt(x)| < 1. The last two may be left empty.
  struct Linear {
    Values of_x;
    Values of_slope;
    Values still = {};
    Values by_root = {};
  };
  /// |of_x x + of_slope x'| < 1, of vectors.
  struct Cone {
    std::array<Values, 3> of_x;
    std::array<Values, 3> of_slope;
  };
  /// sqrt(x) |of_x x + of_slope x' + of_bend x''| < 1.
  struct Jerk {
    Values of_x;
    Values of_slope;
    Values of_bend;
  };
  std::size_t count;
  std::vector<Linear> linear = {};
  std::vector<Cone> cones = {};
  std::vector<Jerk> jerks = {};
};

/// The sum of -log(slack) over all bounds of a point: its gradient by x, x' and x'', and the lower
/// half of a Hessian (00 10 11 20 21 22) that is positive: what is concave in it is left out.
struct PathBarrier {
  std::array<std::vector<double>, 3> gradient;
  std::array<std::vector<double>, 6> hessian;
};

/// x and its first two derivatives at each point; filled up like bounds, x with ones.
struct PathState {
  std::vector<double> x;
  std::vector<double> slope;
  std::vector<double> bend;
};

/// False, and nothing of use in `out`, where a bound is not kept or an x is not above zero. In
/// vector lanes, the same bits on every instruction set. `out` is sized at the first call.
bool path_barrier(const PathBounds& bounds, const PathState& state, PathBarrier& out);

/// About what share of `way` may be added to `here`, which keeps all bounds, before one is broken:
/// where it is linear exactly so, else as if it were. 1 where all of it may; in vector lanes.
double share_within(const PathBounds& bounds, const PathState& here, const PathState& way);

}  // namespace er
