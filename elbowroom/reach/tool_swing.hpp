// What the tool does while the joints go straight from one posture to another.
#pragma once

#include "elbowroom/model/arm.hpp"

namespace er {

struct ToolSwing {
  double travel = 0.0;  ///< m, the length of the frame's way
  double off = 0.0;     ///< m, how far it strays from the straight line between its ends
};

/// Of a frame on a link, at postures no more than 5 mrad or mm of any joint apart: to within about
/// 0.2 mm.
ToolSwing tool_swing(const Arm& arm, int link, const Pose& frame, const PostureRef& from,
                     const PostureRef& to);

}  // namespace er
