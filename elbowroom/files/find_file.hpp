// Where files are looked for that other files name: included ones, meshes, robot XML.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/base/input_error.hpp"

namespace er {

/// Folders to look in after the folder of the file that names another: those of the environment
/// variable ELBOWROOM_PATH, separated by colons.
std::vector<std::filesystem::path> search_path();

/// The file that `name`, written in file `from`, means. Throws InputError at `place` listing where
/// it was looked for.
std::filesystem::path find_file(const std::string& name, const std::filesystem::path& from,
                                const Place& place);

}  // namespace er
