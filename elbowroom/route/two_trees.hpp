// The default search: one tree grows from the start, one from all goals, towards each other.
#pragma once

#include "elbowroom/base/random.hpp"
#include "elbowroom/route/planner.hpp"
#include "elbowroom/route/posture_tree.hpp"
#include "elbowroom/route/retreat.hpp"

namespace er {

/// After J. Kuffner and S. LaValle, "An efficient approach to single-query path planning", 2000,
/// with every edge proved instead of sampled and several roots on the goal side. Can be gone on
/// with, so that several race.
class TwoTrees {
 public:
  /// Goals that come first are looked at more: those nearest to the start should.
  TwoTrees(const Arm& arm, const Posture& start, const std::vector<Posture>& goals,
           std::uint64_t seed);

  /// Before anything random: the tool drawn back from the start and from the first goals, and
  /// straight from one such place to the other. True when the trees have met.
  bool draw_back(LineProver& prover);

  /// Tries at most so many random postures more; true when the trees have met.
  bool grow(int tries, LineProver& prover, const std::stop_token& stop);

  /// As found, when they have met: its cost is not worked out.
  [[nodiscard]] const Way& way() const { return way_; }
  [[nodiscard]] int tries() const { return tries_; }
  [[nodiscard]] int nodes() const { return from_start_.size() + from_goals_.size(); }

 private:
  int draw_back(PostureTree& tree, int node, Retreat way, LineProver& prover) const;
  Posture sample();
  void meet(int start_end, int goal_end);

  const Arm& arm_;
  RandomStream random_;
  int goals_;  // the first nodes of the tree that grows from them
  PostureTree from_start_;
  PostureTree from_goals_;
  bool start_grows_ = true;
  int tries_ = 0;
  Way way_;
};

}  // namespace er
