#include <tbb/parallel_for.h>

#include <atomic>
#include <optional>
#include <thread>

#include "elbowroom/reach/reach.hpp"

namespace er {

std::vector<Verdict<Reach>> reach_all(const CellQuery& query, std::span<const Target> targets,
                                      const ReachOptions& options, const Supervision& supervision) {
  std::vector<std::optional<Verdict<Reach>>> found(targets.size());
  std::atomic<std::size_t> done = 0;
  const auto caller = std::this_thread::get_id();
  tbb::parallel_for(std::size_t{0}, targets.size(), [&](std::size_t i) {
    if (supervision.stop.stop_requested()) return;
    found[i] = reach(query, targets[i], options);
    ++done;
    if (supervision.progress && std::this_thread::get_id() == caller)
      supervision.progress(static_cast<double>(done) / static_cast<double>(targets.size()),
                           "reaching");
  });
  std::vector<Verdict<Reach>> out;
  for (auto& one : found)
    out.push_back(one ? std::move(*one)
                      : Verdict<Reach>(Reason{Cause::stopped, "no: stopped before it was asked"}));
  return out;
}

}  // namespace er
