#include "elbowroom/pace/path_efforts.hpp"

#include <fmt/format.h>

#include <cmath>

namespace er {

PathEfforts path_efforts(const ArmDynamics& dynamics, const PathRows& path, bool with_growth) {
  PathEfforts out;
  dynamics.along(path.position, path.slope, path.curvature, out.still, out.by_square,
                 with_growth ? &out.by_growth : nullptr);
  if (!dynamics.with_friction()) return out;
  if (!dynamics.damping().isZero(0.0)) out.by_rate = path.slope * dynamics.damping().asDiagonal();
  for (Eigen::Index k = 0; k < path.way.cols(); ++k) {
    const double friction = dynamics.friction()[k];
    if (friction == 0.0) continue;
    for (Eigen::Index i = 0; i < path.way.rows(); ++i)
      if (path.way(i, k) != 0.0) out.still(i, k) += std::copysign(friction, path.way(i, k));
  }
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
