#include "elbowroom/route/two_trees.hpp"

#include <algorithm>
#include <limits>

#include "elbowroom/base/random.hpp"

namespace er {
namespace {

constexpr double kStride =
    0.7;  // rad (or m): the longest edge; longer ones fail more and cost more

struct TreeNode {
  Posture posture;
  int parent = -1;
  std::size_t root = 0;
};

struct Tree {
  std::vector<TreeNode> nodes;

  [[nodiscard]] int nearest(const Posture& to) const {
    int best = 0;
    double best_distance = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < nodes.size(); ++i) {
      const double d = (nodes[i].posture - to).squaredNorm();
      if (d >= best_distance) continue;
      best_distance = d;
      best = static_cast<int>(i);
    }
    return best;
  }

  // One stride from the nearest node towards `to`. The new node's index, or -1 when blocked.
  int extend(const Posture& to, LineProver& prover) { return extend_from(nearest(to), to, prover); }

  int extend_from(int from, const Posture& to, LineProver& prover) {
    const TreeNode& near = nodes[static_cast<std::size_t>(from)];
    const Posture way = to - near.posture;
    const double length = way.norm();
    if (length < 1e-12) return from;
    const Posture next = length <= kStride ? to : Posture(near.posture + (kStride / length) * way);
    if (!prover.is_free(near.posture, next)) return -1;
    nodes.push_back({next, from, near.root});
    return static_cast<int>(nodes.size()) - 1;
  }

  [[nodiscard]] std::vector<Posture> path_from_root(int node) const {
    std::vector<Posture> path;
    for (; node >= 0; node = nodes[static_cast<std::size_t>(node)].parent)
      path.push_back(nodes[static_cast<std::size_t>(node)].posture);
    std::reverse(path.begin(), path.end());
    return path;
  }
};

// Strides towards `to` until it is there (its node's index) or blocked (-1).
int connect(Tree& tree, const Posture& to, LineProver& prover) {
  int node = tree.extend(to, prover);
  while (node >= 0 && tree.nodes[static_cast<std::size_t>(node)].posture != to)
    node = tree.extend_from(node, to, prover);
  return node;
}

}  // namespace

TwoTreesResult grow_two_trees(const TwoTreesQuestion& question, LineProver& prover,
                              const Supervision& supervision) {
  const Arm& arm = prover.query().arm();
  RandomStream random(question.seed);
  Tree from_start;
  Tree from_goals;
  from_start.nodes.push_back({question.start, -1, 0});
  for (std::size_t g = 0; g < question.goals.size(); ++g)
    from_goals.nodes.push_back({question.goals[g], -1, g});

  TwoTreesResult out;
  Tree* growing = &from_start;
  Tree* waiting = &from_goals;
  for (; out.tries < question.tries && !supervision.stop.stop_requested(); ++out.tries) {
    if (supervision.progress && out.tries % 64 == 0)
      supervision.progress(static_cast<double>(out.tries) / question.tries,
                           "searching for a route");
    const Posture sample = random.between(arm.search_lower(), arm.search_upper());
    const int grown = growing->extend(sample, prover);
    if (grown >= 0) {
      const Posture meeting = growing->nodes[static_cast<std::size_t>(grown)].posture;
      const int met = connect(*waiting, meeting, prover);
      if (met >= 0) {
        const int start_end = growing == &from_start ? grown : met;
        const int goal_end = growing == &from_start ? met : grown;
        out.waypoints = from_start.path_from_root(start_end);
        std::vector<Posture> rest = from_goals.path_from_root(goal_end);
        out.goal = from_goals.nodes[static_cast<std::size_t>(goal_end)].root;
        out.waypoints.insert(out.waypoints.end(), rest.rbegin() + 1, rest.rend());
        break;
      }
    }
    std::swap(growing, waiting);
  }
  out.nodes = static_cast<int>(from_start.nodes.size() + from_goals.nodes.size());
  return out;
}

}  // namespace er
