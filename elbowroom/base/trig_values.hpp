// Values of a trigonometric polynomial at many angles at once.
#pragma once

namespace er {

/// f(t) = c[0] + sum over k = 1..degree of c[2k-1] cos(k t) + c[2k] sin(k t), with its first two
/// derivatives, at `count` angles. Allocates nothing; the same bits on every instruction set.
void trig_values(const double* c, int degree, const double* angles, int count, double* f,
                 double* first, double* second);

}  // namespace er
