#include "elbowroom/base/twist.hpp"

namespace er {

Twist twist_between(const Pose& from, const Pose& to, double duration) {
  const Matrix3 back = from.rotation.transpose();
  return {(to.position - from.position) / duration,
          rotation_vector(product(to.rotation, back)) / duration};
}

Pose moved(const Pose& from, const Twist& twist, double duration) {
  const Vector3 position = from.position + duration * twist.velocity;
  const double speed = twist.turning.norm();
  if (!(speed > 0.0)) return {from.rotation, position};
  return {product(rotation_about(twist.turning / speed, duration * speed), from.rotation),
          position};
}

}  // namespace er
