#include "elbowroom/reach/wrist_axes.hpp"

#include <Eigen/Geometry>
#include <cmath>
#include <numbers>

#include "elbowroom/reach/subproblems.hpp"

namespace er {
namespace {

// What is taken for a right angle may turn a hand by as much, rad: no more than rounding does.
constexpr double kRightAngle = 1e-15;

double cosine_between(const Vector3& a, const Vector3& b) {
  const double cosine = a.dot(b);
  return std::abs(cosine) < kRightAngle ? 0.0 : cosine;
}

double sine_between(const Vector3& a, const Vector3& b) {
  return cosine_between(a, b) == 0.0 ? 1.0 : a.cross(b).norm();
}

}  // namespace

WristAxes::WristAxes(const Vector3& one, const Vector3& two, const Vector3& three)
    : base(frame_of(one, two)),
      end(frame_of(three, two)),
      first_cosine(cosine_between(one, two)),
      first_sine(sine_between(one, two)),
      inverse_first_sine(1.0 / first_sine),
      third_cosine(cosine_between(two, three)),
      third_sine(sine_between(two, three)),
      third_away(three.dot(first_cosine * base.col(1) - first_sine * base.col(0))),
      third_aside(three.dot(base.col(2))),
      at_right_angles(first_cosine == 0.0 && third_cosine == 0.0),
      twice_second_zero(
          std::remainder(2.0 * std::atan2(third_aside, third_away), 2.0 * std::numbers::pi)) {}

}  // namespace er
