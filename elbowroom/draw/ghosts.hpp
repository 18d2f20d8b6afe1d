// One posture of an arm drawn solid, others of it faintly, over what is behind them; or anything
// else so.
#pragma once

#include <optional>

#include "elbowroom/draw/render.hpp"

namespace er {

struct Ghost {
  Posture posture = {};
  bool warning = false;                ///< tinted in the colour of a collision
  std::vector<Vector3> contacts = {};  ///< in the world: marked with balls in that colour
};

/// A place that a frame is to be at, drawn as its three axes, and where a frame is instead, if a
/// line is to lead there.
struct MarkedPlace {
  Pose at = {};
  std::optional<Vector3> missed_from = {};
};

/// What is drawn beside the arm.
struct Marks {
  std::vector<MarkedPlace> places = {};
  std::vector<Vector3> path = {};                      ///< of a tool
  std::vector<std::vector<Vector3>> other_paths = {};  ///< drawn lighter
  std::vector<std::pair<Vector3, Vector3>> gaps = {};  ///< two points that are near to each other
};

/// The cell with `arm` at a posture, and ghosts of it: seen through, and never in front of the
/// solid one. Other arms stand in their stance `home`, or at zero. The view shows most of all of
/// them.
Image render_with_ghosts(const Cell& cell, const Arm& arm, const Posture& solid,
                         const std::vector<Ghost>& ghosts, const Marks& marks = {},
                         const RenderOptions& options = {});

/// What is seen through; of its scene only what it is about (SceneMesh::subject).
struct GhostScene {
  Scene scene;
  bool warning = false;
};
/// A scene, and ghosts that are never in front of what it is about.
Image render_with_ghosts(const Scene& solid, const std::vector<GhostScene>& ghosts,
                         const View& view, const RenderOptions& options = {});

}  // namespace er
