// A graph of postures and straight lines between them, which are proved when they are needed.
#pragma once

#include <optional>
#include <span>
#include <vector>

#include "elbowroom/route/cost_meter.hpp"
#include "elbowroom/route/line_prover.hpp"
#include "elbowroom/route/nearest_postures.hpp"

namespace er {

class PostureGraph {
 public:
  enum class State { unknown, free, blocked };
  struct Line {
    int first = 0;
    int second = 0;
    State state = State::unknown;
    double cost = -1.0;  ///< below zero: not measured yet
  };
  struct Path {
    std::vector<int> nodes;
    double cost = 0.0;
  };

  explicit PostureGraph(int entries) : near_(entries) {}

  int add(const PostureRef& posture);
  /// Between two nodes. A line that is there already only learns its state.
  void join(int first, int second, State state = State::unknown);
  /// Adds postures, each joined to the `count` nearest of those that were there before. The number
  /// of the first; the others follow.
  int add_joined(const std::vector<Posture>& postures, int count);
  /// With the `count` nearest that it is not joined to yet.
  void join_to_nearest(int node, int count);
  /// Adds the points of a way, at most `step` (2-norm) apart, with the lines between them as free;
  /// ends that are nodes already (given as such, or -1) are not added again. The numbers of all.
  std::vector<int> add_way(const std::vector<Posture>& waypoints, double step, int first = -1,
                           int last = -1);

  /// The cheapest path from a node to any of a few that costs less than `below`; lines are proved
  /// when the search comes to them, and their state kept. Among equals, always the same one.
  std::optional<Path> cheapest(int start, std::span<const int> goals, double below,
                               LineProver& prover, CostMeter& meter);

  /// Proves the lines of a path, whatever is known of them; false where one does not hold, which
  /// counts as blocked from then on.
  bool prove(std::span<const int> path, LineProver& prover);

  [[nodiscard]] int size() const { return static_cast<int>(postures_.size()); }
  [[nodiscard]] const Posture& posture(int node) const {
    return postures_[static_cast<std::size_t>(node)];
  }
  [[nodiscard]] const std::vector<Line>& lines() const { return lines_; }
  /// Before another meter is used.
  void forget_costs();
  void set_state(std::size_t line, State state) { lines_[line].state = state; }
  /// Takes away the nodes added last, with their lines, which must be those joined last.
  void keep(int nodes, std::size_t lines);
  /// Which nodes hang together by lines known as free: a number for each, from 0.
  [[nodiscard]] std::vector<int> regions() const;
  [[nodiscard]] std::vector<Posture> postures(std::span<const int> nodes) const;

 private:
  struct End {
    int node = 0;
    int line = 0;
  };
  [[nodiscard]] const std::vector<End>& ends(int node) const {
    return ends_[static_cast<std::size_t>(node)];
  }
  [[nodiscard]] bool is_free(int line, LineProver& prover);
  [[nodiscard]] double cost(int line, CostMeter& meter);

  std::vector<Posture> postures_;
  std::vector<std::vector<End>> ends_;  // of each node
  std::vector<Line> lines_;
  NearestPostures near_;
};

}  // namespace er
