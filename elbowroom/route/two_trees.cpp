#include "elbowroom/route/two_trees.hpp"

#include "elbowroom/base/random.hpp"
#include "elbowroom/route/posture_tree.hpp"

namespace er {
namespace {

// rad (or m): the longest edge. Long ones fail more often, but a failed line costs little, and each
// that holds is worth many short ones: with 0.7 rad a wall with a window took thirteen times the
// lines.
constexpr double kStride = 4.0;

// One stride from a node towards `to`. The new node's number, or -1 when blocked.
int extend(PostureTree& tree, int from, const Posture& to, LineProver& prover) {
  const Posture& near = tree.posture(from);
  const Posture way = to - near;
  const double length = way.norm();
  if (length < 1e-12) return from;
  const Posture next = length <= kStride ? to : Posture(near + (kStride / length) * way);
  return prover.is_free(near, next) ? tree.add(next, from) : -1;
}

// Strides towards `to` until it is there (its node's number) or blocked (-1).
int connect(PostureTree& tree, const Posture& to, LineProver& prover) {
  int node = extend(tree, tree.nearest(to), to, prover);
  while (node >= 0 && tree.posture(node) != to) node = extend(tree, node, to, prover);
  return node;
}

}  // namespace

TwoTreesResult grow_two_trees(const TwoTreesQuestion& question, LineProver& prover,
                              const Supervision& supervision) {
  const Arm& arm = prover.query().arm();
  RandomStream random(question.seed);
  PostureTree from_start(arm.dof());
  PostureTree from_goals(arm.dof());
  from_start.add(question.start, -1);
  for (const Posture& goal : question.goals) from_goals.add(goal, -1);

  TwoTreesResult out;
  PostureTree* growing = &from_start;
  PostureTree* waiting = &from_goals;
  for (; out.tries < question.tries && !supervision.stop.stop_requested(); ++out.tries) {
    if (supervision.progress && out.tries % 64 == 0)
      supervision.progress(static_cast<double>(out.tries) / question.tries,
                           "searching for a route");
    const Posture sample = random.between(arm.search_lower(), arm.search_upper());
    const int grown = extend(*growing, growing->nearest(sample), sample, prover);
    if (grown >= 0) {
      const Posture meeting = growing->posture(grown);
      const int met = connect(*waiting, meeting, prover);
      if (met >= 0) {
        const int start_end = growing == &from_start ? grown : met;
        const int goal_end = growing == &from_start ? met : grown;
        out.waypoints = from_start.path_from_root(start_end);
        std::vector<Posture> rest = from_goals.path_from_root(goal_end);
        out.goal = static_cast<std::size_t>(from_goals.root(goal_end));
        out.waypoints.insert(out.waypoints.end(), rest.rbegin() + 1, rest.rend());
        break;
      }
    }
    std::swap(growing, waiting);
  }
  out.nodes = from_start.size() + from_goals.size();
  return out;
}

}  // namespace er
