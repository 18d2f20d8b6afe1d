#include "elbowroom/kinematics/touch_fit.hpp"

#include <fmt/format.h>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/symmetric.hpp"

namespace er {

Verdict<TouchFit> fit_touching(const std::vector<Pose>& flange) {
  if (flange.size() < 4)
    throw InputError(fmt::format("{} poses are too few for a tool centre point", flange.size()),
                     "touch one point in at least four, each turned another way");
  Eigen::Matrix<double, 6, 6> normal = Eigen::Matrix<double, 6, 6>::Zero();
  Eigen::Matrix<double, 6, 1> right = Eigen::Matrix<double, 6, 1>::Zero();
  for (const Pose& pose : flange) {
    Eigen::Matrix<double, 3, 6> rows;
    rows << pose.rotation, -Matrix3::Identity();
    normal += rows.transpose() * rows;
    right -= rows.transpose() * pose.position;
  }
  const double weakest = symmetric_eigen(normal).values[0] / static_cast<double>(flange.size());
  // It falls with the square of the angle between poses; nil when all turn about one axis alone.
  if (weakest < 0.002)
    return Reason{Cause::not_sayable,
                  "no: the flange is turned too little from pose to pose to tell where the tip is",
                  {{"weakest", weakest, ""}},
                  {{"turn it by 30 deg or more, about at least two axes"}}};
  const Eigen::Matrix<double, 6, 1> solution = solve_symmetric(normal, right);
  TouchFit fit{solution.head<3>(), solution.tail<3>(), 0.0, 0.0};
  for (const Pose& pose : flange) {
    const double off = (pose * fit.tip - fit.point).norm();
    fit.worst = std::max(fit.worst, off);
    fit.mean += off / static_cast<double>(flange.size());
  }
  return fit;
}

}  // namespace er
