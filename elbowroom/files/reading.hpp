// How values that occur in several kinds of file are read: poses, colours, postures.
#pragma once

#include <optional>
#include <vector>

#include "elbowroom/files/document.hpp"
#include "elbowroom/model/cell.hpp"

namespace er {

/// [x, y, z], or {position: [x, y, z]} with one of the ways to say a rotation beside it:
/// rpy, fixed_xyz ... moving_zyz: [three angles], rotation: [three angles in the order `usual`],
/// axis_angle: {axis, angle}, quaternion: [w, x, y, z], matrix: [[..], [..], [..]].
Pose read_pose(const Node& node, const RotationOrder& usual = {});

/// "#rrggbb".
Colour read_colour(const Node& node);

/// One quantity per moving joint; angles for revolute joints, lengths for prismatic ones. Of a
/// `derivative` of them: per second to that power.
Posture read_posture(const Node& node, const Arm& arm, int derivative = 0);

/// "50 %" of the velocity limits: above 0 to 1.
double read_speed(const Node& node);

/// Metres per unit of a file: the key `unit` of what is made from one; 1 without it.
double read_unit(const Node& node);

/// The keys of a map that say a rotation, added to `keys`.
std::vector<std::string> with_rotation_keys(std::vector<std::string> keys);
/// The rotation that a map says, if it says one; two are an error.
std::optional<Matrix3> read_rotation(const Node& map, const RotationOrder& usual);

/// Runs `build`, giving an InputError about a key of the description the place of that key.
template <class Build>
auto with_places(const Node& root, Build build) {
  try {
    return build();
  } catch (const InputError& error) {
    if (error.place().line != 0 || error.subject().empty()) throw;
    throw node_at(root, error.subject()).placed(error);
  }
}

}  // namespace er
