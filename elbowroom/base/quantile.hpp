// Order statistics of measurements.
#pragma once

#include <vector>

namespace er {

/// The value below which a share of them lies: the nearest of those there are. NaN when empty.
double quantile(std::vector<double> values, double share);
inline double median(const std::vector<double>& values) { return quantile(values, 0.5); }

}  // namespace er
