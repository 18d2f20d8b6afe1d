#include "elbowroom/pace/acceleration_limited.hpp"

#include <algorithm>
#include <cmath>

namespace er {

AccelerationLimited::AccelerationLimited(const AxisState& from, const AxisState& to,
                                         const AxisLimits& limits)
    : limits_(limits), prefix_(from) {
  check_limits(limits);
  AxisLimits jumping = limits;
  jumping.jerk = std::numeric_limits<double>::infinity();
  check_target({to.position, to.velocity, 0.0}, jumping);
  const double over = from.velocity - limits.velocity_high;
  const double under = limits.velocity_low - from.velocity;
  if (over > 0.0)
    prefix_.add_with_acceleration(over / -limits.acceleration_low, limits.acceleration_low);
  if (under > 0.0)
    prefix_.add_with_acceleration(under / limits.acceleration_high, limits.acceleration_high);
  back_within_ = prefix_.duration();
  v0_ = prefix_.end().velocity;
  v1_ = to.velocity;
  distance_ = to.position - prefix_.end().position;
  const double change = v1_ - v0_;
  least_change_ = change / (change > 0.0 ? limits.acceleration_high : limits.acceleration_low);
  const double at_once = 0.5 * (v0_ + v1_) * least_change_;
  shortest_ = distance_ == at_once ? least_change_ : meeting_time(distance_ > at_once ? 1.0 : -1.0);
}

// Between two plateaus, accelerations of both changes; to the plateau and from it.
AccelerationLimited::Changes AccelerationLimited::changes(double plateau) const {
  const double to = plateau > v0_ ? limits_.acceleration_high : limits_.acceleration_low;
  const double from = v1_ > plateau ? limits_.acceleration_high : limits_.acceleration_low;
  Changes out{(plateau - v0_) / to, (v1_ - plateau) / from, 0.0};
  out.displacement = 0.5 * ((v0_ + plateau) * out.first + (plateau + v1_) * out.second);
  return out;
}

double AccelerationLimited::displacement(double plateau, double time) const {
  const Changes c = changes(plateau);
  return c.displacement + plateau * (time - c.first - c.second);
}

// 1 / acceleration of both changes, and their sum, for plateaus beyond both ends on one side.
double AccelerationLimited::inverse_accelerations(double sign, double& first,
                                                  double& second) const {
  first = 1.0 / (sign > 0.0 ? limits_.acceleration_high : -limits_.acceleration_low);
  second = 1.0 / (sign > 0.0 ? -limits_.acceleration_low : limits_.acceleration_high);
  return first + second;
}

// The highest plateau (sign 1) or the lowest that there is time for.
double AccelerationLimited::extreme_plateau(double sign, double time) const {
  double first = 0.0;
  double second = 0.0;
  const double both = inverse_accelerations(sign, first, second);
  const double free = (sign * time + v0_ * first + v1_ * second) / both;
  return sign > 0.0 ? std::min(free, limits_.velocity_high) : std::max(free, limits_.velocity_low);
}

// When the farthest up (sign 1) or down meets the distance: at a plateau with no cruise, or with
// one at the limit.
double AccelerationLimited::meeting_time(double sign) const {
  double first = 0.0;
  double second = 0.0;
  const double both = inverse_accelerations(sign, first, second);
  const double square = (2.0 * sign * distance_ + v0_ * v0_ * first + v1_ * v1_ * second) / both;
  const double most = sign > 0.0 ? limits_.velocity_high : limits_.velocity_low;
  const double peak = sign * std::sqrt(std::max(square, 0.0));
  const bool cruises = sign * peak > sign * most;
  const Changes c = changes(cruises ? most : peak);
  return c.first + c.second + (cruises ? (distance_ - c.displacement) / most : 0.0);
}

double AccelerationLimited::possible_from(double duration) const {
  double time = duration - back_within_;
  if (time <= shortest_) return shortest();
  const double up = displacement(extreme_plateau(1.0, time), time);
  const double down = displacement(extreme_plateau(-1.0, time), time);
  const double alike = 1e-13 * (std::abs(distance_) + std::abs(up) + std::abs(down));
  if (distance_ > up + alike) time = std::max(time, meeting_time(1.0));
  if (distance_ < down - alike) time = std::max(time, meeting_time(-1.0));
  return time == duration - back_within_ ? duration : back_within_ + time;
}

// The displacement in a fixed time grows with the plateau: linearly between the two ends, by a
// parabola beyond them.
double AccelerationLimited::plateau_for(double time) const {
  const double low = std::min(v0_, v1_);
  const double high = std::max(v0_, v1_);
  const double at_low = displacement(low, time);
  const double at_high = displacement(high, time);
  if (distance_ >= at_low && distance_ <= at_high) {
    const double idle = time - least_change_;
    return idle > 0.0 ? std::clamp(low + (distance_ - at_low) / idle, low, high) : high;
  }
  const double sign = distance_ > at_high ? 1.0 : -1.0;
  double first = 0.0;
  double second = 0.0;
  const double half = 0.5 * inverse_accelerations(sign, first, second);
  // sign * half * p^2 - (time + sign * (v0 first + v1 second)) p + constant = 0; of its roots the
  // nearer one.
  const double middle = 0.5 * (sign * time + v0_ * first + v1_ * second) / half;
  const double edge = sign > 0.0 ? high : low;
  const double at_edge = sign > 0.0 ? at_high : at_low;
  const double reach = middle - edge;
  const double root = std::sqrt(std::max(reach * reach - sign * (distance_ - at_edge) / half, 0.0));
  // middle - sign * root, without cancellation.
  const double plateau = edge + (distance_ - at_edge) / (half * (std::abs(reach) + root));
  return std::clamp(plateau, extreme_plateau(-1.0, time), extreme_plateau(1.0, time));
}

AxisProfile AccelerationLimited::profile(double duration) const {
  AxisProfile out = prefix_;
  const double time = std::max(duration - back_within_, 0.0);
  const double plateau = plateau_for(time);
  const Changes c = changes(plateau);
  out.add_with_acceleration(c.first, (plateau - v0_) / c.first);
  out.add_with_acceleration(time - c.first - c.second, 0.0);
  out.add_with_acceleration(c.second, (v1_ - plateau) / c.second);
  return out;
}

}  // namespace er
