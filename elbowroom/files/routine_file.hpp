// Routine files: lists of steps. The format is in docs/target-and-routine-files.md.
#pragma once

#include <filesystem>

#include "elbowroom/model/cell.hpp"
#include "elbowroom/routine/routine.hpp"

namespace er {

/// Reads a routine file against a cell. Throws InputError with file, line and column.
Routine load_routine(const std::filesystem::path& path, const Cell& cell);
/// The same from text; `file` stands in messages, and files it names are looked for beside it.
Routine parse_routine(const std::string& text, const std::string& file, const Cell& cell);

}  // namespace er
