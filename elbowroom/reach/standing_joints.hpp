// Arms of three to five joints as six of which up to three stand still.
#pragma once

#include <vector>

#include "elbowroom/reach/closed_solutions.hpp"

namespace er {

/// Six joints, the arm's own in a row among them; all others stand at zero.
struct StandingJoints {
  ScrewChain chain;
  int first = 0;  ///< the first of the arm's own
  int own = 0;    ///< how many

  [[nodiscard]] bool stands(int joint) const { return joint < first || joint >= first + own; }
  [[nodiscard]] bool stand_behind() const { return first == 0; }
};

/// Six joints that together do less than six in every posture in which those stand that stand: two
/// on one line, four through one point, slides along one plane. All its postures come in families,
/// and forms know a few of them only. False for other numbers of joints.
bool is_singular_everywhere(const StandingJoints& six);

/// Ways to add turning joints to three to five, the likeliest to have a quick closed form first:
/// behind the last, through a point of its axis, with which they make a wrist, or meet it as the
/// last two of other forms do; before the first likewise; and askew to everything.
std::vector<StandingJoints> with_standing_joints(const ScrewChain& chain);

/// Of the six's postures those in which the others stand, put back through the chain of the arm
/// alone, as its own: its joints from the front. `complete` is false where another member of a
/// family may stand, and where none does: a pose that such an arm can do only to within a tolerance
/// is not a pose that it cannot do. Allocates nothing.
void keep_standing(const StandingJoints& six, const ScrewChain& own, const Pose& wanted,
                   ClosedSolutions& solutions);

}  // namespace er
