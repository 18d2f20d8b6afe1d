// The way ahead: the postures along a path, and how fast each may be passed so that every later one
// can be met within the limits.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/follow/step_log.hpp"
#include "elbowroom/follow/tracked_tool.hpp"

namespace er {

struct WayNode {
  double path_time = 0.0;  ///< s on the path's own clock
  Posture posture;
  double most = 1.0;  ///< the same for the stretch before it, as far as zones that cap speeds go
  SlowBy most_by = {};
  double scale = 1.0;   ///< the most of the path's speed at which the node may be passed
  SlowBy by = {};       ///< what asks for that, here or further on
  bool jumped = false;  ///< the joints go here in a straight line, the tool all but standing still
};

struct WayAhead {
  std::vector<WayNode> nodes;
  /// Why the way ends before the path does, if it does: `ended_by` goes on after "there".
  Cause cause = Cause::off_line;
  std::string ended_by = {};

  [[nodiscard]] double end() const { return nodes.back().path_time; }
  /// The posture and the speed allowed at a time of the path; `hint` is the node before, kept from
  /// call to call. Allocates nothing.
  [[nodiscard]] Posture posture_at(double path_time, std::size_t& hint) const;
  [[nodiscard]] double scale_at(double path_time, std::size_t& hint) const;
  /// How the joints go on from that node, per second of the path; and whether that is a jump.
  [[nodiscard]] Posture slope_after(std::size_t hint) const;
  [[nodiscard]] bool jumps_after(std::size_t hint) const;
};

struct WayOptions {
  double step = 0.004;           ///< s of the path between nodes, at most
  double clearance = 0.0;        ///< m, proved from node to node
  Posture towards = {};          ///< what redundant joints are drawn to
  double deviation = 1e-4;       ///< m that the tool may stray where the joints have to jump
  double turn_deviation = 1e-3;  ///< rad, the same
};

/// Walks along the path from a posture whose tool is at its start; joint ranges are kept, speeds do
/// not count yet. Where the joints would have to jump (a wrist turning over in a singularity), the
/// tool stands still meanwhile, if that can be done. Ends where it cannot go on, or where something
/// comes nearer than the clearance.
WayAhead walk_path(const CellQuery& query, TrackedTool& tool, const PosePath& path,
                   const Posture& start, const WayOptions& options);

/// Fills in scale and by: from the last node, from where one step of `period` stops, back to the
/// first, as fast as velocity and acceleration limits allow, a tenth of the acceleration kept back
/// for what happens between nodes. (The backward half of J. Bobrow, S. Dubowsky and J. Gibson,
/// "Time-optimal control of robotic manipulators along specified paths", 1985.)
void limit_speeds(const Limits& limits, double period, WayAhead& way);

}  // namespace er
