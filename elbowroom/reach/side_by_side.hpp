// The numeric solve of a place from many starts side by side: eight at a time in vector lanes, a
// start that has ended making room for the next one.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "elbowroom/base/random.hpp"
#include "elbowroom/kinematics/lane_chain.hpp"
#include "elbowroom/kinematics/target_on_arm.hpp"
#include "elbowroom/reach/numeric.hpp"

namespace er {

/// A target that is one full place, or the point of one in any orientation, of a chain of at most
/// eight moving joints.
///
/// Each start goes by damped least squares over the rows of the place, with the damping that
/// vanishes with the squared error of T. Sugihara, "Solvability-unconcerned inverse kinematics by
/// the Levenberg-Marquardt method", 2011; a joint at an end of its range that would go on beyond it
/// is left out of the step (D. Bertsekas, "Projected Newton methods for optimization problems with
/// simple constraints", 1982).
class SideBySide {
 public:
  /// Nothing for other targets.
  static std::optional<SideBySide> of(const TargetOnArm& target);

  struct Found {
    int start = 0;  ///< the number of the start that led there
    int iterations = 0;
    Posture posture = {};  ///< joints that the place does not depend on are as in the start
  };
  /// Takes starts 0 .. `most` - 1 from the sequence, all of them or until the first met the target.
  /// Those that met it, in the order of their starts. `iterations` of the options are the most a
  /// start may take; `give_up_early` holds for three of four starts. Every posture is put back
  /// through TargetOnArm before it is given. Allocates what it returns, no more.
  [[nodiscard]] std::vector<Found> solve(const SpreadSequence& starts, int most, bool first_only,
                                         const NumericOptions& options = {}) const;

 private:
  SideBySide(const TargetOnArm& target, const LaneChain& chain, const AtPlace& place);

  const TargetOnArm* target_;
  LaneChain chain_;
  Pose at_;
  bool with_turn_;
};

/// The postures that meet a target, from its starts 0 .. `most` - 1 in their order: side by side
/// where that serves, else one after the other. Not all of them are different.
std::vector<Posture> postures_from_starts(const TargetOnArm& target, int most);
/// The same up to the first that does.
std::optional<Posture> posture_from_starts(const TargetOnArm& target, int most);

}  // namespace er
