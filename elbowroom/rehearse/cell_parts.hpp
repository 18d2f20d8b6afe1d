// All parts of a cell while one arm moves, and which two of them must not meet: straight from the
// cell, for checks that share nothing with the planners.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "elbowroom/model/cell.hpp"

namespace er {

struct CellParts {
  struct Item {
    Shape shape;
    Pose at;              ///< in its link, or in the world
    int link = -1;        ///< of the arm that moves; -1 stands still
    double radius = 0;    ///< of a ball about its own origin
    double margin = 0;    ///< of a zone: its distances count from so far outside
    std::string body;     ///< "teasel.gripper"
    int part = 0;         ///< which of the colliding parts of that body
    int other = -1;       ///< of a link of another arm: its number among the cell's arms,
    int other_link = -1;  ///< and the link
    Pose in_body = {};    ///< where it is in its link, fixture or piece
  };
  std::vector<Item> items = {};
  std::vector<std::pair<std::size_t, std::size_t>> pairs = {};
};

/// Other arms stand in their stance `home`.
CellParts parts_of(const Cell& cell, const Arm& arm);

}  // namespace er
