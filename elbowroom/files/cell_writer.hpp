// Cells written out as cell files.
#pragma once

#include <string>

#include "elbowroom/files/robot_xml.hpp"
#include "elbowroom/model/cell.hpp"
#include "elbowroom/model/denavit_hartenberg.hpp"

namespace er {

/// How the chains of a written cell file are given.
enum class ChainForm { links, dh_standard, dh_modified };

/// A whole cell as a cell file that reads back as the same cell, number for number. As tables of
/// Denavit-Hartenberg a chain keeps its motion and loses the rest; what is lost is listed. Throws
/// Refused when a chain has no table.
Written cell_file_of(const Cell& cell, ChainForm form = ChainForm::links);

/// A quantity as text that reads back exactly, in the unit that people use if that is possible:
/// "350 mm", "90 deg", "12 N m".
std::string text_of_quantity(double si, Dimension dimension);

}  // namespace er
