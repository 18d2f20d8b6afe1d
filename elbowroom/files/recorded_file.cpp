#include "elbowroom/files/recorded_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/files/unit_table.hpp"

namespace er {
namespace {

// The pose in one row; angles are kept as they stand.
RecordedPose pose_in(const UnitTable& table, std::size_t row, const RotationOrder& order) {
  RecordedPose out;
  const auto length = [&](const char* name) { return table.value(row, name, dimension::length); };
  out.pose.position = {length("x"), length("y"), length("z")};
  if (table.has("qw")) {
    const auto number = [&](const char* name) { return table.value(row, name, dimension::number); };
    out.pose.rotation =
        rotation_from_quaternion({number("qw"), number("qx"), number("qy"), number("qz")});
    return out;
  }
  const bool rpy = table.has("roll");
  out.turned = rpy || table.has("a");
  if (!out.turned) return out;
  const auto angle = [&](const char* name) { return table.value(row, name, dimension::angle); };
  out.angles = rpy ? Vector3(angle("roll"), angle("pitch"), angle("yaw"))
                   : Vector3(angle("a"), angle("b"), angle("c"));
  out.has_angles = true;
  out.pose.rotation = rotation_from(rpy ? RotationOrder{} : order, out.angles);
  return out;
}

constexpr std::array<const char*, 6> kTwistColumns{"x", "y", "z", "roll", "pitch", "yaw"};

double deflection_in(const UnitTable& table, std::size_t row, const std::string& name) {
  const double value = table.value(row, name, dimension::number);
  if (std::abs(value) > 1.0)
    throw InputError(fmt::format("a deflection is -1 to 1, found {}", value),
                     fmt::format("give column '{}' a unit if it is a velocity", name),
                     table.place(row, name));
  return value;
}

Twist twist_in(const UnitTable& table, std::size_t row, const StickScale& scale) {
  std::array<double, 6> deflections{};
  Twist twist;
  for (std::size_t i = 0; i < 6; ++i) {
    const std::string name = kTwistColumns[i];
    if (!table.has(name)) continue;
    if (!table.has_unit(name))
      deflections[i] = deflection_in(table, row, name);
    else if (i < 3)
      twist.velocity[static_cast<Eigen::Index>(i)] =
          table.value(row, name, per(dimension::length, 1));
    else
      twist.turning[static_cast<Eigen::Index>(i - 3)] =
          table.value(row, name, per(dimension::angle, 1));
  }
  const Twist by_stick = twist_of_sticks(deflections, scale);
  twist.velocity += by_stick.velocity;
  twist.turning += by_stick.turning;
  return twist;
}

}  // namespace

Recording load_recording(const std::filesystem::path& path, const Arm& arm,
                         const RotationOrder& order) {
  const UnitTable table(path);
  Recording recording;
  recording.order = table.has("roll") ? RotationOrder{} : order;
  for (std::size_t i = 0; i < table.rows(); ++i) {
    RecordedPose row = pose_in(table, i, order);
    row.posture = Posture(arm.dof());
    for (int k = 0; k < arm.dof(); ++k)
      row.posture[k] =
          table.value(i, arm.moving_joint(k).name, value_dimension(arm.moving_joint(k).kind));
    recording.rows.push_back(std::move(row));
  }
  return recording;
}

std::vector<Pose> load_poses(const std::filesystem::path& path, const RotationOrder& order) {
  return load_timed_poses(path, order).poses;
}

TimedPoses load_timed_poses(const std::filesystem::path& path, const RotationOrder& order) {
  const UnitTable table(path);
  TimedPoses out;
  for (std::size_t i = 0; i < table.rows(); ++i) {
    const RecordedPose row = pose_in(table, i, order);
    if (!row.turned)
      throw InputError("these poses have no orientation", "add columns a, b, c or qw, qx, qy, qz",
                       {path.string(), 1, 1});
    out.poses.push_back(row.pose);
    if (table.has("t")) out.times.push_back(table.value(i, "t", dimension::time));
  }
  return out;
}

TwistRecord load_twists(const std::filesystem::path& path, const StickScale& scale, double rate) {
  if (!(rate > 0.0) || !std::isfinite(rate))
    throw InputError("the rate of the rows is above zero a second");
  const UnitTable table(path);
  if (std::none_of(kTwistColumns.begin(), kTwistColumns.end(),
                   [&](const char* name) { return table.has(name); }))
    throw InputError("no column says which way", "name columns x, y, z, roll, pitch or yaw",
                     table.heading());
  TwistRecord record;
  const bool timed = table.has("t");
  double first = 0.0;
  for (std::size_t i = 0; i < table.rows(); ++i) {
    const double time =
        timed ? table.value(i, "t", dimension::time) : static_cast<double>(i) / rate;
    if (i == 0) first = time;
    if (i > 0 && !(time - first > record.times.back()))
      throw InputError(
          fmt::format("the times ascend, found {} s after {} s", time, first + record.times.back()),
          "", table.place(i, "t"));
    record.times.push_back(time - first);
    record.twists.push_back(twist_in(table, i, scale));
  }
  const std::size_t n = record.times.size();
  record.duration =
      record.times.back() + (n > 1 ? record.times.back() - record.times[n - 2] : 1.0 / rate);
  return record;
}

}  // namespace er
