#include "elbowroom/route/line_prover.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <vector>

namespace er {

bool LineProver::is_free(const Posture& from, const Posture& to) {
  ++lines_;
  if (rules_)
    if (const int rule = rules_->broken_between(from, to); rule >= 0) {
      ++blocked_by_[{kOfRule, rule}];
      return false;
    }
  const Sweep sweep = sweep_line(query_, from, to, options_, memory_);
  checks_ += sweep.checks;
  if (!sweep.free) ++blocked_by_[{sweep.blocking.first, sweep.blocking.second}];
  return sweep.free;
}

void LineProver::add_tally(const LineProver& other) {
  lines_ += other.lines_;
  checks_ += other.checks_;
  for (const auto& [pair, count] : other.blocked_by_) blocked_by_[pair] += count;
}

std::vector<int> LineProver::bodies_that_blocked() const {
  std::map<int, long> counts;
  for (const auto& [pair, count] : blocked_by_)
    if (pair.first != kOfRule) counts[pair.second] += count;
  std::vector<int> bodies;
  for (const auto& [body, count] : counts) bodies.push_back(body);
  std::stable_sort(bodies.begin(), bodies.end(),
                   [&](int a, int b) { return counts[a] > counts[b]; });
  return bodies;
}

std::string LineProver::name_of_blocker(std::pair<int, int> pair) const {
  if (pair.first == kOfRule) return fmt::format("rule '{}'", rules_->name(pair.second));
  return query_.name(pair.first) + " and " + query_.name(pair.second);
}

std::string LineProver::what_blocked_most() const {
  std::vector<std::pair<long, std::pair<int, int>>> order;
  long all = 0;
  for (const auto& [pair, count] : blocked_by_) {
    order.emplace_back(count, pair);
    all += count;
  }
  std::sort(order.rbegin(), order.rend());
  std::string out;
  for (std::size_t i = 0; i < std::min<std::size_t>(3, order.size()); ++i)
    out += fmt::format("{}{} ({:.0f} %)", i == 0 ? "" : ", ", name_of_blocker(order[i].second),
                       100.0 * static_cast<double>(order[i].first) / static_cast<double>(all));
  return out;
}

}  // namespace er
