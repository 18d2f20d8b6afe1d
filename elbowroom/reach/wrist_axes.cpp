#include "elbowroom/reach/wrist_axes.hpp"

#include <Eigen/Geometry>

namespace er {

WristAxes::WristAxes(const Screw& one, const Screw& two, const Screw& three)
    : first(one.axis),
      second(two.axis),
      third(three.axis),
      pointer(any_perpendicular(three.axis)),
      normal(one.axis.cross(two.axis)),
      cosine(one.axis.dot(two.axis)),
      inverse_sine2(1.0 / normal.squaredNorm()),
      second_by_third(two.axis.dot(three.axis)),
      inverse_across(1.0 / two.axis.cross(three.axis).squaredNorm()) {}

}  // namespace er
