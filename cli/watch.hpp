// Doing something again at every save.
#pragma once

#include <functional>
#include <string>
#include <vector>

namespace er::cli {

/// Runs `round` now, and again whenever a file changes in the folder of `file` or in a folder of
/// ELBOWROOM_PATH, but for those of `written`, and prints what it gives. An InputError is printed
/// in its place and the watch goes on. Ends when the process is interrupted, or after `rounds`
/// rounds when that is above zero.
void watch(const std::string& file, const std::vector<std::string>& written, int rounds,
           const std::function<std::string()>& round);

}  // namespace er::cli
