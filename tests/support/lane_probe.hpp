// What kernels are written with, made callable for tests.
#pragma once

namespace er::test {

/// angle_of() of base/lanes-inl.hpp for many points.
void angles_of_points(const double* y, const double* x, int count, double* angles);

}  // namespace er::test
