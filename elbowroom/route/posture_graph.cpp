#include "elbowroom/route/posture_graph.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <queue>
#include <tuple>

namespace er {

int PostureGraph::add(const PostureRef& posture) {
  near_.add(posture);
  postures_.emplace_back(posture);
  ends_.emplace_back();
  return size() - 1;
}

void PostureGraph::join(int first, int second, State state) {
  if (first == second) return;
  for (const End& end : ends(first))
    if (end.node == second) {
      Line& line = lines_[static_cast<std::size_t>(end.line)];
      if (state != State::unknown) line.state = state;
      return;
    }
  const int line = static_cast<int>(lines_.size());
  lines_.push_back({first, second, state, -1.0});
  ends_[static_cast<std::size_t>(first)].push_back({second, line});
  ends_[static_cast<std::size_t>(second)].push_back({first, line});
}

int PostureGraph::add_joined(const std::vector<Posture>& postures, int count) {
  const int first = size();
  std::vector<std::vector<int>> near(postures.size());
  for (std::size_t i = 0; i < postures.size(); ++i) near_.nearest(postures[i], count, near[i]);
  for (std::size_t i = 0; i < postures.size(); ++i) {
    const int node = add(postures[i]);
    for (const int other : near[i]) join(node, other);
  }
  return first;
}

void PostureGraph::join_to_nearest(int node, int count) {
  std::vector<int> near;
  near_.nearest(posture(node), count + 1, near);  // itself among them
  for (const int other : near) join(node, other);
}

std::vector<int> PostureGraph::add_way(const std::vector<Posture>& waypoints, double step,
                                       int first, int last) {
  std::vector<int> nodes{first >= 0 ? first : add(waypoints.front())};
  for (std::size_t i = 0; i + 1 < waypoints.size(); ++i) {
    const Posture way = waypoints[i + 1] - waypoints[i];
    const int pieces = std::max(1, static_cast<int>(std::ceil(way.norm() / step)));
    for (int k = 1; k <= pieces; ++k) {
      const bool is_last = k == pieces && i + 2 == waypoints.size() && last >= 0;
      const int node =
          is_last
              ? last
              : add(k == pieces ? waypoints[i + 1]
                                : Posture(waypoints[i] + static_cast<double>(k) / pieces * way));
      join(nodes.back(), node, State::free);
      nodes.push_back(node);
    }
  }
  return nodes;
}

bool PostureGraph::is_free(int line, LineProver& prover) {
  Line& it = lines_[static_cast<std::size_t>(line)];
  if (it.state == State::unknown)
    it.state = prover.is_free(posture(it.first), posture(it.second)) ? State::free : State::blocked;
  return it.state == State::free;
}

bool PostureGraph::prove(std::span<const int> path, LineProver& prover) {
  for (std::size_t i = 0; i + 1 < path.size(); ++i) {
    if (prover.is_free(posture(path[i]), posture(path[i + 1]))) continue;
    join(path[i], path[i + 1], State::blocked);
    return false;
  }
  return true;
}

double PostureGraph::cost(int line, CostMeter& meter) {
  Line& it = lines_[static_cast<std::size_t>(line)];
  if (it.cost < 0.0) it.cost = meter.of(posture(it.first), posture(it.second));
  return it.cost;
}

// The search of Hart, Nilsson and Raphael, "A formal basis for the heuristic determination of
// minimum cost paths", 1968, with a line proved when it is the best way on: so each at most once.
std::optional<PostureGraph::Path> PostureGraph::cheapest(int start, std::span<const int> goals,
                                                         double below, LineProver& prover,
                                                         CostMeter& meter) {
  const auto count = static_cast<std::size_t>(size());
  constexpr double kUnset = -1.0;
  std::vector<double> rest(count, kUnset);  // no way on from a node costs less
  const auto rest_of = [&](int node) {
    double& value = rest[static_cast<std::size_t>(node)];
    if (value == kUnset) {
      value = std::numeric_limits<double>::infinity();
      for (const int goal : goals)
        value = std::min(value, meter.at_least(posture(node), posture(goal)));
    }
    return value;
  };
  struct Step {
    double total;  // with what is at least still to come
    double spent;
    int from;
    int line;
    int node;
    bool operator>(const Step& other) const {
      return std::tie(total, node, line) > std::tie(other.total, other.node, other.line);
    }
  };
  std::priority_queue<Step, std::vector<Step>, std::greater<>> open;
  std::vector<int> came_from(count, -2);  // -2: not settled
  if (rest_of(start) < below) open.push({rest_of(start), 0.0, -1, -1, start});
  while (!open.empty()) {
    const Step step = open.top();
    open.pop();
    if (came_from[static_cast<std::size_t>(step.node)] != -2) continue;
    if (step.line >= 0 && !is_free(step.line, prover)) continue;
    came_from[static_cast<std::size_t>(step.node)] = step.from;
    if (std::find(goals.begin(), goals.end(), step.node) != goals.end()) {
      Path path;
      path.cost = step.spent;
      for (int node = step.node; node >= 0; node = came_from[static_cast<std::size_t>(node)])
        path.nodes.push_back(node);
      std::reverse(path.nodes.begin(), path.nodes.end());
      return path;
    }
    for (const End& end : ends(step.node)) {
      if (came_from[static_cast<std::size_t>(end.node)] != -2) continue;
      if (lines_[static_cast<std::size_t>(end.line)].state == State::blocked) continue;
      // Measuring a line may take a while: first what it costs at least.
      const double least = step.spent + meter.at_least(posture(step.node), posture(end.node));
      if (least + rest_of(end.node) >= below) continue;
      const double spent = step.spent + cost(end.line, meter);
      if (spent + rest_of(end.node) < below)
        open.push({spent + rest_of(end.node), spent, step.node, end.line, end.node});
    }
  }
  return std::nullopt;
}

void PostureGraph::forget_costs() {
  for (Line& line : lines_) line.cost = -1.0;
}

void PostureGraph::keep(int nodes, std::size_t lines) {
  for (; lines_.size() > lines; lines_.pop_back()) {
    ends_[static_cast<std::size_t>(lines_.back().first)].pop_back();
    ends_[static_cast<std::size_t>(lines_.back().second)].pop_back();
  }
  ends_.resize(static_cast<std::size_t>(nodes));
  postures_.resize(static_cast<std::size_t>(nodes));
  near_.keep(nodes);
}

std::vector<int> PostureGraph::regions() const {
  std::vector<int> region(postures_.size(), -1);
  int next = 0;
  std::vector<int> open;
  for (int root = 0; root < size(); ++root) {
    if (region[static_cast<std::size_t>(root)] >= 0) continue;
    open.assign(1, root);
    while (!open.empty()) {
      const int node = open.back();
      open.pop_back();
      if (region[static_cast<std::size_t>(node)] >= 0) continue;
      region[static_cast<std::size_t>(node)] = next;
      for (const End& end : ends(node))
        if (lines_[static_cast<std::size_t>(end.line)].state == State::free)
          open.push_back(end.node);
    }
    ++next;
  }
  return region;
}

std::vector<Posture> PostureGraph::postures(std::span<const int> nodes) const {
  std::vector<Posture> out;
  for (const int node : nodes) out.push_back(posture(node));
  return out;
}

}  // namespace er
