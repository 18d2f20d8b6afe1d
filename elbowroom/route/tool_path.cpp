#include "elbowroom/route/tool_path.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

constexpr double kSamePoint = 1e-5;       // m
constexpr double kAcross = 0.01;          // m a radian, that a trace's parameter counts of turns
constexpr std::size_t kCellsBetween = 8;  // of a trace, from each pose to the next

}  // namespace

ToolLine::ToolLine(const Pose& from, const Pose& to)
    : from_(from), way_(twist_between(from, to, 1.0)) {
  if (length() < 1e-9 && turn() < 1e-9)
    throw InputError("the line has no length: the tool is already there", "leave the step out");
}

Pose ToolLine::at(double parameter) const { return moved(from_, way_, parameter / end()); }

ToolArc::ToolArc(const Pose& from, const Vector3& through, const Pose& to)
    : from_(from), turn_(twist_between(from, to, 1.0).turning) {
  const Vector3 a = through - from.position;
  const Vector3 b = to.position - from.position;
  const Vector3 normal = a.cross(b);
  const double size = normal.squaredNorm();
  for (const Vector3& side : {a, b, Vector3(b - a)})
    if (side.norm() < kSamePoint)
      throw InputError("two of an arc's three points are the same",
                       "give a point between its ends");
  if (!(size > 1e-12 * a.squaredNorm() * b.squaredNorm()))
    throw InputError("an arc's three points lie on one straight line",
                     "give a point beside the line, or a straight line");
  const Vector3 out =
      (b.squaredNorm() * normal.cross(a) + a.squaredNorm() * b.cross(normal)) / (2.0 * size);
  centre_ = from.position + out;
  radius_ = out.norm();
  axis_ = normal.normalized();
  const Vector3 start = from.position - centre_;
  const Vector3 there = to.position - centre_;
  angle_ = std::atan2(axis_.dot(start.cross(there)), start.dot(there));
  if (angle_ < 0.0) angle_ += 2.0 * std::numbers::pi;
}

Pose ToolArc::at(double parameter) const {
  const double share = parameter / end();
  return {moved(from_, {Vector3::Zero(), turn_}, share).rotation,
          centre_ + rotation_about(axis_, share * angle_) * (from_.position - centre_)};
}

ToolTurn::ToolTurn(const Pose& from, const Vector3& point, const Vector3& axis, double angle,
                   bool tool_turns)
    : from_(from), angle_(angle), tool_turns_(tool_turns) {
  if (!(axis.norm() > 1e-9))
    throw InputError("an axis of no length points nowhere", "give it like [0, 0, 1], or z");
  axis_ = axis.normalized();
  if (!(std::abs(angle) > 1e-9) || !std::isfinite(angle))
    throw InputError("a turn by no angle leads nowhere", "give an angle like 90 deg");
  // The foot of the tip on the axis: the middle of its circle.
  point_ = point + axis_.dot(from.position - point) * axis_;
  radius_ = (from.position - point_).norm();
  if (radius_ < kSamePoint) {
    if (!tool_turns)
      throw InputError("a circle of no radius: the tip is on its axis",
                       "move the axis, or let the tool turn with it");
    radius_ = 0.0;
  }
}

Pose ToolTurn::at(double parameter) const {
  const Matrix3 turned = rotation_about(axis_, angle_ * parameter / end());
  Pose out{tool_turns_ ? Matrix3(turned * from_.rotation) : from_.rotation, from_.position};
  if (!in_place()) out.position = point_ + turned * (from_.position - point_);
  return out;
}

ToolTrace::ToolTrace(const std::vector<Pose>& poses)
    : path_(times_at_speed(poses, 1.0, 1.0 / kAcross), poses),
      turn_(twist_between(poses.front(), poses.back(), 1.0).turning.norm()) {
  const std::size_t cells = kCellsBetween * (poses.size() - 1);
  ends_.push_back(0.0);
  for (std::size_t i = 0; i < cells; ++i) {
    const double from = path_.duration() * static_cast<double>(i) / static_cast<double>(cells);
    const double to = path_.duration() * static_cast<double>(i + 1) / static_cast<double>(cells);
    ends_.push_back(ends_.back() + covered(from, to));
    length_ += (path_.at(to).position - path_.at(from).position).norm();
  }
}

double ToolTrace::speed(double time) const {
  const double step = 1e-6 * path_.duration();
  const double low = std::max(time - step, 0.0);
  const double high = std::min(time + step, path_.duration());
  const Twist twist = twist_between(path_.at(low), path_.at(high), high - low);
  return std::hypot(twist.velocity.norm(), kAcross * twist.turning.norm());
}

// Three points of Gauss and Legendre.
double ToolTrace::covered(double from, double to) const {
  const double half = 0.5 * (to - from);
  const double middle = from + half;
  const double out = half * std::sqrt(0.6);
  return half * (5.0 * speed(middle - out) + 8.0 * speed(middle) + 5.0 * speed(middle + out)) / 9.0;
}

Pose ToolTrace::at(double parameter) const {
  parameter = std::clamp(parameter, 0.0, end());
  const auto after = std::upper_bound(ends_.begin(), ends_.end() - 1, parameter);
  const auto cell = static_cast<std::size_t>(after - ends_.begin()) - 1;
  const double width = path_.duration() / static_cast<double>(ends_.size() - 1);
  const double from = width * static_cast<double>(cell);
  // Newton's steps, from an even speed within the cell.
  const double share = (parameter - ends_[cell]) / (ends_[cell + 1] - ends_[cell]);
  double time = from + share * width;
  for (int i = 0; i < 6; ++i) {
    const double left = parameter - ends_[cell] - covered(from, time);
    if (std::abs(left) < 1e-12 * end()) break;
    time = std::clamp(time + left / std::max(speed(time), 1e-12), from, from + width);
  }
  return path_.at(time);
}

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
  if (const auto* freed = std::get_if<ToolFreed>(&path_)) return freed->kind();
  return std::array<std::string_view, 4>{"straight line", "arc", "turn", "trace"}.at(path_.index());
}

Matrix3 rotation_offset(double lean_x, double lean_y, double turn) {
  const double lean = std::hypot(lean_x, lean_y);
  const Matrix3 turned = rotation_about(Vector3::UnitZ(), turn);
  if (lean < 1e-12) return turned;
  return rotation_about(Vector3(lean_x, lean_y, 0.0) / lean, lean) * turned;
}

ToolFreed::ToolFreed(const ToolPath& path, JointCurve offsets)
    : path_(std::make_shared<const ToolPath>(path)), offsets_(std::move(offsets)) {}

Pose ToolFreed::at(double parameter) const {
  Pose out = path_->at(parameter);
  const Posture offset = offsets_.at(parameter).position;
  out.rotation = out.rotation * rotation_offset(offset[0], offset[1], offset[2]);
  return out;
}

double ToolFreed::end() const { return path_->end(); }
double ToolFreed::length() const { return path_->length(); }
double ToolFreed::turn() const { return path_->turn(); }
std::string_view ToolFreed::kind() const { return path_->kind(); }

ToolPath::Deviation ToolPath::deviation_of(const Pose& pose, double near) const {
  // Towards the foot of the perpendicular, by tangents; where the tip stands still, by turns.
  const double step = 1e-6 * end();
  double parameter = std::clamp(near, 0.0, end());
  for (int i = 0; i < 6; ++i) {
    const double low = std::max(parameter - step, 0.0);
    const double high = std::min(parameter + step, end());
    const Twist tangent = twist_between(at(low), at(high), high - low);
    const Twist left = twist_between(at(parameter), pose, 1.0);
    const bool moves = tangent.velocity.norm() > 1e-3 * tangent.turning.norm();
    const Vector3& way = moves ? tangent.velocity : tangent.turning;
    const Vector3& off = moves ? left.velocity : left.turning;
    if (way.squaredNorm() == 0.0) break;
    const double next = std::clamp(parameter + way.dot(off) / way.squaredNorm(), 0.0, end());
    const bool is_there = std::abs(next - parameter) < 1e-5 * end();
    parameter = next;
    if (is_there) break;
  }
  const Twist left = twist_between(at(parameter), pose, 1.0);
  return {left.velocity.norm(), left.turning.norm(), parameter};
}

}  // namespace er
