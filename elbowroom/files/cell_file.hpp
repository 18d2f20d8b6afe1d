// Cell files: a YAML description of everything in a cell. The format is in docs/cell-file.md.
#pragma once

#include <filesystem>
#include <string>

#include "elbowroom/model/cell.hpp"

namespace er {

/// Reads a cell file. Throws InputError with file, line and column, what was found, what was
/// expected and the nearest valid name.
Cell load_cell(const std::filesystem::path& path);

/// The same from text; `file` is only for messages.
Cell parse_cell(const std::string& text, const std::string& file = "cell");

}  // namespace er
