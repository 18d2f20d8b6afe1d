#include "elbowroom/base/float_rounding.hpp"

#include <cmath>
#include <limits>

namespace er {

float rounded_up_to_float(double value) {
  const auto near = static_cast<float>(value);
  return near >= value ? near : std::nextafter(near, std::numeric_limits<float>::infinity());
}

}  // namespace er
