// Frames that a target may be given in, by their names.
#pragma once

#include <string_view>

#include "elbowroom/kinematics/requirement.hpp"
#include "elbowroom/model/cell.hpp"

namespace er {

/// The pose in the world of: "" or "world", a frame of the cell, a fixture or piece (its own
/// frame), "base" (that of `arm`), or another arm's tool, "bracken.tip", where that arm stands in
/// its stance `home` (or at zero). Throws InputError listing what there is.
Pose named_frame(const Cell& cell, const Arm& arm, std::string_view name);

/// A face of the box, along its own axes, round all that something consists of.
enum class Side { top, bottom, front, back, left, right };  ///< +z, -z, +x, -x, +y, -y
/// Throws InputError listing the six.
Side side_named(std::string_view name);

/// A surface meeting another: the side of `link` (a held piece, say) lies flat on the side of a
/// fixture or piece, wholly within that side's edges, turned as it likes. Only shapes that collide
/// count. Throws InputError for unknown names, something without shapes, and when it cannot lie
/// within.
Requirement surfaces_meeting(const Cell& cell, const Arm& arm, std::string_view link, Side side,
                             std::string_view on, Side its);

}  // namespace er
