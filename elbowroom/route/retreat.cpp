#include "elbowroom/route/retreat.hpp"

#include <Eigen/Cholesky>
#include <Eigen/Geometry>
#include <array>

#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

constexpr double kStep = 0.1;    // m
constexpr double kNear = 0.002;  // m; from where it should be: near enough
constexpr double kMost = 0.03;   // m; further off it has not been drawn back
constexpr int kSolves = 4;
// m/rad: how much a turn of the tool counts beside its way. Where joints are at their ends, turning
// a little is better than staying.
constexpr double kTurnWeight = 0.05;
constexpr double kDamping = 1e-4;

using Vector6 = Eigen::Matrix<double, 6, 1>;

// A unit vector; zero where there is none.
Vector3 direction_of(Retreat way, const Pose& tip, const Jacobian& jacobian) {
  if (way == Retreat::along_tool) return -tip.rotation.col(2);
  for (Eigen::Index k = 0; k < jacobian.cols(); ++k) {
    const Vector3 axis = jacobian.col(k).tail<3>();
    if (axis.isZero(0.5)) continue;
    // What it moves the tip by is axis x (from the axis to the tip).
    const Vector3 moved = jacobian.col(k).head<3>();
    return -moved.cross(axis).normalized();
  }
  return Vector3::Zero();
}

}  // namespace

// Damped least squares; what has come to the end of its range stays there.
std::optional<Posture> drawn_back(const Arm& arm, const Posture& from, Retreat way) {
  Jacobian jacobian;
  const Tool tool = arm.end_tool();
  Pose tip = tool_jacobian(arm, tool, from, jacobian);
  const Vector3 direction = direction_of(way, tip, jacobian);
  if (direction.isZero(0.5)) return std::nullopt;
  const Matrix3 rotation = tip.rotation;
  const Vector3 goal = tip.position + kStep * direction;
  Posture out = from;
  std::array<bool, kMaxJoints> at_end = {};
  for (int solve = 0; solve < kSolves && (goal - tip.position).norm() > kNear; ++solve) {
    Vector6 off;
    off << goal - tip.position, kTurnWeight * rotation_vector(rotation * tip.rotation.transpose());
    jacobian.bottomRows<3>() *= kTurnWeight;
    for (Eigen::Index k = 0; k < out.size(); ++k)
      if (at_end[static_cast<std::size_t>(k)]) jacobian.col(k).setZero();
    Eigen::Matrix<double, 6, 6> normal = jacobian * jacobian.transpose();
    normal.diagonal().array() += kDamping;
    const Posture next = out + jacobian.transpose() * normal.llt().solve(off);
    out = next.cwiseMax(arm.search_lower()).cwiseMin(arm.search_upper());
    for (Eigen::Index k = 0; k < out.size(); ++k)
      at_end[static_cast<std::size_t>(k)] |= out[k] != next[k];
    tip = tool_jacobian(arm, tool, out, jacobian);
  }
  if ((goal - tip.position).norm() > kMost) return std::nullopt;
  return out;
}

}  // namespace er
