#include "elbowroom/bodies/mesh_placing.hpp"

#include <Eigen/Cholesky>
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "elbowroom/bodies/axis_lines.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

constexpr double kParallel = 0.05;  // rad

std::vector<AxisLine> moved(std::vector<AxisLine> lines, const Pose& by) {
  for (AxisLine& line : lines) line = line.moved(by);
  return lines;
}

// Two lines that are not parallel, and a frame that they give.
struct Corner {
  std::size_t first;
  std::size_t second;
  double opening;  // cosine
  Matrix3 frame;
};
// `either_way`: each line runs both ways.
std::vector<Corner> corners_of(const std::vector<AxisLine>& lines, bool either_way) {
  std::vector<Corner> out;
  const auto add = [&](std::size_t i, std::size_t k, const Vector3& first, const Vector3& second) {
    Corner one{i, k, first.dot(second), Matrix3::Identity()};
    one.frame.col(0) = first;
    one.frame.col(1) = (second - one.opening * first).normalized();
    one.frame.col(2) = first.cross(one.frame.col(1));
    out.push_back(one);
  };
  for (std::size_t i = 0; i < lines.size(); ++i)
    for (std::size_t k = 0; k < lines.size(); ++k) {
      if (!(lines[i].way.cross(lines[k].way).norm() > std::sin(kParallel))) continue;
      add(i, k, lines[i].way, lines[k].way);
      if (!either_way) continue;
      add(i, k, -lines[i].way, lines[k].way);
      add(i, k, lines[i].way, -lines[k].way);
      add(i, k, -lines[i].way, -lines[k].way);
    }
  return out;
}

// Right angles that are meant to be, but for the rounding of the file.
Matrix3 squared(const Matrix3& rotation) {
  constexpr double kNear = 1e-4;
  const Matrix3 rounded = rotation.array().round().matrix();
  return (rotation - rounded).cwiseAbs().maxCoeff() < kNear ? rounded : rotation;
}

// The shift after a turn that brings lines nearest to their axes (least squares).
Vector3 shift_for(const std::vector<AxisLine>& axes, const std::vector<AxisLine>& lines,
                  const std::vector<int>& matched, const Matrix3& rotation) {
  Matrix3 normal = Matrix3::Zero();
  Vector3 right = Vector3::Zero();
  for (std::size_t k = 0; k < axes.size(); ++k) {
    if (matched[k] < 0) continue;
    const AxisLine& line = lines[static_cast<std::size_t>(matched[k])];
    const Matrix3 square = Matrix3::Identity() - axes[k].way * axes[k].way.transpose();
    normal += square;
    right += square * (axes[k].point - rotation * line.point);
  }
  return normal.ldlt().solve(right);
}

}  // namespace

std::optional<MeshPlacing> placing_on(const std::vector<RoundFeature>& features, const Arm& arm) {
  const std::vector<AxisLine> axes =
      distinct(axis_lines(arm, link_poses(arm.mounted_at({}), Posture::Zero(arm.dof()))));
  const std::vector<AxisLine> lines = feature_lines(features);
  MeshPlacing best{.axes = static_cast<int>(axes.size())};
  const int as_it_is = count_of_lines(lines_on(axes, lines));
  if (as_it_is == best.axes) return std::nullopt;
  const auto turn_of = [](const Pose& pose) { return Eigen::AngleAxisd(pose.rotation).angle(); };
  const auto consider = [&](const Matrix3& rotation, std::vector<int> matched) {
    Pose at{rotation, shift_for(axes, lines, matched, rotation)};
    matched = lines_on(axes, moved(lines, at));
    at.position = shift_for(axes, lines, matched, rotation);
    const int count = count_of_lines(lines_on(axes, moved(lines, at)));
    const double apart = turn_of({best.at.rotation.transpose() * rotation, Vector3::Zero()});
    const bool is_other = apart > 10.0 * kSameTurn;
    if (count > best.matched || (count == best.matched && turn_of(at) < turn_of(best.at))) {
      best.is_only = count > best.matched || (best.is_only && !is_other);
      best.at = at;
      best.matched = count;
    } else if (count == best.matched && is_other) {
      best.is_only = false;
    }
  };
  const std::vector<Corner> of_lines = corners_of(lines, true);
  for (const Corner& wanted : corners_of(axes, false)) {
    if (wanted.first > wanted.second) continue;  // the same two
    for (const Corner& found : of_lines) {
      if (std::abs(found.opening - wanted.opening) > kSameTurn) continue;
      std::vector<int> matched(axes.size(), -1);
      matched[wanted.first] = static_cast<int>(found.first);
      matched[wanted.second] = static_cast<int>(found.second);
      consider(squared(wanted.frame * found.frame.transpose()), std::move(matched));
    }
  }
  const bool is_believed =
      best.matched > as_it_is && best.matched >= 3 && 2 * best.matched >= best.axes;
  return is_believed ? std::optional(best) : std::nullopt;
}

}  // namespace er
