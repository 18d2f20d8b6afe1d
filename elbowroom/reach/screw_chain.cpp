#include "elbowroom/reach/screw_chain.hpp"

#include <algorithm>

#include "elbowroom/base/trigonometric.hpp"

namespace er {

double change_of(const Screw& joint, double from, double to) {
  return joint.turns ? wrapped(to - from) : to - from;
}

Pose motion_of(const Screw& screw, double value) {
  if (!screw.turns) return Pose::at(value * screw.axis);
  const Matrix3 turn = rotation_about(screw.axis, value);
  return {turn, screw.point - turn * screw.point};
}

bool ScrewChain::is_turning(int joints) const { return size() == joints && slides() == 0; }

int ScrewChain::slides() const {
  return static_cast<int>(
      std::count_if(screws.begin(), screws.end(), [](const Screw& one) { return !one.turns; }));
}

Pose ScrewChain::at(const double* values) const {
  Pose pose = tip;
  for (int i = size() - 1; i >= 0; --i) pose = motion_of((*this)[i], values[i]) * pose;
  return pose;
}

Pose ScrewChain::place(const double* values, std::span<Screw> placed) const {
  Pose motion;
  for (std::size_t i = 0; i < screws.size(); ++i) {
    placed[i] = screws[i];
    placed[i].axis = motion.rotation * screws[i].axis;
    placed[i].point = motion * screws[i].point;
    motion = motion * motion_of(screws[i], values[i]);
  }
  return motion * tip;
}

ScrewChain ScrewChain::reversed() const {
  ScrewChain out;
  out.tip = tip.inverse();
  for (auto screw = screws.rbegin(); screw != screws.rend(); ++screw) {
    Screw turned = *screw;
    turned.axis = -(out.tip.rotation * screw->axis);
    turned.point = out.tip * screw->point;
    out.screws.push_back(turned);
  }
  return out;
}

LaneChain ScrewChain::in_lanes() const {
  ChainWalk walk;
  Pose frame;  // of the screw before, all joints zero
  for (const Screw& screw : screws) {
    const Pose here = Pose::at(screw.point);
    walk.end = walk.end * (frame.inverse() * here);
    walk.append(screw.axis, {screw.turns, static_cast<int>(walk.steps.size())});
    frame = here;
  }
  walk.end = walk.end * (frame.inverse() * tip);
  return lane_chain(walk, Pose{}, Pose{}).value();
}

std::optional<ScrewChain> screw_chain(const Arm& arm, const Tool& tool) {
  // Zero of every free joint; a held one stands where it is held.
  Posture zero = Posture::Zero(arm.dof());
  const auto is_held = [&](int k) { return arm.limits().lower[k] == arm.limits().upper[k]; };
  for (int k = 0; k < arm.dof(); ++k)
    if (is_held(k)) zero[k] = arm.limits().lower[k];
  const std::vector<Pose> poses = link_poses(arm, zero);
  ScrewChain chain;
  chain.tip = tool_pose(arm, tool, zero);
  for (const int l : arm.links_to(tool.link_index)) {
    const Link& link = arm.links()[static_cast<std::size_t>(l)];
    const int k = link.posture_index;
    if (k >= 0 && !is_held(k)) {
      const bool twice = std::any_of(chain.screws.begin(), chain.screws.end(),
                                     [&](const Screw& other) { return other.posture_index == k; });
      if (twice || link.posture_ratio != 1.0 || link.posture_offset != 0.0) return std::nullopt;
      const Pose& pose = poses[static_cast<std::size_t>(l)];
      chain.screws.push_back({pose.rotation * link.joint.axis, pose.position,
                              link.joint.kind == JointKind::revolute, k});
    }
  }
  return chain;
}

}  // namespace er
