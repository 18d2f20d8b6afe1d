// Target files: lists of named targets. The format is in docs/target-and-routine-files.md.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/kinematics/target.hpp"
#include "elbowroom/model/cell.hpp"

namespace er {

/// Reads a target file against a cell and the arm that its key `arm` names (the only arm when it
/// does not). Throws InputError with file, line and column.
std::vector<Target> load_targets(const std::filesystem::path& path, const Cell& cell);
/// The same from text; `file` stands in messages, and included files are looked for beside it.
std::vector<Target> parse_targets(const std::string& text, const std::string& file,
                                  const Cell& cell);

}  // namespace er
