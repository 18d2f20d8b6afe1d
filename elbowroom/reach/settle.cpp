#include "elbowroom/reach/settle.hpp"

#include <Eigen/Cholesky>
#include <Eigen/Geometry>
#include <algorithm>

#include "elbowroom/base/trigonometric.hpp"
#include "elbowroom/base/twist.hpp"

namespace er {
namespace {

constexpr double kExact = 1e-13;  // m and rad; what needs no step

Twist left_at(const ScrewChain& chain, const Pose& wanted, const ClosedSolution& at) {
  return twist_between(chain.at(at.values.data()), wanted, 1.0);
}

double size_of(const Twist& left) { return std::max(left.velocity.norm(), left.turning.norm()); }

PerJoint newton_step(const ChainJacobian& jacobian, const Twist& left) {
  constexpr double kDamping = 1e-12;
  Eigen::Matrix<double, 6, 1> wanted;
  wanted << left.velocity, left.turning;
  Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, 0, 6, 6> square =
      jacobian.transpose() * jacobian;
  square.diagonal().array() += kDamping;
  return square.ldlt().solve(jacobian.transpose() * wanted);
}

}  // namespace

ChainJacobian jacobian_of(const ScrewChain& chain, const double* values) {
  std::array<Screw, kMostClosedJoints> placed;
  const Vector3 tip = chain.place(values, placed).position;
  ChainJacobian out(6, chain.size());
  for (int k = 0; k < chain.size(); ++k) {
    const Screw& screw = placed[static_cast<std::size_t>(k)];
    if (screw.turns)
      out.col(k) << screw.axis.cross(tip - screw.point), screw.axis;
    else
      out.col(k) << screw.axis, Vector3::Zero();
  }
  return out;
}

void move_by(const ScrewChain& chain, const PerJoint& step, ClosedSolution& solution) {
  for (int k = 0; k < chain.size(); ++k) {
    double& value = solution.values[static_cast<std::size_t>(k)];
    value = chain[k].turns ? wrapped(value + step[k]) : value + step[k];
  }
}

double settle(const ScrewChain& chain, const Pose& wanted, int most_steps,
              ClosedSolution& solution) {
  Twist left = left_at(chain, wanted, solution);
  for (int i = 0; i < most_steps && size_of(left) > kExact; ++i) {
    ClosedSolution next = solution;
    move_by(chain, newton_step(jacobian_of(chain, solution.values.data()), left), next);
    const Twist left_there = left_at(chain, wanted, next);
    if (!(size_of(left_there) < size_of(left))) break;  // as near as rounding, or the chain, allows
    solution = next;
    left = left_there;
  }
  return size_of(left);
}

}  // namespace er
