// How values that occur in several kinds of file are read: poses, parts, colours, postures,
// targets.
#pragma once

#include <optional>
#include <vector>

#include "elbowroom/files/document.hpp"
#include "elbowroom/kinematics/target.hpp"
#include "elbowroom/model/cell.hpp"

namespace er {

/// [x, y, z], or {position: [x, y, z], rpy: [roll, pitch, yaw]} with `quaternion: [w, x, y, z]` as
/// the other way to say a rotation.
Pose read_pose(const Node& node);

/// {box: {size: [..]}}, {sphere: {radius: ..}}, {cylinder: {radius:, length:}} or
/// {capsule: {radius:, length:}}, with `at`, `colour` and `for` beside it.
Part read_part(const Node& node, const Colour& colour);
std::vector<Part> read_parts(const Node& node, const Colour& colour);

/// "#rrggbb".
Colour read_colour(const Node& node);

/// One quantity per moving joint; angles for revolute joints, lengths for prismatic ones.
Posture read_posture(const Node& node, const Arm& arm);

/// What targets in one file share unless they say otherwise.
struct TargetDefaults {
  std::string tool = {};
  std::string frame = {};
  Matrix3 rotation = Matrix3::Identity();
  double position_tolerance = 1e-4;
  double angle_tolerance = 1e-3;
};

/// Keys of a file that set TargetDefaults: tool, in, rpy, quaternion, within.
inline const std::vector<std::string> kTargetDefaultKeys{"tool", "in", "rpy", "quaternion",
                                                         "within"};
TargetDefaults read_target_defaults(const Node& root, const Cell& cell, const Arm& arm);

/// The list under `targets:`; names are unique.
std::vector<Target> read_targets(const Node& node, const Cell& cell, const Arm& arm,
                                 const TargetDefaults& defaults);

/// Runs `build`, giving an InputError about a key of the description the place of that key.
template <class Build>
auto with_places(const Node& root, Build build) {
  try {
    return build();
  } catch (const InputError& error) {
    if (error.place().line != 0 || error.subject().empty()) throw;
    throw error.at(place_of(root, error.subject()));
  }
}

}  // namespace er
