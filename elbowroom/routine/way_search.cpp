#include "elbowroom/routine/way_search.hpp"

#include <algorithm>
#include <limits>

namespace er {
namespace {

constexpr double kNever = std::numeric_limits<double>::infinity();

}  // namespace

WaySearch::WaySearch(std::vector<int> states, std::vector<std::vector<LayerMove>> moves)
    : states_(std::move(states)), may_end_(static_cast<std::size_t>(states_.back()), true) {
  for (const std::vector<LayerMove>& layer : moves) {
    std::vector<Move>& own = moves_.emplace_back();
    for (const LayerMove& move : layer) own.push_back({move, move.least});
  }
  times_least_.assign(moves_.size(), kNever);
  times_least_of_more_ = times_least_;
}

void WaySearch::forget(int layer, int number) {
  Move& move = moves_[static_cast<std::size_t>(layer)][static_cast<std::size_t>(number)];
  move.known = Known::nothing;
  move.cost = move.given.least;
}

void WaySearch::forbid_end(int state) { may_end_[static_cast<std::size_t>(state)] = false; }

double WaySearch::expected(std::size_t layer, const Move& move) const {
  if (move.known == Known::can_be_done) return move.cost;
  const double times =
      move.known == Known::nothing ? times_least_[layer] : times_least_of_more_[layer];
  return times < kNever ? times * move.cost : move.cost;
}

// Layer by layer, the cheapest way to each state.
std::optional<WaySearch::Way> WaySearch::cheapest(bool only_known) const {
  std::vector<std::vector<int>> by(moves_.size());
  std::vector<double> costs(1, 0.0);
  for (std::size_t layer = 0; layer < moves_.size(); ++layer) {
    const auto count = static_cast<std::size_t>(states_[layer + 1]);
    std::vector<double> next(count, kNever);
    by[layer].assign(count, -1);
    for (std::size_t i = 0; i < moves_[layer].size(); ++i) {
      const Move& move = moves_[layer][i];
      if (move.known == Known::cannot || (only_known && move.known != Known::can_be_done)) continue;
      const auto to = static_cast<std::size_t>(move.given.to);
      const double cost = costs[static_cast<std::size_t>(move.given.from)] + expected(layer, move);
      if (!(cost < next[to])) continue;
      next[to] = cost;
      by[layer][to] = static_cast<int>(i);
    }
    costs = std::move(next);
  }
  int end = -1;
  for (std::size_t i = 0; i < costs.size(); ++i)
    if (may_end_[i] && costs[i] < (end < 0 ? kNever : costs[static_cast<std::size_t>(end)]))
      end = static_cast<int>(i);
  if (end < 0) return std::nullopt;
  Way way{std::vector<int>(moves_.size()), costs[static_cast<std::size_t>(end)], end};
  for (std::size_t layer = moves_.size(), state = static_cast<std::size_t>(end); layer-- > 0;) {
    way.moves[layer] = by[layer][state];
    state = static_cast<std::size_t>(
        moves_[layer][static_cast<std::size_t>(way.moves[layer])].given.from);
  }
  return way;
}

std::optional<WaySearch::Way> WaySearch::find(const Look& look, const WaySearchOptions& options) {
  for (int looks_after = 0;;) {
    std::optional<Way> way = cheapest(false);
    if (!way) return std::nullopt;
    std::optional<Way> whole = cheapest(true);
    if (whole) {
      if (whole->cost * (1.0 - options.worthwhile) <= way->cost) return whole;
      if (looks_after >= options.most_looks_after) {
        whole->is_cheapest = false;
        return whole;
      }
    }
    // There is a move on it that nothing is known of, or it would be the whole one.
    int at = -1;
    for (int layer = 0; layer < static_cast<int>(moves_.size()); ++layer) {
      const auto move = [&](int k) -> const Move& {
        return moves_[static_cast<std::size_t>(k)]
                     [static_cast<std::size_t>(way->moves[static_cast<std::size_t>(k)])];
      };
      if (move(layer).known != Known::can_be_done &&
          (at < 0 || move(layer).given.effort < move(at).given.effort))
        at = layer;
    }
    const int number = way->moves[static_cast<std::size_t>(at)];
    Move& dear = moves_[static_cast<std::size_t>(at)][static_cast<std::size_t>(number)];
    const std::optional<Found> found = look(at, number);
    if (found && !found->is_all) {
      dear.known = Known::costs_more;
      continue;
    }
    ++looks_;
    if (whole) ++looks_after;
    if (!found) {
      dear.known = Known::cannot;
      continue;
    }
    dear.cost = std::max(found->cost, dear.given.least);
    if (dear.given.least > 0.0) {
      std::vector<double>& times =
          dear.known == Known::costs_more ? times_least_of_more_ : times_least_;
      double& here = times[static_cast<std::size_t>(at)];
      here = std::min(here, dear.cost / dear.given.least);
    }
    dear.known = Known::can_be_done;
  }
}

std::vector<bool> WaySearch::within_reach(int layer) const {
  std::vector<bool> here(1, true);
  for (std::size_t k = 0; k < static_cast<std::size_t>(layer); ++k) {
    std::vector<bool> next(static_cast<std::size_t>(states_[k + 1]), false);
    for (const Move& move : moves_[k])
      if (move.known != Known::cannot && here[static_cast<std::size_t>(move.given.from)])
        next[static_cast<std::size_t>(move.given.to)] = true;
    here = std::move(next);
  }
  return here;
}

}  // namespace er
