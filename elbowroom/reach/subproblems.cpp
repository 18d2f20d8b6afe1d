#include "elbowroom/reach/subproblems.hpp"

#include <Eigen/Geometry>
#include <cmath>

namespace er {
namespace {

// turn(p) = along + cos * across + sin * (axis x p).
struct Circle {
  Vector3 along;
  Vector3 across;
  Vector3 side;
};

Circle circle_of(const Vector3& axis, const Vector3& p) {
  return {axis.dot(p) * axis, across(axis, p), axis.cross(p)};
}

}  // namespace

Vector3 across(const Vector3& axis, const Vector3& v) { return v - axis.dot(v) * axis; }

Matrix3 frame_of(const Vector3& along, const Vector3& aside) {
  Matrix3 out;
  out.col(0) = along;
  out.col(1) = across(along, aside).normalized();
  out.col(2) = out.col(0).cross(out.col(1));
  return out;
}

double turn_of(const Vector3& axis, const Matrix3& rotation) {
  const Vector3 pointer = any_perpendicular(axis);
  return turn_onto(axis, pointer, rotation * pointer);
}

double turn_onto(const Vector3& axis, const Vector3& p, const Vector3& q) {
  const double cosine = p.dot(q) - axis.dot(p) * axis.dot(q);
  const double sine = axis.dot(p.cross(q));
  return cosine == 0.0 && sine == 0.0 ? 0.0 : std::atan2(sine, cosine);
}

TwoAngles turns_to_distance(const Vector3& axis, const Vector3& p, const Vector3& q, double d) {
  // |turn(p) - q|^2 = |p|^2 + |q|^2 - 2 q . turn(p)
  return turns_to_height(axis, p, q, 0.5 * (p.squaredNorm() + q.squaredNorm() - d * d));
}

TwoAngles turns_to_height(const Vector3& axis, const Vector3& p, const Vector3& h, double d) {
  const Circle circle = circle_of(axis, p);
  return solve_cosine_sine(h.dot(circle.across), h.dot(circle.side), d - h.dot(circle.along));
}

TwoTurns two_turns(const Vector3& first, const Vector3& second, const Vector3& p,
                   const Vector3& q) {
  TwoTurns out;
  // x = turn about second (p) = turn back about first (q) keeps second . p and first . q.
  const double cosine = first.dot(second);
  const double sine2 = 1.0 - cosine * cosine;
  if (sine2 < 1e-20) return out;  // parallel axes: not this question
  const double along_second = second.dot(p);
  const double along_first = first.dot(q);
  const double a = (along_first - cosine * along_second) / sine2;
  const double b = (along_second - cosine * along_first) / sine2;
  const double rest = p.squaredNorm() - (a * a + b * b + 2.0 * a * b * cosine);
  constexpr double kNothing =
      1e-14;  // where p and q are in the origin, but for the half of their digits
  if (rest < -kHalfOfDigits * p.squaredNorm() - kNothing) return out;
  const Vector3 normal = first.cross(second);
  const Vector3 middle = a * first + b * second;
  const double height = std::sqrt(std::max(rest, 0.0) / sine2);
  // Nothing to turn about the first axis: q lies on it, and so does x.
  out.any = (q - along_first * first).squaredNorm() < kNothing * q.squaredNorm();
  for (const double side : {1.0, -1.0}) {
    const Vector3 x = middle + side * height * normal;
    out.first[out.count] = out.any ? 0.0 : turn_onto(first, x, q);
    out.second[out.count] = turn_onto(second, p, x);
    ++out.count;
    if (height * height < 1e-24) break;
  }
  return out;
}

}  // namespace er
