#include "elbowroom/reach/polish.hpp"

#include <Eigen/Geometry>
#include <Eigen/LU>

namespace er {
namespace {

using Vector6 = Eigen::Matrix<double, 6, 1>;
using Matrix6 = Eigen::Matrix<double, 6, 6>;

// The twist that is left, and the Jacobian of the tip.
Vector6 twist_left(const ScrewChain& chain, const Pose& wanted, const double* values,
                   Matrix6& jacobian) {
  std::array<Screw, 6> placed;
  const Pose tip = chain.place(values, placed);
  jacobian.setZero();
  for (int i = 0; i < chain.size(); ++i) {
    const Screw& screw = placed[static_cast<std::size_t>(i)];
    if (screw.turns) {
      jacobian.col(i).head<3>() = screw.axis.cross(tip.position - screw.point);
      jacobian.col(i).tail<3>() = screw.axis;
    } else {
      jacobian.col(i).head<3>() = screw.axis;
    }
  }
  Vector6 left;
  left.head<3>() = wanted.position - tip.position;
  left.tail<3>() = rotation_vector(wanted.rotation * tip.rotation.transpose());
  return left;
}

}  // namespace

Polished polish(const ScrewChain& chain, const Pose& wanted,
                std::array<double, kMostClosedJoints>& values, int most_steps) {
  constexpr double kExact = 1e-14;
  Matrix6 jacobian;
  Vector6 left = twist_left(chain, wanted, values.data(), jacobian);
  const auto result = [&] { return Polished{left.head<3>().norm(), left.tail<3>().norm()}; };
  for (int i = 0; i < most_steps && left.norm() > kExact; ++i) {
    Vector6 step = jacobian.partialPivLu().solve(left);
    if (!step.allFinite()) return result();  // at a singularity a step says nothing
    if (const double largest = step.cwiseAbs().maxCoeff(); largest > 0.3) step *= 0.3 / largest;
    bool better = false;
    for (int halving = 0; halving < 4 && !better; ++halving, step *= 0.5) {
      auto next = values;
      for (int k = 0; k < chain.size(); ++k) next[static_cast<std::size_t>(k)] += step[k];
      Matrix6 next_jacobian;
      const Vector6 next_left = twist_left(chain, wanted, next.data(), next_jacobian);
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
