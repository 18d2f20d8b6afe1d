#include "elbowroom/base/on_all_cores.hpp"

#include <tbb/parallel_for.h>

#include <atomic>
#include <thread>

namespace er {

void on_all_cores(std::size_t count, const Supervision& supervision, std::string_view doing,
                  const std::function<void(std::size_t)>& work) {
  std::atomic<std::size_t> done = 0;
  const auto caller = std::this_thread::get_id();
  tbb::parallel_for(std::size_t{0}, count, [&](std::size_t i) {
    if (supervision.stop.stop_requested()) return;
    work(i);
    ++done;
    if (supervision.progress && std::this_thread::get_id() == caller)
      supervision.progress(static_cast<double>(done) / static_cast<double>(count), doing);
  });
}

}  // namespace er
