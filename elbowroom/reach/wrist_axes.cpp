#include "elbowroom/reach/wrist_axes.hpp"

#include <Eigen/Geometry>
#include <cmath>

namespace er {
namespace {

// What is taken for a right angle may turn a hand by as much, rad: no more than rounding does.
constexpr double kRightAngle = 1e-15;

}  // namespace

WristAxes::WristAxes(const Screw& one, const Screw& two, const Screw& three)
    : first(one.axis),
      second(two.axis),
      third(three.axis),
      pointer((two.axis - two.axis.dot(three.axis) * three.axis).normalized()),
      normal(one.axis.cross(two.axis)),
      second_across(two.axis.cross(three.axis)),
      cosine(one.axis.dot(two.axis)),
      inverse_sine2(1.0 / normal.squaredNorm()),
      second_by_third(two.axis.dot(three.axis)),
      inverse_across(1.0 / second_across.squaredNorm()),
      at_right_angles(std::abs(cosine) < kRightAngle && std::abs(second_by_third) < kRightAngle) {}

}  // namespace er
