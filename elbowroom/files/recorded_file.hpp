// Recorded postures and poses, as tables of comma-separated values.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/follow/steer.hpp"
#include "elbowroom/kinematics/recorded.hpp"

namespace er {

/// Reads a recording. The first line names each column and its unit: "waist deg, ..., x mm, y mm,
/// z mm, a deg, b deg, c deg". Joints by their names, all of them; x, y, z of the tool's tip;
/// optionally its orientation, as three angles a, b, c in the given order (roll, pitch, yaw are
/// accepted for fixed_xyz) or as a quaternion qw, qx, qy, qz. Lines that begin with # are passed
/// over. Throws InputError with line and column.
Recording load_recording(const std::filesystem::path& path, const Arm& arm,
                         const RotationOrder& order);

/// The same without joints: poses alone, which must have an orientation.
std::vector<Pose> load_poses(const std::filesystem::path& path, const RotationOrder& order);

/// Poses in a row, with times where there is a column t.
struct TimedPoses {
  std::vector<double> times = {};  ///< s; empty without the column
  std::vector<Pose> poses = {};
};
TimedPoses load_timed_poses(const std::filesystem::path& path, const RotationOrder& order);

/// Commands by hand, each of which holds until the next: columns x, y, z, roll, pitch, yaw, as many
/// as there are; without a unit or in % as deflections of a stick, which `scale` gives a speed; in
/// "mm/s" or "deg/s" as velocities along the axes and about them. `t s`, or `rate` rows a second.
/// Throws InputError with line and column, also for deflections beyond -1 to 1.
TwistRecord load_twists(const std::filesystem::path& path, const StickScale& scale, double rate);

}  // namespace er
