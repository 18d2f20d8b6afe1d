#include "elbowroom/model/posture_text.hpp"

#include <fmt/format.h>

#include <cmath>

namespace er {

std::vector<std::string> joint_headings(const Arm& arm) {
  std::vector<std::string> out;
  for (int k = 0; k < arm.dof(); ++k) {
    const Joint& joint = arm.moving_joint(k);
    out.push_back(joint.name + (joint.kind == JointKind::prismatic ? " mm" : " deg"));
  }
  return out;
}

std::vector<std::string> joint_cells(const Arm& arm, const PostureRef& posture) {
  std::vector<std::string> out;
  for (int k = 0; k < arm.dof(); ++k) {
    const bool slides = arm.moving_joint(k).kind == JointKind::prismatic;
    const double value = slides ? to_mm(posture[k]) : to_deg(posture[k]);
    out.push_back(fmt::format("{:.1f}", std::round(value * 10.0) / 10.0 + 0.0));
  }
  return out;
}

std::string posture_argument(const Arm& arm, const PostureRef& posture) {
  const std::vector<std::string> cells = joint_cells(arm, posture);
  std::string text;
  for (int k = 0; k < arm.dof(); ++k)
    text += fmt::format("{}{} {}", k == 0 ? "" : ", ", cells[static_cast<std::size_t>(k)],
                        arm.moving_joint(k).kind == JointKind::revolute ? "deg" : "mm");
  return text;
}

std::string TravelUnit::number(double travel) const {
  return fmt::format("{:.{}f}", scale * travel, digits);
}

std::string TravelUnit::text(double travel) const { return number(travel) + " " + name; }

TravelUnit travel_unit(const Arm& arm) {
  int slides = 0;
  for (int k = 0; k < arm.dof(); ++k)
    slides += arm.moving_joint(k).kind == JointKind::prismatic ? 1 : 0;
  if (slides == 0) return {};
  if (slides == arm.dof()) return {"mm", to_mm(1.0), 0};
  return {"rad and m", 1.0, 2};
}

}  // namespace er
