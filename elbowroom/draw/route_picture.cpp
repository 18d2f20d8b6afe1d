#include "elbowroom/draw/route_picture.hpp"

#include <algorithm>
#include <cmath>

#include "elbowroom/draw/ghosts.hpp"
#include "elbowroom/draw/tool_path.hpp"

namespace er {
namespace {

constexpr int kGhosts = 5;           // the start among them
constexpr int kPointsEachMove = 60;  // of the tool's path

// Where on the way the arm has done a share of all joint travel.
double place_after(const std::vector<Posture>& waypoints, double share) {
  double left = share * path_length(waypoints);
  for (std::size_t i = 0; i + 1 < waypoints.size(); ++i) {
    const double length = (waypoints[i + 1] - waypoints[i]).norm();
    if (left <= length && length > 0.0) return static_cast<double>(i) + left / length;
    left -= length;
  }
  return static_cast<double>(waypoints.size() - 1);
}

std::vector<Vector3> tool_path_through(const Arm& arm, const std::vector<Posture>& waypoints) {
  const int moves = static_cast<int>(waypoints.size()) - 1;
  return tool_path(arm, lines_through(waypoints), moves * kPointsEachMove);
}

}  // namespace

Image render_route(const CellQuery& query, const Route& route, const RenderOptions& options) {
  const Arm& arm = query.arm();
  if (route.waypoints.size() < 2)
    return render_with_ghosts(query.cell(), arm, route.waypoints.back(), {}, {}, options);
  const JointCurve way = lines_through(route.waypoints);
  std::vector<Ghost> ghosts;
  for (int i = 0; i < kGhosts; ++i)
    ghosts.push_back(
        {.posture =
             way.at(place_after(route.waypoints, static_cast<double>(i) / kGhosts)).position});
  Marks marks;
  marks.path = tool_path_through(arm, route.waypoints);
  if (route.least.nearest.second >= 0)
    marks.gaps.emplace_back(route.least.nearest.point_first, route.least.nearest.point_second);
  return render_with_ghosts(query.cell(), arm, route.waypoints.back(), ghosts, marks, options);
}

Image render_paths(const CellQuery& query, const std::vector<Posture>& best,
                   const std::vector<std::vector<Posture>>& others, const RenderOptions& options) {
  const Arm& arm = query.arm();
  Marks marks;
  if (best.size() > 1) marks.path = tool_path_through(arm, best);
  for (const std::vector<Posture>& path : others)
    if (path.size() > 1) marks.other_paths.push_back(tool_path_through(arm, path));
  return render_with_ghosts(query.cell(), arm, best.back(), {{.posture = best.front()}}, marks,
                            options);
}

}  // namespace er
