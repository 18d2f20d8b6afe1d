#include "elbowroom/reach/numeric.hpp"

#include <Eigen/Cholesky>
#include <algorithm>
#include <numbers>

namespace er {
namespace {

using Vector6 = Eigen::Matrix<double, 6, 1>;

// The damped step for weighted error e: J^T (J J^T + damping I)^-1 e, with held joints left out.
Posture damped_step(const Jacobian& jacobian, const Vector6& e, double damping,
                    const std::array<bool, kMaxJoints>& held) {
  Jacobian active = jacobian;
  for (Eigen::Index k = 0; k < active.cols(); ++k)
    if (held[static_cast<std::size_t>(k)]) active.col(k).setZero();
  Eigen::Matrix<double, 6, 6> normal = active.lazyProduct(active.transpose());
  normal.diagonal().array() += damping;
  const Vector6 y = normal.llt().solve(e);
  return active.transpose().lazyProduct(y);
}

}  // namespace

NumericSolve solve_from(const Arm& arm, const Target& target, const PostureRef& start,
                        const NumericOptions& options) {
  const Tool& tool = arm.tool(target.tool());
  const Limits& limits = arm.limits();
  Vector6 weights;
  weights << Vector3::Ones(), Vector3::Constant(options.angle_weight);

  NumericSolve now;
  now.posture = start;
  Jacobian jacobian;
  now.error = error_between(target.pose(), tool_jacobian(arm, tool, now.posture, jacobian));
  Vector6 e = weights.cwiseProduct(now.error.twist);
  double damping = 1e-3;
  const bool with_angle = options.angle_weight > 0.0;
  const auto good_enough = [&](double share) {
    return now.error.position <= share * target.position_tolerance() &&
           (!with_angle || now.error.angle <= share * target.angle_tolerance());
  };
  for (; now.iterations < options.iterations && !good_enough(0.1); ++now.iterations) {
    const Jacobian weighted = weights.asDiagonal() * jacobian;
    std::array<bool, kMaxJoints> held{};
    Posture step;
    // A joint at its limit that the step would push further is held, and the step taken again.
    for (int pass = 0; pass < 3; ++pass) {
      step = damped_step(weighted, e, damping, held);
      bool again = false;
      for (Eigen::Index k = 0; options.keep_limits && k < step.size(); ++k) {
        const bool stuck = (now.posture[k] <= limits.lower[k] && step[k] < 0.0) ||
                           (now.posture[k] >= limits.upper[k] && step[k] > 0.0);
        again |= stuck && !held[static_cast<std::size_t>(k)];
        held[static_cast<std::size_t>(k)] |= stuck;
      }
      if (!again) break;
    }
    const double largest = step.cwiseAbs().maxCoeff();
    if (largest > 1.0) step /= largest;  // a turn of more than a radian at once leads astray
    Posture next = now.posture + step;
    if (options.keep_limits) next = next.cwiseMax(limits.lower).cwiseMin(limits.upper);
    Jacobian next_jacobian;
    const TargetError next_error =
        error_between(target.pose(), tool_jacobian(arm, tool, next, next_jacobian));
    const Vector6 next_e = weights.cwiseProduct(next_error.twist);
    if (next_e.squaredNorm() < e.squaredNorm()) {
      const bool stalled = next_e.norm() > (1.0 - 1e-7) * e.norm();
      now.posture = next;
      now.error = next_error;
      e = next_e;
      jacobian = next_jacobian;
      damping = std::max(damping * 0.2, 1e-14);
      if (stalled) break;
    } else {
      damping *= 8.0;
      if (damping > 1e6) break;
    }
  }
  now.met = good_enough(1.0);
  return now;
}

}  // namespace er
