// Ways from rest to rest with limits that are the same both ways, in given times, side by side: up
// to a speed, on at it, down again.
#pragma once

#include <array>

#include "elbowroom/pace/axis.hpp"

namespace er {

/// Up to so many at a time.
inline constexpr int kRestWays = 8;

/// One value a way; those that are not in use may be anything.
struct RestWays {
  using Values = std::array<double, kRestWays>;
  int count = 0;
  Values start;     ///< where it begins
  Values distance;  ///< not zero
  Values time;      ///< the least that is possible, or more
  Values velocity;  ///< limits, the first two of which may be infinite
  Values acceleration;
  Values jerk;
};

/// Jerk, none and jerk back lead to a speed that is kept for a while; the same again, turned round,
/// to rest. Phases may have no length.
struct RestRamps {
  struct Phase {
    RestWays::Values duration;
    RestWays::Values jerk;
    RestWays::Values position;  ///< at its end
    RestWays::Values velocity;
    RestWays::Values acceleration;
  };
  std::array<Phase, 7> phases;
};

// In vector lanes; the same bits on every instruction set. Allocates nothing.

/// In the times that are asked for.
void rest_ramps(const RestWays& ways, RestRamps& out);
/// In the least times, which are set.
void quickest_ramps(RestWays& ways, RestRamps& out);
void set_least_times(RestWays& ways);

/// Appends one of them, to a profile that ends where it starts.
void add_ramps(const RestRamps& ramps, int way, AxisProfile& out);

}  // namespace er
