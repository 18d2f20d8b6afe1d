// Five cluttered scenes for a seven-joint arm with a gripper, and questions asked in them: what
// planners and proofs are measured and tried in.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/collision/cell_query.hpp"

namespace er::test {

enum class Clutter { posts, rack, cavity, window, mixed };
inline constexpr Clutter kAllClutter[] = {Clutter::posts, Clutter::rack, Clutter::cavity,
                                          Clutter::window, Clutter::mixed};

/// m: asked for in all of them.
inline constexpr double kClearance = 0.005;

std::string name_of(Clutter clutter);

/// Seven joints with spherical shoulder and wrist, 1.1 m long with its gripper, on the floor.
Arm clutter_arm();
Cell clutter_cell(Clutter clutter);

/// The same solids as other shapes: boxes and hulls as meshes, cylinders as cones, spheres as
/// clouds, and the floor as a half-space.
Cell in_other_shapes(const Cell& cell);
/// Things as they are measured and drawn: a fine mesh with dents, a hollow bucket, a cloud of
/// points, a cone, over a half-space.
Cell measured_cell();

/// From a posture to any of a few.
struct RouteQuestion {
  Posture start;
  std::vector<Posture> goals;
};

/// Questions whose ends keep `clearance`: into and out of what the scene is made of. The same seed
/// gives the same ones.
std::vector<RouteQuestion> clutter_questions(const CellQuery& query, Clutter clutter, int count,
                                             double clearance, std::uint64_t seed = 1);

}  // namespace er::test
