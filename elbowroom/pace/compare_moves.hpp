// A joint move and a move of the tool between the same two postures, side by side.
#pragma once

#include <string>

#include "elbowroom/pace/pace.hpp"

namespace er {

struct MoveFigures {
  Motion motion;
  double way = 0.0;         ///< of the tool's tip, m
  double off_line = 0.0;    ///< the furthest the tip is from the straight line between its ends, m
  double turned_off = 0.0;  ///< and the tool from an even turn between its ends, rad
  double tool_speed = 0.0;  ///< at most, m/s
  Posture travel;           ///< of each joint, there and back counted
  Posture velocity_use;     ///< largest share of each joint's limits
  Posture acceleration_use;
  std::string in_the_way = {};  ///< of a joint move that is not free, what it meets
};

struct MoveComparison {
  MoveFigures joints;
  MoveFigures tool;
  std::string kind = {};  ///< of the tool's path

  /// "the straight line takes 0.61 s, 1.4 times as long as a joint move"
  [[nodiscard]] std::string summary() const;
  [[nodiscard]] std::string table(const Arm& arm) const;
};

/// `tool` is the paced motion along `curve`; the joint move goes straight in joints from its
/// beginning to its end, under the same options as far as they are of joints.
Verdict<MoveComparison> compare_moves(const ToolCurve& curve, const Motion& tool,
                                      const CellQuery& query, const PaceOptions& options = {});

}  // namespace er
