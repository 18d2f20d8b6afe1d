#include "elbowroom/pace/axis.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"

namespace er {

AxisLimits symmetric_limits(double velocity, double acceleration, double jerk) {
  return {-velocity, velocity, -acceleration, acceleration, jerk};
}

void check_limits(const AxisLimits& limits) {
  const auto check = [](const char* what, double low, double high) {
    if (!(low < 0.0) || !(high > 0.0))
      throw InputError(
          fmt::format("{} limits are below and above zero, found {:g} and {:g}", what, low, high));
  };
  check("velocity", limits.velocity_low, limits.velocity_high);
  check("acceleration", limits.acceleration_low, limits.acceleration_high);
}

std::string target_breach(const AxisState& to, const AxisLimits& limits) {
  const auto outside = [](const char* what, double value, double low, double high) -> std::string {
    constexpr double kRounding = 1e-9;
    if (value > high + kRounding * std::abs(high))
      return fmt::format("its {} of {:.4g} is above the limit of {:.4g}", what, value, high);
    if (value < low - kRounding * std::abs(low))
      return fmt::format("its {} of {:.4g} is below the limit of {:.4g}", what, value, low);
    return {};
  };
  std::string breach = outside("velocity", to.velocity, limits.velocity_low, limits.velocity_high);
  if (breach.empty())
    breach =
        outside("acceleration", to.acceleration, limits.acceleration_low, limits.acceleration_high);
  if (!breach.empty() || !std::isfinite(limits.jerk)) return breach;
  const double before =
      to.velocity - to.acceleration * std::abs(to.acceleration) / (2.0 * limits.jerk);
  return outside("velocity before it took up that acceleration", before, limits.velocity_low,
                 limits.velocity_high);
}

void check_target(const AxisState& to, const AxisLimits& limits) {
  if (const std::string breach = target_breach(to, limits); !breach.empty())
    throw InputError("a motion cannot end as asked: " + breach);
}

AxisPiece AxisProfile::piece(int index) const {
  const auto& p = pieces_[static_cast<std::size_t>(index)];
  return {p[0], p[1], {p[2], p[3], p[4]}};
}

void AxisProfile::add_with_acceleration(double duration, double acceleration) {
  end_.acceleration = acceleration;
  add(duration, 0.0);
}

AxisState AxisProfile::at(double time) const {
  double jerk = 0.0;
  return at(time, jerk);
}

AxisState AxisProfile::at(double time, double& jerk) const {
  jerk = 0.0;
  if (count_ == 0 || time >= duration_) return end_;
  time = std::max(time, 0.0);
  int i = 0;
  while (i + 1 < count_ && time > piece(i).duration) time -= piece(i++).duration;
  jerk = piece(i).jerk;
  return advanced(piece(i).start, jerk, time);
}

}  // namespace er
