#include "elbowroom/pace/path_efforts.hpp"

#include <fmt/format.h>

#include <cmath>

namespace er {

namespace {

ArmDynamics inertia_alone(const Arm& arm, DynamicsOptions options) {
  options.friction = false;
  options.gravity = 0.0;
  return ArmDynamics(arm, options);
}

}  // namespace

EvenEfforts even_efforts(const Arm& arm, const DynamicsOptions& options,
                         const PostureRows& position, const PostureRows& slope,
                         const PostureRows& curvature, const PostureRows& way) {
  DynamicsOptions masses = options;
  masses.friction = false;
  const ArmDynamics weight(arm, masses);
  const PostureRows none = PostureRows::Zero(position.rows(), position.cols());
  EvenEfforts out{none, none, none};
  weight.inverse(position, none, none, out.still);
  inertia_alone(arm, options).inverse(position, slope, curvature, out.by_square);
  if (!options.friction) return out;
  for (Eigen::Index k = 0; k < position.cols(); ++k) {
    const double damping = weight.damping()[k];
    const double friction = weight.friction()[k];
    if (damping != 0.0) out.by_rate.col(k) = damping * slope.col(k);
    if (friction == 0.0) continue;
    for (Eigen::Index i = 0; i < position.rows(); ++i)
      if (way(i, k) != 0.0) out.still(i, k) += std::copysign(friction, way(i, k));
  }
  return out;
}

PostureRows efforts_by_growth(const Arm& arm, const DynamicsOptions& options,
                              const PostureRows& position, const PostureRows& slope) {
  const PostureRows none = PostureRows::Zero(position.rows(), position.cols());
  PostureRows out = none;
  inertia_alone(arm, options).inverse(position, none, slope, out);
  return out;
}

std::optional<Reason> too_heavy_to_hold(const PostureRows& still, const Posture& most,
                                        const Arm& arm) {
  double worst = 1.0;
  int joint = -1;
  for (int k = 0; k < arm.dof(); ++k)
    if (const double share = still.col(k).cwiseAbs().maxCoeff() / most[k]; share >= worst) {
      worst = share;
      joint = k;
    }
  if (joint < 0) return std::nullopt;
  return Reason{Cause::too_heavy,
                fmt::format("no: on the way {} needs {:.1f} % of its torque limit to hold what it "
                            "carries, however slowly it moves",
                            arm.moving_joint(joint).name, 100.0 * worst),
                {{"share", worst, ""}}};
}

}  // namespace er
