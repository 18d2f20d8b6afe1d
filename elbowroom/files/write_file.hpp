// Writing files whole or not at all.
#pragma once

#include <filesystem>
#include <functional>
#include <string_view>

namespace er {

/// Writes to a temporary file beside `path`, then renames it: a reader sees the old file or the
/// whole new one. Throws InputError when the folder is missing or cannot be written to.
void write_file(const std::filesystem::path& path, std::string_view content);

/// The same for writers that need a file of their own to write into.
void write_file_through(const std::filesystem::path& path,
                        const std::function<void(const std::filesystem::path&)>& write);

}  // namespace er
