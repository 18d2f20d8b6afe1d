// The demo's glazing cell, read once.
#pragma once

#include <fstream>
#include <iterator>
#include <string>

#include "elbowroom/files/cell_file.hpp"
#include "support/folder.hpp"

namespace er::test {

inline const Cell& demo_cell() {
  static const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  return cell;
}

/// The demo's CAD cell with other bodies: their keys, each on a line of six blanks.
inline std::string cad_cell_with(const std::string& bodies) {
  std::ifstream in(DEMO_DIR "/cad.cell.yaml");
  std::string text((std::istreambuf_iterator<char>(in)), {});
  const std::size_t from = text.find("      file:");
  return text.replace(from, text.find("    tools:") - from, bodies);
}

/// Its bodies from one file, without the cable.
inline std::string cad_bodies(const std::string& file = "file: " DEMO_DIR "/teasel.stl",
                              const std::string& unit = "      unit: mm\n") {
  return "      " + file + "\n" + unit +
         "      density: 2700 kg/m^3\n      looks: mesh\n      links: {base: [1, 16, 17, 18, 19], "
         "turret: [3, 4], "
         "upper_arm: [2, 7, 8, 12], elbow_block: [6, 9], forearm: [5, 13], wrist: [11, 15], "
         "flange: [14]}\n";
}
inline Arm cad_arm() {
  const Folder folder;
  return load_cell(folder.write("cad.cell.yaml", cad_cell_with(cad_bodies()))).arm("teasel");
}

}  // namespace er::test
