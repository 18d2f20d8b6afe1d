// Out of a tight place as a person would: the tool drawn back straight.
#pragma once

#include <optional>

#include "elbowroom/model/arm.hpp"

namespace er {

/// Which way the tool is drawn: that of the arm's first tool, or the frame of its last link.
enum class Retreat {
  along_tool,  ///< back along its axis
  inward,      ///< straight to the axis of the first joint that turns
};

/// The posture after one step of 0.1 m, within joint ranges; the tool turns as little as that
/// allows. Nothing where it comes less than most of the step.
std::optional<Posture> drawn_back(const Arm& arm, const Posture& from, Retreat way);

}  // namespace er
