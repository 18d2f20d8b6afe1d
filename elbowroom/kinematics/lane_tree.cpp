#include "elbowroom/kinematics/lane_tree.hpp"

#include <cmath>

#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

// The last moving link on the way to `link`, itself not counted; -1 when there is none.
int moving_link_before(const Arm& arm, int link) {
  do {
    link = arm.links()[static_cast<std::size_t>(link)].parent_index;
  } while (link >= 0 && arm.links()[static_cast<std::size_t>(link)].posture_index < 0);
  return link;
}

Pose turn_about_z(double cosine, double sine) {
  Pose out;
  out.rotation << cosine, -sine, 0.0, sine, cosine, 0.0, 0.0, 0.0, 1.0;
  return out;
}

Pose tilt_about_x(double cosine, double sine) {
  Pose out;
  out.rotation << 1.0, 0.0, 0.0, 0.0, cosine, -sine, 0.0, sine, cosine;
  return out;
}

}  // namespace

LaneTree lane_tree(const Arm& arm) {
  LaneTree tree;
  std::vector<int> joint_of_link(arm.links().size(), -1);
  // A joint's own zero is where its first joint onward can be reached by a tilt alone; one that
  // slides does not turn.
  std::vector<bool> has_zero;
  for (int l = 0; l < static_cast<int>(arm.links().size()); ++l) {
    if (arm.links()[static_cast<std::size_t>(l)].posture_index < 0) continue;
    const ChainWalk& walk = arm.walk_to(l);
    const WalkStep& own = walk.steps.back();
    LaneTree::Joint joint{.entry = own.entry,
                          .turn_ratio = own.turn_ratio,
                          .turn_offset = own.turns() ? own.turn_offset : 0.0,
                          .slide_ratio = own.slide_ratio};
    if (const int link_before = moving_link_before(arm, l); link_before < 0) {
      joint.start = arm.mount() * walk.start;
    } else {
      const WalkStep& step = walk.steps[walk.steps.size() - 2];
      const auto before =
          static_cast<std::size_t>(joint_of_link[static_cast<std::size_t>(link_before)]);
      joint.before = static_cast<int>(before);
      if (!has_zero[before]) tree.joints[before].turn_offset = step.turn_offset;
      has_zero[before] = true;
      const double left = step.turn_offset - tree.joints[before].turn_offset;
      joint.last_turn_cosine = std::cos(left);
      joint.last_turn_sine = std::sin(left);
      joint.onward = step.onward;
      joint.tilt_cosine = step.tilt_cosine;
      joint.tilt_sine = step.tilt_sine;
    }
    joint_of_link[static_cast<std::size_t>(l)] = static_cast<int>(tree.joints.size());
    tree.joints.push_back(joint);
    has_zero.push_back(!own.turns());
  }
  const Posture zero = Posture::Zero(arm.dof());
  const std::vector<Pose> frames = joint_frames(tree, zero);
  const std::vector<Pose> poses = link_poses(arm, zero);
  for (int l = 0; l < static_cast<int>(arm.links().size()); ++l) {
    const auto index = static_cast<std::size_t>(l);
    const bool moves = arm.links()[index].posture_index >= 0;
    const int carrier = moves ? l : moving_link_before(arm, l);
    const int joint = carrier < 0 ? -1 : joint_of_link[static_cast<std::size_t>(carrier)];
    tree.links.push_back(
        {joint, joint < 0 ? poses[index]
                          : frames[static_cast<std::size_t>(joint)].inverse() * poses[index]});
  }
  return tree;
}

std::vector<Pose> joint_frames(const LaneTree& tree, const PostureRef& posture) {
  std::vector<Pose> frames;
  for (const LaneTree::Joint& joint : tree.joints) {
    Pose frame = joint.start;
    if (joint.before >= 0)
      frame = frames[static_cast<std::size_t>(joint.before)] *
              turn_about_z(joint.last_turn_cosine, joint.last_turn_sine) * Pose::at(joint.onward) *
              tilt_about_x(joint.tilt_cosine, joint.tilt_sine);
    const double value = posture[joint.entry];
    const double turn = joint.turn_ratio * value + joint.turn_offset;
    frames.push_back(frame * turn_about_z(std::cos(turn), std::sin(turn)) *
                     Pose::at({0.0, 0.0, joint.slide_ratio * value}));
  }
  return frames;
}

}  // namespace er
