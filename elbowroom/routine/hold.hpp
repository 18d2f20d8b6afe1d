// Holding a piece.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/model/cell.hpp"

namespace er {

/// A piece in the hand.
struct Hold {
  std::string piece = {};
  std::string tool = {};
  Pose tip = {};  ///< of the tool, in the piece's frame
};

/// What an arm holds, as its links say.
std::vector<Hold> holds_of(const Arm& arm);

/// Where a held piece is, in the world.
Pose place_of(const Hold& hold, const Arm& arm, const Posture& posture);

}  // namespace er
