#include "elbowroom/kinematics/chain_steps.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/base/units.hpp"

namespace er {
namespace {

constexpr double kNil = 5e-13;

// A rotation as turns about its own moving axes, those that are nil left out.
void add_factors(const RotationOrder& order, const Matrix3& rotation,
                 std::vector<std::string>& factors) {
  const Vector3 angles = angles_of(order, rotation);
  for (Eigen::Index n = 0; n < 3; ++n) {
    // Fixed axes in one order are moving axes in the reverse order: write the product left to
    // right.
    const Eigen::Index i = order.moving ? n : 2 - n;
    if (std::abs(angles[i]) < kNil) continue;
    factors.push_back(fmt::format("R{}({:.3f} deg)", "xyz"[order.axes[static_cast<std::size_t>(i)]],
                                  to_deg(angles[i])));
  }
}

ChainStep step_of(const Arm& arm, const Link& link, const PostureRef& posture) {
  const Joint& joint = link.joint;
  const double value = joint_value(link, posture);
  ChainStep step{
      .name = "", .motion = "", .factors = {}, .own = pose_at(joint, value), .total = {}};
  add_factors(arm.rotations(), joint.origin.rotation, step.factors);
  if (joint.kind == JointKind::fixed) {
    step.name = fmt::format("fixed {}", joint.name);
    return step;
  }
  step.name = fmt::format("joint {}", joint.name);
  const bool turns = joint.kind == JointKind::revolute;
  step.motion = fmt::format("{} {} {} {}", turns ? "turns" : "slides", text_value(joint, value),
                            turns ? "about" : "along", text_direction(joint.axis));
  if (!joint.follow.joint.empty()) step.motion += fmt::format(", following {}", joint.follow.joint);
  if (turns && std::abs(value) > kNil)
    step.factors.push_back(
        fmt::format("R{}({:.3f} deg)", text_direction(joint.axis), to_deg(value)));
  return step;
}

std::string matrix_rows(const ChainStep& step) {
  const std::array<Pose, 2> both{without_rounding(step.own), without_rounding(step.total)};
  std::string out = fmt::format("      {:<44}   {}\n", "in the frame before", "in the world");
  out += fmt::format("      {:>8} {:>8} {:>8}  {:>12}   {:>8} {:>8} {:>8}  {:>12}\n", "x axis",
                     "y axis", "z axis", "position", "x axis", "y axis", "z axis", "position");
  for (Eigen::Index i = 0; i < 3; ++i) {
    out += fmt::format("    {} ", "xyz"[i]);
    for (const Pose& pose : both) {
      for (Eigen::Index k = 0; k < 3; ++k) out += fmt::format("{:>8.5f} ", pose.rotation(i, k));
      out += fmt::format(" {:>9.3f} mm   ", to_mm(pose.position[i]));
    }
    out.erase(out.find_last_not_of(' ') + 1);
    out += '\n';
  }
  return out;
}

}  // namespace

std::vector<ChainStep> chain_steps(const Arm& arm, const Tool& tool, const PostureRef& posture) {
  std::vector<ChainStep> steps;
  ChainStep mount{.name = "mount", .motion = "", .factors = {}, .own = arm.mount(), .total = {}};
  add_factors(arm.rotations(), arm.mount().rotation, mount.factors);
  steps.push_back(mount);
  for (const int link : arm.links_to(tool.link_index))
    if (link != 0)
      steps.push_back(step_of(arm, arm.links()[static_cast<std::size_t>(link)], posture));
  ChainStep tip{.name = fmt::format("tip of {}", tool.name),
                .motion = "",
                .factors = {},
                .own = tool.tip,
                .total = {}};
  add_factors(arm.rotations(), tool.tip.rotation, tip.factors);
  steps.push_back(tip);
  Pose total;
  for (ChainStep& step : steps) {
    total = total * step.own;
    step.total = total;
  }
  return steps;
}

std::string text_of(const std::vector<ChainStep>& steps) {
  std::string out;
  for (std::size_t i = 0; i < steps.size(); ++i) {
    const ChainStep& step = steps[i];
    out += fmt::format("\n  {}. {}{}\n", i + 1, step.name,
                       step.motion.empty() ? "" : ": " + step.motion);
    out += matrix_rows(step);
    out += fmt::format(
        "      rotation: {}\n",
        step.factors.empty() ? "none" : fmt::format("{}", fmt::join(step.factors, " ")));
  }
  return out +
         "\n  Columns are the axes of the frame and its origin; the fourth row, 0 0 0 1, is left "
         "out.\n  A rotation is the product of its factors from left to right.\n";
}

}  // namespace er
