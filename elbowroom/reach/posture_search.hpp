// The search for postures that meet a target: closed forms where the geometry has one, numeric
// starts elsewhere, and of families of postures the best of each kind.
#pragma once

#include "elbowroom/reach/closed_form.hpp"
#include "elbowroom/reach/one_held.hpp"
#include "elbowroom/reach/ranking.hpp"
#include "elbowroom/reach/reach.hpp"
#include "elbowroom/reach/seven_centres.hpp"

namespace er {

/// Gathers the distinct postures of a target, free ones and others.
class PostureSearch {
 public:
  struct Found {
    Posture posture;
    std::string branch = {};
    std::string free_joint = {};
    bool is_free = false;
    std::string view_blocked_by = {};
  };

  /// `out` is told the form, whether the search is complete, and the counts.
  PostureSearch(const CellQuery& query, const TargetOnArm& target, const Ranking& ranking,
                const ReachOptions& options, Reach& out);

  /// By the closed form of the chain, if the target holds a place that one can serve.
  void by_form();
  /// By numeric solves from postures spread over the ranges.
  void by_starts();
  /// A form that gave nothing is put to the test by numeric starts: no answer is worse than a wrong
  /// no, and at singularities rounding may part what only just meets.
  void doubt_that_none();

  [[nodiscard]] bool any_is_free() const;
  [[nodiscard]] const std::vector<Found>& found() const { return found_; }
  /// Those of a closed form that leave the ranges.
  [[nodiscard]] const std::vector<Posture>& beyond() const { return beyond_; }

 private:
  void judge(Found& one);
  [[nodiscard]] double search_cost(const Found& judged);
  bool add(Found one);
  [[nodiscard]] Posture posture_of(const ScrewChain& chain, const ClosedSolution& solution) const;
  [[nodiscard]] Posture with_free_joint(const Posture& one, int entry) const;
  void by_closed_form(const ClosedForm& form, const Pose& tip);
  void by_elbow_angle(const SevenCentres& form, const Pose& tip);
  void by_held_joint(const OneHeld& form, const Pose& tip);
  void by_free_turn(const ClosedForm& form, const AtPlace& place);
  [[nodiscard]] Posture best_turned(const Posture& posture) const;
  [[nodiscard]] Posture improved(const Posture& posture, const std::string& branch);
  void keep_best_of(std::vector<Found> family, const ClosedForm* form, bool is_wide = false);

  const CellQuery& query_;
  const TargetOnArm& target_;
  const Arm& arm_;
  const Ranking& ranking_;
  const ReachOptions& options_;
  double clearance_;
  Reach& out_;
  PartPoses parts_;
  std::vector<Found> found_;
  std::vector<Posture> beyond_;
};

/// True for postures that are the same but for full turns, to 1e-3 rad and m in every joint.
bool is_same_posture(const Arm& arm, const Posture& a, const Posture& b);

}  // namespace er
