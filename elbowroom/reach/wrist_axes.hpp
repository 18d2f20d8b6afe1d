// Three turning joints whose axes meet in a point, as directions at zero, with what can be worked
// out once: a wrist or a shoulder.
#pragma once

#include "elbowroom/reach/screw_chain.hpp"

namespace er {

struct WristAxes {
  WristAxes(const Screw& one, const Screw& two, const Screw& three);

  Vector3 first;
  Vector3 second;
  Vector3 third;
  Vector3 pointer;         ///< what of the second lies across the third, as a direction: where it
                           ///< goes tells the third turn
  Vector3 normal;          ///< first x second
  Vector3 second_across;   ///< second x third
  double cosine;           ///< first . second
  double inverse_sine2;    ///< 1 / |normal|^2
  double second_by_third;  ///< second . third
  double inverse_across;   ///< 1 / what of the third lies across the second, squared
  bool at_right_angles;    ///< the first two, and the last two
};

}  // namespace er
