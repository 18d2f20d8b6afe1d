#include "elbowroom/route/tool_path.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/twist.hpp"

namespace er {
namespace {

constexpr double kTurnPerMetre = 10.0;  // rad: where a trace turns more, its parameter goes by that

Matrix3 turned_by(const Vector3& turn, double share) {
  const double angle = turn.norm();
  return angle < 1e-12 ? Matrix3(Matrix3::Identity()) : rotation_about(turn / angle, share * angle);
}

Vector3 turn_between(const Pose& from, const Pose& to) {
  return rotation_vector(to.rotation * from.rotation.transpose());
}

}  // namespace

ToolLine::ToolLine(const Pose& from, const Pose& to)
    : from_(from), shift_(to.position - from.position), turn_(turn_between(from, to)) {
  if (length() < 1e-9 && turn() < 1e-9)
    throw InputError("the line has no length: the tool is already there", "leave the step out");
}

Pose ToolLine::at(double parameter) const {
  const double share = parameter / end();
  return {turned_by(turn_, share) * from_.rotation, from_.position + share * shift_};
}

ToolArc::ToolArc(const Pose& from, const Vector3& through, const Pose& to)
    : from_(from), turn_(turn_between(from, to)) {
  const Vector3 a = through - from.position;
  const Vector3 b = to.position - from.position;
  const Vector3 normal = a.cross(b);
  const double size = normal.squaredNorm();
  if (!(size > 1e-12 * a.squaredNorm() * b.squaredNorm()) || (b - a).norm() < 1e-9)
    throw InputError("an arc's three points lie on one straight line",
                     "give a point beside the line, or a straight line");
  const Vector3 out =
      (b.squaredNorm() * normal.cross(a) + a.squaredNorm() * b.cross(normal)) / (2.0 * size);
  centre_ = from.position - out;
  radius_ = out.norm();
  axis_ = normal.normalized();
  const Vector3 start = from.position - centre_;
  const auto angle_to = [&](const Vector3& point) {
    const Vector3 there = point - centre_;
    const double angle = std::atan2(axis_.dot(start.cross(there)), start.dot(there));
    return angle < 0.0 ? angle + 2.0 * std::numbers::pi : angle;
  };
  angle_ = angle_to(to.position);
}

Pose ToolArc::at(double parameter) const {
  const double share = parameter / end();
  return {turned_by(turn_, share) * from_.rotation,
          centre_ + rotation_about(axis_, share * angle_) * (from_.position - centre_)};
}

ToolTrace::ToolTrace(const std::vector<Pose>& poses)
    : path_(times_at_speed(poses, 1.0, kTurnPerMetre), poses),
      turn_(turn_between(poses.front(), poses.back()).norm()) {}

Pose ToolPath::at(double parameter) const {
  return std::visit([&](const auto& path) { return path.at(parameter); }, path_);
}
double ToolPath::end() const {
  return std::visit([](const auto& path) { return path.end(); }, path_);
}
double ToolPath::length() const {
  return std::visit([](const auto& path) { return path.length(); }, path_);
}
double ToolPath::turn() const {
  return std::visit([](const auto& path) { return path.turn(); }, path_);
}
std::string_view ToolPath::kind() const {
  return std::array<std::string_view, 3>{"straight line", "arc", "trace"}.at(path_.index());
}

ToolPath::Deviation ToolPath::deviation_of(const Pose& pose, double near) const {
  // Towards the foot of the perpendicular, by tangents; where the tip stands still, by turns.
  const double step = 1e-6 * end();
  double parameter = std::clamp(near, 0.0, end());
  for (int i = 0; i < 4; ++i) {
    const double low = std::max(parameter - step, 0.0);
    const double high = std::min(parameter + step, end());
    const Twist tangent = twist_between(at(low), at(high), high - low);
    const Twist left = twist_between(at(parameter), pose, 1.0);
    const bool moves = tangent.velocity.norm() > 1e-3 * tangent.turning.norm();
    const Vector3& way = moves ? tangent.velocity : tangent.turning;
    const Vector3& off = moves ? left.velocity : left.turning;
    if (way.squaredNorm() == 0.0) break;
    parameter = std::clamp(parameter + way.dot(off) / way.squaredNorm(), 0.0, end());
  }
  const Twist left = twist_between(at(parameter), pose, 1.0);
  return {left.velocity.norm(), left.turning.norm(), parameter};
}

}  // namespace er
