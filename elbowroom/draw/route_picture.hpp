// A picture of a route.
#pragma once

#include "elbowroom/draw/render.hpp"
#include "elbowroom/route/route.hpp"

namespace er {

/// The arm at the end of a route, ghosts of it at the start and on the way, evenly by joint travel,
/// the path of its first tool, and where the route comes nearest to something (when the route
/// knows).
Image render_route(const CellQuery& query, const Route& route, const RenderOptions& options = {});

/// The arm at the end of a path, a ghost at its start, and the tool's path; and, lighter, along
/// others between the same ends.
Image render_paths(const CellQuery& query, const std::vector<Posture>& best,
                   const std::vector<std::vector<Posture>>& others,
                   const RenderOptions& options = {});

}  // namespace er
