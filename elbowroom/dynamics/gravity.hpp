// What gravity asks of the motors.
#pragma once

#include "elbowroom/model/arm.hpp"

namespace er {

/// The torque (N m) or force (N) with which each joint has to hold the arm still in a posture, by
/// the masses that its links state; world z is up, 9.80665 m/s^2. A joint that others follow holds
/// those, too. Sources: virtual work, e.g. Siciliano et al., "Robotics", 2009, section 7.1.
Posture gravity_load(const Arm& arm, const PostureRef& posture);

/// The first link beyond the base that has shapes and states no mass; -1 when all do.
int link_without_mass(const Arm& arm);
/// True when there is none.
bool states_masses(const Arm& arm);

}  // namespace er
