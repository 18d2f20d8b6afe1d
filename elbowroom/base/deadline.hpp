// A time after which nothing new is begun.
#pragma once

#include <chrono>
#include <cmath>

namespace er {

class Deadline {
 public:
  /// So many seconds from now; infinity: never.
  explicit Deadline(double seconds) : began_(std::chrono::steady_clock::now()), seconds_(seconds) {}

  [[nodiscard]] double elapsed() const {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - began_).count();
  }
  [[nodiscard]] double left() const { return seconds_ - elapsed(); }
  [[nodiscard]] bool is_over() const { return std::isfinite(seconds_) && left() <= 0.0; }

 private:
  std::chrono::steady_clock::time_point began_;
  double seconds_;
};

}  // namespace er
