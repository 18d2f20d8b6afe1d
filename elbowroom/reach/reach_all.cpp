#include "elbowroom/base/on_all_cores.hpp"
#include "elbowroom/reach/reach.hpp"

namespace er {

std::vector<Verdict<Reach>> reach_all(const CellQuery& query, std::span<const Target> targets,
                                      const ReachOptions& options, const Supervision& supervision) {
  std::vector<Verdict<Reach>> found(targets.size(),
                                    Reason{Cause::stopped, "no: stopped before it was asked"});
  on_all_cores(targets.size(), supervision, "reaching",
               [&](std::size_t i) { found[i] = reach(query, targets[i], options); });
  return found;
}

}  // namespace er
