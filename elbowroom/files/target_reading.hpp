// How targets are read: full places in the short form, requirements of every kind in the long one.
#pragma once

#include <vector>

#include "elbowroom/collision/frame_speed.hpp"
#include "elbowroom/files/document.hpp"
#include "elbowroom/kinematics/target_on_arm.hpp"
#include "elbowroom/model/cell.hpp"

namespace er {

/// What targets in one file share unless they say otherwise.
struct TargetDefaults {
  std::string tool = {};
  std::string frame = {};
  Matrix3 rotation = Matrix3::Identity();
  double position_tolerance = 1e-4;
  double angle_tolerance = 1e-3;
};

/// Keys of a file that set TargetDefaults: tool, in, within, and those of a rotation.
const std::vector<std::string>& target_default_keys();
std::vector<std::string> with_target_defaults(std::vector<std::string> keys);
/// The arm that the key `arm` of a file names; the only arm when it does not.
const Arm& arm_of_file(const Node& root, const Cell& cell);
TargetDefaults read_target_defaults(const Node& root, const Cell& cell, const Arm& arm);

/// The list under `targets:`; names are unique.
std::vector<Target> read_targets(const Node& node, const Cell& cell, const Arm& arm,
                                 const TargetDefaults& defaults);

/// What holds on a whole way.
struct KeptRules {
  std::vector<Requirement> rules = {};
  std::vector<FrameSpeed> speeds = {};
};
/// One entry under `keep:`: a requirement as under `require:` that can be kept (check_rule), or
/// {speed: 250 mm/s, of: wrist} of a frame; what has no name is named by its kind and a number.
void read_kept(const Node& node, const Cell& cell, const Arm& arm, const TargetDefaults& defaults,
               KeptRules& out);
/// Such entries, each a text of its own; errors say `where` it stands.
KeptRules read_kept(const std::vector<std::string>& texts, const std::string& where,
                    const Cell& cell, const Arm& arm, const TargetDefaults& defaults);

/// One entry under `require:`, such as {direction: {axis: z, along: [0, 0, -1]}, name: down}.
Requirement read_requirement(const Node& node, const Cell& cell, const Arm& arm,
                             const TargetDefaults& defaults);

/// free, one value, or [lower, upper] of which either may be open.
Band read_band(const Node& node, Dimension dimension);
/// x, -y, ... of a frame, or three numbers of any length but zero; unit.
Vector3 read_direction(const Node& node);

/// What a map says that a place leaves open: x, y, z, turn, tilt, standoff, and the axis of these.
/// Throws InputError for other keys.
void read_freedom(const Node& map, AtPlace& place);

/// The map under `wishes:`; what it does not say stays as it was.
Wishes read_wishes(const Node& node, const Arm& arm, Wishes wishes = {});

}  // namespace er
