// How joints are read: their limits, zero and sense, and whom they follow; and Denavit-Hartenberg
// tables, whose rows say the same of their joints.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/files/document.hpp"
#include "elbowroom/model/arm.hpp"
#include "elbowroom/model/data_sheet.hpp"

namespace er {

/// A `follow:` whose ratio can only be checked once all joints are known.
struct FollowNode {
  const Node* node = nullptr;
  std::size_t link = 0;
};

/// The keys of JointLimits and of what resists a motion, in any group that describes a joint.
const std::vector<std::string>& limit_keys();
void read_limits(const Node& node, JointKind kind, JointLimits& limits);

JointKind read_joint_kind(const Node& node, bool& continuous);

/// "reversed" or "usual".
bool read_reversed(const Node& node);

Joint read_joint(const Node& node, FollowNode& follow);
/// Works out the `follow:` of joints, now that it is known which slide and which turn.
void finish_follows(std::vector<Link>& links, const std::vector<FollowNode>& follows);

/// A `dh:` group: form, base_link, base, rows, end, tool. The pose after the last row becomes a
/// tool, named "tip" unless `tool:` names it.
std::vector<Link> read_dh(const Node& node, ArmDescription& arm);

}  // namespace er
