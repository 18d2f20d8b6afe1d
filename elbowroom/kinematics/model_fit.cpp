#include "elbowroom/kinematics/model_fit.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/symmetric.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

// The free figures of a fit, put into an arm.
struct FreeFigure {
  int link = 0;
  int axis = -1;  // of the joint's place; -1 is its zero
};

Arm changed(const Arm& arm, const std::vector<FreeFigure>& free, const Eigen::VectorXd& by) {
  ArmDescription d = arm.description();
  for (std::size_t i = 0; i < free.size(); ++i) {
    Joint& joint = d.links[static_cast<std::size_t>(free[i].link)].joint;
    const double change = by[static_cast<Eigen::Index>(i)];
    if (free[i].axis < 0) {
      joint.origin = pose_at(joint, change);
    } else {
      joint.origin.position[free[i].axis] += change;
    }
  }
  return Arm::build(d);
}

Eigen::VectorXd residuals(const Arm& arm, const Tool& tool, const Recording& recording,
                          const Pose& to_frame) {
  Eigen::VectorXd out(static_cast<Eigen::Index>(6 * recording.rows.size()));
  Eigen::Index at = 0;
  for (const RecordedPose& row : recording.rows) {
    const Pose pose = to_frame * tool_pose(arm, tool, row.posture);
    out.segment<3>(at) = row.pose.position - pose.position;
    out.segment<3>(at + 3) =
        row.turned
            ? Vector3(kRecordedRadius * (pose.rotation * rotation_vector(pose.rotation.transpose() *
                                                                         row.pose.rotation)))
            : Vector3(Vector3::Zero());
    at += 6;
  }
  return out;
}

}  // namespace

ModelFit fit_recorded(const Arm& arm, const Tool& tool, const Recording& recording,
                      FitFreedom freedom, const Pose& frame) {
  check_recording(arm, recording);
  std::vector<FreeFigure> free;
  for (const int link : arm.links_to(tool.link_index)) {
    if (arm.links()[static_cast<std::size_t>(link)].posture_index < 0) continue;
    free.push_back({link, -1});
    if (freedom == FitFreedom::zeros_and_lengths)
      for (int axis = 0; axis < 3; ++axis) free.push_back({link, axis});
  }
  const auto count = static_cast<Eigen::Index>(free.size());
  const std::size_t per_row = recording.rows.front().turned ? 6 : 3;
  if (recording.rows.size() * per_row < free.size())
    throw InputError(
        fmt::format("{} rows are too few to fit {} figures", recording.rows.size(), free.size()),
        "record more postures, well spread over the ranges");
  const Pose to_frame = frame.inverse();
  ModelFit fit;
  const auto errors = [&](const Arm& a) {
    return errors_of(recording, [&](const Posture& q) { return to_frame * tool_pose(a, tool, q); });
  };
  fit.before = errors(arm);
  Eigen::VectorXd by = Eigen::VectorXd::Zero(count);
  Eigen::VectorXd now = residuals(arm, tool, recording, to_frame);
  double damping = 1e-6;
  for (; fit.iterations < 60; ++fit.iterations) {
    Eigen::MatrixXd jacobian(now.size(), count);
    constexpr double kStep = 1e-6;
    for (Eigen::Index k = 0; k < count; ++k) {
      Eigen::VectorXd up = by;
      Eigen::VectorXd down = by;
      up[k] += kStep;
      down[k] -= kStep;
      jacobian.col(k) = (residuals(changed(arm, free, up), tool, recording, to_frame) -
                         residuals(changed(arm, free, down), tool, recording, to_frame)) /
                        (2.0 * kStep);
    }
    // The damping keeps what the recording does not determine where it is.
    Eigen::MatrixXd normal = jacobian.transpose() * jacobian;
    normal.diagonal().array() += damping + 1e-9 * normal.diagonal().maxCoeff();
    const Eigen::VectorXd step = solve_symmetric(normal, -jacobian.transpose() * now);
    const Eigen::VectorXd next =
        residuals(changed(arm, free, by + step), tool, recording, to_frame);
    if (next.squaredNorm() < now.squaredNorm()) {
      const bool settled = step.norm() < 1e-11;
      by += step;
      now = next;
      damping = std::max(1e-12, 0.2 * damping);
      if (settled) break;
    } else {
      damping *= 10.0;
      if (damping > 1e3) break;
    }
  }
  fit.after = errors(changed(arm, free, by));
  for (std::size_t i = 0; i < free.size(); ++i) {
    const Joint& joint = arm.links()[static_cast<std::size_t>(free[i].link)].joint;
    const bool zero = free[i].axis < 0;
    fit.values.push_back(
        {zero ? fmt::format("zero of joint {}", joint.name)
              : fmt::format("{} of joint {}'s place", "xyz"[free[i].axis], joint.name),
         by[static_cast<Eigen::Index>(i)], zero && joint.kind == JointKind::revolute});
  }
  return fit;
}

std::string ModelFit::report() const {
  std::string out =
      fmt::format("  before the fit: {}\n  after it:       {}\n", text_of(before), text_of(after));
  Table table({"<figure", "change"});
  const bool lengths = std::any_of(values.begin(), values.end(),
                                   [](const FittedValue& value) { return !value.is_angle; });
  for (const FittedValue& value : values)
    table.row({value.what, value.is_angle ? fmt::format("{:+.4f} deg", to_deg(value.change) + 0.0)
                                          : fmt::format("{:+.4f} mm", to_mm(value.change) + 0.0)});
  return out + table.text() +
         (lengths ? "  several figures may do the same; the smallest changes that do it are shown\n"
                  : "");
}

}  // namespace er
