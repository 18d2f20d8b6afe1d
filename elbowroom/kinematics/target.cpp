#include "elbowroom/kinematics/target.hpp"

#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/input_error.hpp"

namespace er {

Target& Target::place(std::string tool, const Pose& pose) {
  if (!pose.position.allFinite() || !pose.rotation.allFinite())
    throw InputError("the target pose has a value that is not finite");
  tool_ = std::move(tool);
  pose_ = pose;
  return *this;
}

Target& Target::within(double position, double angle) {
  if (!(position > 0.0) || !(angle > 0.0) || !std::isfinite(position) || !std::isfinite(angle))
    throw InputError(fmt::format("a tolerance must be above zero, found {} mm and {} deg",
                                 to_mm(position), to_deg(angle)),
                     "leave it out for the default of 0.001 mm and 0.00006 deg");
  position_tolerance_ = position;
  angle_tolerance_ = angle;
  return *this;
}

Target& Target::named(std::string name) {
  name_ = std::move(name);
  return *this;
}

TargetError error_between(const Pose& wanted, const Pose& is) {
  TargetError error;
  error.twist.head<3>() = wanted.position - is.position;
  error.twist.tail<3>() = rotation_vector(wanted.rotation * is.rotation.transpose());
  error.position = error.twist.head<3>().norm();
  error.angle = error.twist.tail<3>().norm();
  return error;
}

bool is_met(const Target& target, const TargetError& error) {
  return error.position <= target.position_tolerance() && error.angle <= target.angle_tolerance();
}

}  // namespace er
