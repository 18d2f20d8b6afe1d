#include "elbowroom/route/two_trees.hpp"

#include "elbowroom/route/rule_walk.hpp"

namespace er {
namespace {

// rad (or m): the longest edge. Long ones fail more often, but a failed line costs little, and each
// that holds is worth many short ones.
constexpr double kStride = 2.0;

// Most routes lie about the box between their ends: so many of the samples are taken from there, so
// far beyond it. With all of them from anywhere, shelves took five times the lines, and routes were
// longer by half.
constexpr double kAboutEnds = 0.8;
constexpr double kBeyond = 0.5;  // rad (or m)

// Drawn back so often, from so many goals. Among shelves and behind a window that meets nine times
// in ten, and takes a third to a sixth of the lines that random postures do.
constexpr int kSteps = 3;
constexpr int kGoals = 6;

// One stride from a node towards `to`, or, where rules have to be kept, as far as they let it go.
// The new node's number, or -1 when blocked.
int extend(PostureTree& tree, int from, const Posture& to, LineProver& prover) {
  const Posture near = tree.posture(from);
  const Posture way = to - near;
  const double length = way.norm();
  if (length < 1e-12) return from;
  if (prover.rules() != nullptr) {
    int node = -1;
    for (const Posture& posture : walk_by_rules(near, to, prover))
      node = tree.add(posture, node < 0 ? from : node);
    return node;
  }
  const Posture next = length <= kStride ? to : Posture(near + (kStride / length) * way);
  return prover.is_free(near, next) ? tree.add(next, from) : -1;
}

// Strides towards `to` until it is there (its node's number) or blocked (-1).
int connect(PostureTree& tree, const Posture& to, LineProver& prover) {
  int node = extend(tree, tree.nearest(to), to, prover);
  // By rules a stride has gone as far as it can.
  while (node >= 0 && tree.posture(node) != to && prover.rules() == nullptr)
    node = extend(tree, node, to, prover);
  return node >= 0 && tree.posture(node) == to ? node : -1;
}

}  // namespace

TwoTrees::TwoTrees(const Arm& arm, const Posture& start, const std::vector<Posture>& goals,
                   std::uint64_t seed)
    : arm_(arm),
      random_(seed),
      goals_(static_cast<int>(goals.size())),
      from_start_(arm.dof()),
      from_goals_(arm.dof()) {
  from_start_.add(start, -1);
  for (const Posture& goal : goals) from_goals_.add(goal, -1);
}

// As far as it is free. The last node.
int TwoTrees::draw_back(PostureTree& tree, int node, Retreat way, LineProver& prover) const {
  for (int step = 0; step < kSteps; ++step) {
    const Posture here = tree.posture(node);
    const std::optional<Posture> next = drawn_back(arm_, here, way);
    if (!next || !prover.is_free(here, *next)) break;
    node = tree.add(*next, node);
  }
  return node;
}

bool TwoTrees::draw_back(LineProver& prover) {
  for (const Retreat way : {Retreat::along_tool, Retreat::inward}) {
    const int from = draw_back(from_start_, 0, way, prover);
    for (int goal = 0; goal < std::min(kGoals, goals_); ++goal) {
      const int to = draw_back(from_goals_, goal, way, prover);
      if (from == 0 && to == goal) continue;  // straight on, which was tried
      const Posture meeting = from_goals_.posture(to);
      if (!prover.is_free(from_start_.posture(from), meeting)) continue;
      meet(from_start_.add(meeting, from), to);
      return true;
    }
  }
  return false;
}

bool TwoTrees::grow(int tries, LineProver& prover, const std::stop_token& stop) {
  for (int i = 0; i < tries && !way_.exists() && !stop.stop_requested(); ++i) {
    ++tries_;
    PostureTree& growing = start_grows_ ? from_start_ : from_goals_;
    PostureTree& waiting = start_grows_ ? from_goals_ : from_start_;
    const Posture sample = this->sample();
    const int grown = extend(growing, growing.nearest(sample), sample, prover);
    if (grown >= 0) {
      const Posture meeting = growing.posture(grown);
      const int met = connect(waiting, meeting, prover);
      if (met >= 0) start_grows_ ? meet(grown, met) : meet(met, grown);
    }
    start_grows_ = !start_grows_;
  }
  return way_.exists();
}

Posture TwoTrees::sample() {
  if (random_.uniform(0.0, 1.0) >= kAboutEnds)
    return random_.between(arm_.search_lower(), arm_.search_upper());
  // Goals that come first, which are the nearest, more often.
  const double share = random_.uniform(0.0, 1.0);
  const Posture& start = from_start_.posture(0);
  const Posture& goal = from_goals_.posture(static_cast<int>(share * share * goals_));
  const Posture beyond = Posture::Constant(start.size(), kBeyond);
  return random_.between((start.cwiseMin(goal) - beyond).cwiseMax(arm_.search_lower()),
                         (start.cwiseMax(goal) + beyond).cwiseMin(arm_.search_upper()));
}

void TwoTrees::meet(int start_end, int goal_end) {
  way_.waypoints = from_start_.path_from_root(start_end);
  const std::vector<Posture> rest = from_goals_.path_from_root(goal_end);
  way_.waypoints.insert(way_.waypoints.end(), rest.rbegin() + 1, rest.rend());
  way_.goal = static_cast<std::size_t>(from_goals_.root(goal_end));
}

}  // namespace er
