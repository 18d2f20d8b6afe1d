// The way along a chain as its moving joints alone: what forward kinematics walks.
#pragma once

#include <vector>

#include "elbowroom/base/pose.hpp"

namespace er {

/// One moving joint of a chain, made ready to be walked: its frame has the joint's axis as z. A
/// step turns about z, slides along it, goes `onward` and tilts about x, which brings z onto the
/// axis of the next joint; what else fixed joints turn is in the turns' offsets.
struct WalkStep {
  int entry = 0;  ///< of the posture, that moves it
  double turn_ratio = 0.0;
  double turn_offset = 0.0;          ///< rad; turn = turn_ratio * that entry + turn_offset
  double slide_ratio = 0.0;          ///< m a unit of that entry
  Vector3 onward = Vector3::Zero();  ///< m, in the turned frame; a slide's zero counted in
  double tilt_cosine = 1.0;
  double tilt_sine = 0.0;

  [[nodiscard]] bool turns() const { return turn_ratio != 0.0; }
};

/// The way from a base frame to a frame that the last joint carries.
struct ChainWalk {
  Pose start = {};  ///< the first joint's frame, in the base
  std::vector<WalkStep> steps = {};
  Pose end = {};  ///< the frame, in that of the last step (or of the base)

  /// A joint value = ratio * posture entry + offset that turns, or slides.
  struct Moves {
    bool turns = true;
    int entry = 0;
    double ratio = 1.0;
    double offset = 0.0;
  };
  /// Goes on by a joint about, or along, `axis` (unit) through the origin of the frame `end`, which
  /// the joint carries from now on.
  void append(const Vector3& axis, const Moves& moves);
};

}  // namespace er
