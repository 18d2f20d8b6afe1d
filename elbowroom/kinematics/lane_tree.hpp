// A whole arm made ready for kernels that place all its links in eight postures side by side.
#pragma once

#include <vector>

#include "elbowroom/model/arm.hpp"

namespace er {

/// The arm's moving joints as a tree. Each has a frame that its link carries, with the joint's axis
/// as z: from the frame before, turned by a constant about z, onward, tilted about x, then turned
/// (or slid) by the joint. See model/chain_walk.
struct LaneTree {
  struct Joint {
    int before = -1;  ///< the joint before it in `joints`; -1 hangs on the mount
    int entry = 0;    ///< of the posture
    double turn_ratio = 0.0;
    double turn_offset = 0.0;  ///< 0 of one that slides
    double slide_ratio = 0.0;
    double last_turn_cosine = 1.0;  ///< the constant turn
    double last_turn_sine = 0.0;
    Vector3 onward = Vector3::Zero();
    double tilt_cosine = 1.0;
    double tilt_sine = 0.0;
    Pose start = {};  ///< of a joint on the mount: its frame in the world, before it turns
  };
  std::vector<Joint> joints = {};  ///< in the order of their links
  /// Of each link of the arm: the joint that carries it (-1: the mount), and its frame in that
  /// joint's frame (of the mount: in the world).
  struct Carried {
    int joint = -1;
    Pose at = {};
  };
  std::vector<Carried> links = {};
};

LaneTree lane_tree(const Arm& arm);

/// The frame of each joint of the tree; one posture. What kernels are held against.
std::vector<Pose> joint_frames(const LaneTree& tree, const PostureRef& posture);

}  // namespace er
