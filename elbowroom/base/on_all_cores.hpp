// Independent pieces of work on all cores.
#pragma once

#include <cstddef>
#include <functional>

#include "elbowroom/base/progress.hpp"

namespace er {

/// Calls `work(0)` to `work(count - 1)`, in any order, side by side. Once stop is requested no more
/// is begun; progress is told, with `doing`, from the calling thread.
void on_all_cores(std::size_t count, const Supervision& supervision, std::string_view doing,
                  const std::function<void(std::size_t)>& work);

}  // namespace er
