// How long something has taken.
#pragma once

#include <chrono>

namespace er {

class Stopwatch {
 public:
  /// Since it was made.
  [[nodiscard]] double seconds() const {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - began_).count();
  }

 private:
  std::chrono::steady_clock::time_point began_ = std::chrono::steady_clock::now();
};

}  // namespace er
