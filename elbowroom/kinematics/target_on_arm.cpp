#include "elbowroom/kinematics/target_on_arm.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

// The link and the frame in it that a name stands for: a tool's tip, or a link.
TargetOnArm::Bound bind(const Arm& arm, const Requirement& requirement) {
  const std::string& name = requirement.of;
  if (name.empty()) {
    if (arm.tools().empty())
      throw InputError(
          fmt::format("arm '{}' has no tool for requirement '{}'", arm.name(), requirement.name),
          "give the arm a tool under tools:, or say which link it is of");
    return {&requirement, arm.tools().front().link_index,
            arm.tools().front().tip * requirement.frame};
  }
  for (const Tool& tool : arm.tools())
    if (tool.name == name) return {&requirement, tool.link_index, tool.tip * requirement.frame};
  for (std::size_t i = 0; i < arm.links().size(); ++i)
    if (arm.links()[i].name == name) return {&requirement, static_cast<int>(i), requirement.frame};
  std::vector<std::string> known;
  for (const Tool& tool : arm.tools()) known.push_back(tool.name);
  for (const Link& link : arm.links()) known.push_back(link.name);
  throw unknown_name("tool or link", name, known);
}

void narrow(const Arm& arm, const Requirement& requirement, Posture& lower, Posture& upper) {
  for (const JointBands::One& one : std::get_if<JointBands>(&requirement.holds)->joints) {
    const int index = arm.find_moving_joint(one.joint);
    if (index < 0) {
      std::vector<std::string> known;
      for (int k = 0; k < arm.dof(); ++k) known.push_back(arm.moving_joint(k).name);
      throw unknown_name("moving joint", one.joint, known);
    }
    lower[index] = std::max(lower[index], one.value.lower);
    upper[index] = std::min(upper[index], one.value.upper);
    if (lower[index] > upper[index])
      throw InputError(
          fmt::format("requirement '{}' leaves joint {} no value: its range is {} to {}",
                      requirement.name, one.joint,
                      text_value(arm.moving_joint(index), arm.limits().lower[index]),
                      text_value(arm.moving_joint(index), arm.limits().upper[index])),
          "let the bands and the range overlap");
  }
}

}  // namespace

TargetOnArm::TargetOnArm(const Arm& arm, const Target& target)
    : arm_(&arm), target_(&target), lower_(arm.limits().lower), upper_(arm.limits().upper) {
  bool any = false;
  for (const Requirement& one : target.requirements()) {
    if (!one.on) continue;
    any = true;
    if (std::holds_alternative<JointBands>(one.holds)) {
      narrow(arm, one, lower_, upper_);
      continue;
    }
    if (count_ == kMostRequirements)
      throw InputError(fmt::format("target '{}' has more than {} requirements", target.name(),
                                   kMostRequirements),
                       "switch some off");
    bound_[static_cast<std::size_t>(count_++)] = bind(arm, one);
  }
  if (!any)
    throw InputError(fmt::format("target '{}' asks for nothing", target.name()),
                     target.requirements().empty() ? "give it a requirement, such as a place"
                                                   : "switch one of its requirements on");
}

TargetOnArm::Error TargetOnArm::error_of(int requirement, const PostureRef& posture) const {
  const Bound& one = (*this)[requirement];
  ErrorRows rows;
  error_rows(*one.requirement, frame_pose(*arm_, one.link, one.frame, posture),
             arm_->links()[static_cast<std::size_t>(one.link)], one.frame, rows);
  return {rows.position(), rows.angle()};
}

TargetOnArm::Error TargetOnArm::error(const PostureRef& posture) const {
  Error sum;
  for (int i = 0; i < count_; ++i) {
    const Error one = error_of(i, posture);
    sum = {std::hypot(sum.position, one.position), std::hypot(sum.angle, one.angle)};
  }
  return sum;
}

bool TargetOnArm::is_met(const PostureRef& posture) const {
  for (Eigen::Index k = 0; k < posture.size(); ++k)
    if (posture[k] < lower_[k] - 1e-9 || posture[k] > upper_[k] + 1e-9) return false;
  for (int i = 0; i < count_; ++i) {
    const Error one = error_of(i, posture);
    if (one.position > (*this)[i].requirement->position_tolerance ||
        one.angle > (*this)[i].requirement->angle_tolerance)
      return false;
  }
  return true;
}

double TargetOnArm::equations(const PostureRef& posture, double angle_weight, NormalEquations& out,
                              Error& error) const {
  const int n = arm_->dof();
  std::fill_n(out.a.begin(), n * n, 0.0);
  std::fill_n(out.b.begin(), n, 0.0);
  out.cost = 0.0;
  error = {};
  double worst = 0.0;
  Jacobian jacobian;
  Pose frame;
  ErrorRows rows;
  for (int i = 0; i < count_; ++i) {
    const Bound& one = (*this)[i];
    const bool same = i > 0 && one.link == (*this)[i - 1].link &&
                      one.frame.position == (*this)[i - 1].frame.position &&
                      one.frame.rotation == (*this)[i - 1].frame.rotation;
    if (!same) frame = frame_jacobian(*arm_, one.link, one.frame, posture, jacobian);
    error_rows(*one.requirement, frame, arm_->links()[static_cast<std::size_t>(one.link)],
               one.frame, rows);
    const double position = rows.position();
    const double angle = rows.angle();
    worst = std::max(worst, position / one.requirement->position_tolerance);
    if (angle_weight > 0.0) worst = std::max(worst, angle / one.requirement->angle_tolerance);
    error = {std::hypot(error.position, position), std::hypot(error.angle, angle)};
    for (const ErrorRow& row : rows) {
      const double weight = one.weight * (row.is_angle ? angle_weight : 1.0);
      if (weight == 0.0) continue;
      std::array<double, kMaxJoints> gradient;
      for (int k = 0; k < n; ++k)
        gradient[static_cast<std::size_t>(k)] =
            weight * (row.by_velocity.dot(jacobian.col(k).head<3>()) +
                      row.by_turn.dot(jacobian.col(k).tail<3>()));
      const double e = weight * row.error;
      out.cost += e * e;
      for (int r = 0; r < n; ++r) {
        const double g = gradient[static_cast<std::size_t>(r)];
        out.b[static_cast<std::size_t>(r)] += g * e;
        double* a = out.a.data() + static_cast<std::ptrdiff_t>(r) * n;
        for (int c = 0; c <= r; ++c) a[c] += g * gradient[static_cast<std::size_t>(c)];
      }
    }
  }
  return worst;
}

}  // namespace er
