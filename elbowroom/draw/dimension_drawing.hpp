// A dimensioned drawing of an arm at its zero posture, to be held beside its data sheet.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/model/arm.hpp"

namespace er {

/// Which way the arm is looked at, in its base frame.
enum class DrawingView {
  side,  ///< x to the right, z up
  plan,  ///< from above: x to the right, y up
};

/// A distance between two things of the arm, along one direction of a view: from the floor, an
/// axis or a point to the next one in the chain that has a place in that direction. An axis that
/// lies along the direction has none in it, which is why lengths come out as data sheets give
/// them: axis to axis, whatever the frames in between.
struct ArmDimension {
  bool upward = false;  ///< along the view's second direction, else along its first
  double from = 0.0;    ///< m, in the base frame along that direction
  double to = 0.0;
  std::string first = {};  ///< "floor", the name of a joint, or of the link at the end
  std::string second = {};

  [[nodiscard]] double length() const { return to - from; }
};

/// Every dimension of at least 0.01 mm that can be read in a view, along the chain to the arm's
/// first tool or, without one, to its last link; the link that the last joint carries counts as its
/// flange.
std::vector<ArmDimension> dimensions_of(const Arm& arm, DrawingView view);

/// Side view and plan with all dimensions in mm, each axis with its positive sense, and a table of
/// the joints. PNG or SVG by the ending. Throws InputError for another ending, or when gnuplot
/// fails.
void draw_dimensions(const std::filesystem::path& path, const Arm& arm, int width = 1280,
                     int height = 800);

}  // namespace er
