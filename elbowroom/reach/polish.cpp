#include "elbowroom/reach/polish.hpp"

#include <Eigen/Geometry>
#include <Eigen/LU>

namespace er {
namespace {

using Vector6 = Eigen::Matrix<double, 6, 1>;
using Matrix6 = Eigen::Matrix<double, 6, 6>;

// The twist that is left, the tip's point and turn in the world, and the columns of the Jacobian.
Vector6 twist_left(const ScrewChain& chain, const Pose& wanted, const double* values, int fixed,
                   Matrix6& jacobian) {
  Pose motion;  // of all joints before
  std::array<Vector3, kMostClosedJoints> axes;
  std::array<Vector3, kMostClosedJoints> points;
  for (int i = 0; i < chain.size(); ++i) {
    const auto k = static_cast<std::size_t>(i);
    axes[k] = motion.rotation * chain[i].axis;
    points[k] = motion * chain[i].point;
    motion = motion * chain.motion(i, values[i]);
  }
  const Pose tip = motion * chain.tip;
  jacobian.setZero();
  int column = 0;
  for (int i = 0; i < chain.size() && column < 6; ++i) {
    if (i == fixed) continue;
    const auto k = static_cast<std::size_t>(i);
    if (chain[i].turns) {
      jacobian.col(column).head<3>() = axes[k].cross(tip.position - points[k]);
      jacobian.col(column).tail<3>() = axes[k];
    } else {
      jacobian.col(column).head<3>() = axes[k];
    }
    ++column;
  }
  Vector6 left;
  left.head<3>() = wanted.position - tip.position;
  left.tail<3>() = rotation_vector(wanted.rotation * tip.rotation.transpose());
  return left;
}

}  // namespace

Polished polish(const ScrewChain& chain, const Pose& wanted,
                std::array<double, kMostClosedJoints>& values, int fixed, int most_steps) {
  constexpr double kExact = 1e-14;
  Matrix6 jacobian;
  Vector6 left = twist_left(chain, wanted, values.data(), fixed, jacobian);
  const auto result = [&] { return Polished{left.head<3>().norm(), left.tail<3>().norm()}; };
  for (int i = 0; i < most_steps && left.norm() > kExact; ++i) {
    Vector6 step = jacobian.partialPivLu().solve(left);
    if (!step.allFinite()) return result();  // at a singularity a step says nothing
    if (const double largest = step.cwiseAbs().maxCoeff(); largest > 0.3) step *= 0.3 / largest;
    bool better = false;
    for (int halving = 0; halving < 4 && !better; ++halving, step *= 0.5) {
      auto next = values;
      int column = 0;
      for (int k = 0; k < chain.size() && column < 6; ++k)
        if (k != fixed) next[static_cast<std::size_t>(k)] += step[column++];
      Matrix6 next_jacobian;
      const Vector6 next_left = twist_left(chain, wanted, next.data(), fixed, next_jacobian);
      if (!(next_left.norm() < left.norm())) continue;
      better = true;
      values = next;
      left = next_left;
      jacobian = next_jacobian;
    }
    if (!better) return result();
  }
  return result();
}

}  // namespace er
