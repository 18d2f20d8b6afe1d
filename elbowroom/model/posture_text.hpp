// Postures in tables, one column per joint, and joint travel, in drawing units.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/base/units.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

/// "waist deg", "lift mm", ...
std::vector<std::string> joint_headings(const Arm& arm);

/// The values under those headings, to a tenth, never "-0.0".
std::vector<std::string> joint_cells(const Arm& arm, const PostureRef& posture);

/// As the tool takes it: "12.5 deg, 140.0 mm".
std::string posture_argument(const Arm& arm, const PostureRef& posture);

/// What joint travel, the 2-norm over all joints, is told in: deg; mm where all joints slide; where
/// both kinds move, plain radians and metres together.
struct TravelUnit {
  const char* name = "deg";
  double scale = to_deg(1.0);  ///< of a radian, or a metre
  int digits = 0;

  [[nodiscard]] std::string number(double travel) const;
  /// "127 deg".
  [[nodiscard]] std::string text(double travel) const;
};
TravelUnit travel_unit(const Arm& arm);

}  // namespace er
