// Files that other files include.
#pragma once

#include <filesystem>

#include "elbowroom/files/document.hpp"

namespace er {

/// Reads the files under the key `include` and those that they include, each once, and puts their
/// entries before the document's own: lists are joined, groups merged, of single values the
/// document's own count. The key is gone afterwards. Throws InputError: a file that is not there,
/// of another kind, that includes itself, or a name in a group given twice.
void include_files(Node& root, const std::filesystem::path& file);

}  // namespace er
