// How long work tells of itself and is told to stop.
#pragma once

#include <functional>
#include <stop_token>
#include <string_view>

namespace er {

/// Called now and then from long work: how far it is (0 to 1) and with what.
using Progress = std::function<void(double fraction, std::string_view doing)>;

/// What every long-running solver takes besides its own options.
struct Supervision {
  Progress progress = {};     ///< may be empty; called from the calling thread only
  std::stop_token stop = {};  ///< when stop is requested, the work ends with a no that says so
};

}  // namespace er
