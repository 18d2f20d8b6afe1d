// Every file that a description rests on.
#pragma once

#include <filesystem>
#include <vector>

namespace er {

/// The file itself, those it includes, and what any of them names under `file` (meshes, robot XML).
/// One that is not there is listed where it would be found first. Never throws: a file half way
/// through a save has its own name, at least.
std::vector<std::filesystem::path> named_files(const std::filesystem::path& file);

}  // namespace er
