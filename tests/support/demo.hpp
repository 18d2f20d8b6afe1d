// The demo's glazing cell, read once.
#pragma once

#include "elbowroom/files/cell_file.hpp"

namespace er::test {

inline const Cell& demo_cell() {
  static const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  return cell;
}

}  // namespace er::test
