// Question files: many questions of routes, YAML. docs/target-and-routine-files.md has the format.
#pragma once

#include <filesystem>
#include <vector>

#include "elbowroom/route/asked_route.hpp"

namespace er {

struct RouteQuestions {
  std::string arm = {};
  std::vector<AskedRoute> questions = {};
};

/// Reads a question file against a cell: each entry from a stance or posture, or each of a list of
/// them, to a stance, a posture or a target, or each of a list. What begins where it ends is left
/// out. Throws InputError with file, line and column.
RouteQuestions load_questions(const std::filesystem::path& path, const Cell& cell);

}  // namespace er
