// Sines and cosines of many angles at once.
#pragma once

namespace er {

/// To 2e-16, the same bits on every instruction set. Allocates nothing.
void sines_and_cosines(const double* angles, int count, double* sines, double* cosines);

}  // namespace er
