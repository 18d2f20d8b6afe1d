// The postures in which a move may end: all branches, and turns that a goal leaves open.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/routine/situation.hpp"
#include "elbowroom/routine/step.hpp"

namespace er {

/// s that a posture's cost of 1 counts as, where ways are compared by their time.
inline constexpr double kPostureSeconds = 0.2;

/// A posture to end in.
struct GoalWay {
  Posture posture = {};
  double cost = 0.0;     ///< of standing so, by the target's wishes; travel is not in it
  std::string how = {};  ///< "from_above, turned 30 deg; front, up, +"
  std::vector<MeantContact> meant = {};  ///< what the target itself means to touch
};

/// The grasps of a piece by those names; without names all of them. Throws InputError.
std::vector<Grasp> grasps_of(const Body& piece, const std::vector<std::string>& names);

/// Where the tool's tip is in the piece's frame, turned so far about the piece's z.
Pose tip_in_piece(const Grasp& grasp, double turn);

/// What a goal comes to where the situation is known: postures as they are, or targets, which are
/// ways of the same.
struct ResolvedGoal {
  std::string name = {};
  std::vector<Posture> postures = {};
  struct Way {
    Target target;
    std::string how = {};
  };
  std::vector<Way> targets = {};
};
/// `start` is what the empty stance means; `from` is where the arm is; `tool` grasps; `clearance`
/// (m) is kept where a trace begins. Throws InputError for what is not there.
ResolvedGoal resolved(Situations& situations, int situation, const std::string& tool,
                      const Goal& goal, const Posture& start, const Posture& from,
                      double clearance);

/// Every way to end at any of some goals that keeps `clearance` (m), least cost first, at most
/// `most`. A no says why there is none.
Verdict<std::vector<GoalWay>> ways_to(Situations& situations, int situation,
                                      const std::string& tool, const std::vector<Goal>& goals,
                                      const Posture& start, const Posture& from, double clearance,
                                      std::size_t most);

/// Where there is none: the whole answer to the first of the goals, with what would cure it.
Reason why_no_way_to(Situations& situations, int situation, const std::string& tool,
                     const std::vector<Goal>& goals, const Posture& start, const Posture& from,
                     double clearance);

}  // namespace er
