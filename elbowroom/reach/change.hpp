// What a change of one joint, or of one coordinate of the tool, does to all the others.
#pragma once

#include <string>

#include "elbowroom/base/verdict.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {

/// A change by an amount: a joint's name, or x, y, z (m), or roll, pitch, yaw (rad) of the tool in
/// a frame.
struct Change {
  std::string of = {};
  double by = 0.0;
};

/// Reads "elbow + 5 deg" or "x - 10 mm". Throws InputError for an unknown name or a wrong unit.
Change read_change(const Arm& arm, const std::string& text);

struct ChangeEffect {
  Posture before;
  Posture after;
  Pose tip_before;  ///< in the frame
  Pose tip_after;

  /// A table: each joint and each coordinate before, after, and by how much it changed.
  [[nodiscard]] std::string report(const Arm& arm) const;
};

/// Works the change out from a posture. A change of the tool is solved from there, so the arm stays
/// on its branch; a no says why the tool cannot be there. roll, pitch and yaw are about fixed axes.
Verdict<ChangeEffect> effect_of(const Arm& arm, const Tool& tool, const PostureRef& posture,
                                const Change& change, const Pose& frame = {});

}  // namespace er
