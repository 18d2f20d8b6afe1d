// Sines and cosines of many angles at once.
#pragma once

namespace er {

/// To 2e-16, the same bits on every instruction set. Allocates nothing.
void sines_and_cosines(const double* angles, int count, double* sines, double* cosines);

/// The angles of points (x, y), as std::atan2 gives them but to 4e-16, and 0 for no direction.
void angles_of(const double* y, const double* x, int count, double* angles);

}  // namespace er
