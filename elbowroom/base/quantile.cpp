#include "elbowroom/base/quantile.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace er {

double quantile(std::vector<double> values, double share) {
  if (values.empty()) return std::numeric_limits<double>::quiet_NaN();
  const auto place = values.begin() + std::lround(share * static_cast<double>(values.size() - 1));
  std::nth_element(values.begin(), place, values.end());
  return *place;
}

}  // namespace er
