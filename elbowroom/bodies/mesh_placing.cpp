#include "elbowroom/bodies/mesh_placing.hpp"

#include <Eigen/Cholesky>
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

constexpr double kOff = 0.5e-3;     // m; a feature nearer than this to an axis is on it,
constexpr double kTilt = 3e-3;      // rad; and no more tilted
constexpr double kParallel = 0.05;  // rad

struct Line {
  Vector3 point = Vector3::Zero();
  Vector3 way = Vector3::UnitZ();

  [[nodiscard]] bool is_on(const Line& other) const {
    return way.cross(other.way).norm() <= kTilt &&
           (point - other.point).cross(other.way).norm() <= kOff;
  }
};

// Each line once.
std::vector<Line> axes_of(const Arm& arm) {
  const std::vector<Pose> at = link_poses(arm.mounted_at({}), Posture::Zero(arm.dof()));
  std::vector<Line> out;
  for (std::size_t l = 0; l < at.size(); ++l) {
    const Joint& joint = arm.links()[l].joint;
    if (joint.kind != JointKind::revolute) continue;
    const Line line{at[l].position, at[l].rotation * joint.axis};
    if (std::none_of(out.begin(), out.end(), [&](const Line& one) { return line.is_on(one); }))
      out.push_back(line);
  }
  return out;
}

// Of the features each line once, at the middle of the largest.
std::vector<Line> lines_of(std::vector<RoundFeature> features) {
  std::stable_sort(features.begin(), features.end(),
                   [](const RoundFeature& a, const RoundFeature& b) {
                     return a.radius * a.length > b.radius * b.length;
                   });
  constexpr std::size_t kMost = 60;
  std::vector<Line> out;
  for (const RoundFeature& one : features) {
    const Line line{one.middle, one.axis};
    if (out.size() < kMost &&
        std::none_of(out.begin(), out.end(), [&](const Line& other) { return line.is_on(other); }))
      out.push_back(line);
  }
  return out;
}

Line moved(const Line& line, const Pose& by) { return {by * line.point, by.rotation * line.way}; }

// For each axis the line that lies on it; -1: none.
std::vector<int> matches(const std::vector<Line>& axes, const std::vector<Line>& lines,
                         const Pose& at) {
  std::vector<int> out(axes.size(), -1);
  for (std::size_t i = 0; i < lines.size(); ++i) {
    const Line line = moved(lines[i], at);
    for (std::size_t k = 0; k < axes.size(); ++k)
      if (out[k] < 0 && line.is_on(axes[k])) out[k] = static_cast<int>(i);
  }
  return out;
}
int count_of(const std::vector<int>& matched) {
  return static_cast<int>(
      std::count_if(matched.begin(), matched.end(), [](int line) { return line >= 0; }));
}

// Two lines that are not parallel, and a frame that they give.
struct Corner {
  std::size_t first;
  std::size_t second;
  double opening;  // cosine
  Matrix3 frame;
};
// `either_way`: each line runs both ways.
std::vector<Corner> corners_of(const std::vector<Line>& lines, bool either_way) {
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
Vector3 shift_for(const std::vector<Line>& axes, const std::vector<Line>& lines,
                  const std::vector<int>& matched, const Matrix3& rotation) {
  Matrix3 normal = Matrix3::Zero();
  Vector3 right = Vector3::Zero();
  for (std::size_t k = 0; k < axes.size(); ++k) {
    if (matched[k] < 0) continue;
    const Line& line = lines[static_cast<std::size_t>(matched[k])];
    const Matrix3 square = Matrix3::Identity() - axes[k].way * axes[k].way.transpose();
    normal += square;
    right += square * (axes[k].point - rotation * line.point);
  }
  return normal.ldlt().solve(right);
}

}  // namespace

std::optional<MeshPlacing> placing_on(const std::vector<RoundFeature>& features, const Arm& arm) {
  const std::vector<Line> axes = axes_of(arm);
  const std::vector<Line> lines = lines_of(features);
  MeshPlacing best{.axes = static_cast<int>(axes.size())};
  const int as_it_is = count_of(matches(axes, lines, {}));
  if (as_it_is == best.axes) return std::nullopt;
  const auto turn_of = [](const Pose& pose) { return Eigen::AngleAxisd(pose.rotation).angle(); };
  const auto consider = [&](const Matrix3& rotation, std::vector<int> matched) {
    Pose at{rotation, shift_for(axes, lines, matched, rotation)};
    matched = matches(axes, lines, at);
    at.position = shift_for(axes, lines, matched, rotation);
    const int count = count_of(matches(axes, lines, at));
    const double apart = turn_of({best.at.rotation.transpose() * rotation, Vector3::Zero()});
    const bool is_other = apart > 10.0 * kTilt;
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
      if (std::abs(found.opening - wanted.opening) > kTilt) continue;
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
