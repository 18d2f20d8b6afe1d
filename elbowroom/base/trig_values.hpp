// Values of a trigonometric polynomial at many angles at once.
#pragma once

namespace er {

/// Where the values go, one for each angle.
struct TrigValues {
  double* f;
  double* first;  ///< derivative
  double* second;
  double* third;
};

/// f(t) = c[0] + sum over k = 1..degree of c[2k-1] cos(k t) + c[2k] sin(k t), with its first three
/// derivatives, at `count` angles. Allocates nothing; the same bits on every instruction set.
void trig_values(const double* c, int degree, const double* angles, int count,
                 const TrigValues& out);

}  // namespace er
