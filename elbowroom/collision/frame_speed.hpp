// How fast a frame of an arm may move: a rule of motions, and what a motion makes of it.
#pragma once

#include <string>

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

struct FrameSpeed {
  std::string name = {};
  std::string of = {};           ///< a tool's tip, or a link's frame; empty is the arm's first tool
  Vector3 at = Vector3::Zero();  ///< m, a point in that frame
  double most = 0.0;             ///< m/s

  /// "rule 'slow wrist': flange at 250.0 mm/s at most"
  [[nodiscard]] std::string text() const;
};

/// Throws InputError for a limit that is not above zero and finite, or a frame that is not there.
void check_frame_speed(const Arm& arm, const FrameSpeed& rule);

/// Whether the arm has the rule's frame: a piece's only while it holds it.
bool has_frame(const Arm& arm, const FrameSpeed& rule);

struct ArmPoint {
  int link = -1;
  Vector3 at = Vector3::Zero();  ///< m, in the link's frame
};
ArmPoint point_of(const Arm& arm, const FrameSpeed& rule);

/// Where on a curve a rule's frame is fastest.
struct FastestFrame {
  double share = 0.0;  ///< of the limit: nowhere exceeded, at most 0.1 % of it above the truth
  double time = 0.0;   ///< about
};

/// Over all times of the curve and not at samples: intervals are split until what the speed in
/// their middle can change by, with the levers of the joints, is next to nothing.
FastestFrame fastest_of(const Arm& arm, const FrameSpeed& rule, const JointCurve& curve);

}  // namespace er
