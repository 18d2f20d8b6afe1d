// Doing something again at every save.
#pragma once

#include <functional>
#include <string>

namespace er::cli {

/// Runs `round` now, and again whenever `file` or one that it includes or names changes, and prints
/// what it gives. An InputError is printed in its place and the watch goes on. Ends when the
/// process is interrupted, or after `rounds` rounds when that is above zero.
void watch(const std::string& file, int rounds, const std::function<std::string()>& round);

}  // namespace er::cli
