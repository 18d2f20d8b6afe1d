// Work on files that nobody vouches for, done in a child process: what goes wrong in it, goes wrong
// there.
#pragma once

#include <cstddef>
#include <functional>
#include <string>

namespace er {

struct GuardLimits {
  std::size_t memory = std::size_t{1} << 30;  ///< bytes beyond what the process has already
  double seconds = 20.0;                      ///< of computing; ten times that, of waiting
};

/// Runs `work` in a copy of this process and gives back what it returned. An InputError of its
/// comes through with message and advice, but no place. Throws InputError, too, when it crashed, or
/// went over a limit; what it did otherwise is lost.
std::string guarded(const std::function<std::string()>& work, const GuardLimits& limits);

}  // namespace er
