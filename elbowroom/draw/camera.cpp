#include "elbowroom/draw/camera.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

namespace er {

Camera::Camera(const Scene& scene, const View& view, int width, int height)
    : width_(static_cast<float>(width)), height_(static_cast<float>(height)) {
  constexpr float kMargin = 1.06F;
  tan_y_ = static_cast<float>(std::tan(0.5 * view.field));
  tan_x_ = tan_y_ * width_ / height_;
  const Vector3 from(std::cos(view.elevation) * std::cos(view.azimuth),
                     std::cos(view.elevation) * std::sin(view.azimuth), std::sin(view.elevation));
  forward = (-from).cast<float>();
  right = forward.cross(Eigen::Vector3f::UnitZ()).normalized();
  up = right.cross(forward);

  // A point at (x, y, z) along (right, up, forward) is in the frame of an eye at (a, b, -d) when
  // |x - a| <= tan_x (z + d) and |y - b| <= tan_y (z + d). The least d, and the a and b for it:
  float x_low = 1e30F, x_high = -1e30F, y_low = 1e30F, y_high = -1e30F;
  const float tx = tan_x_ / kMargin;
  const float ty = tan_y_ / kMargin;
  for (const SceneMesh& mesh : scene.meshes()) {
    for (const Eigen::Vector3f& v : mesh.vertices) {
      const float z = v.dot(forward);
      x_high = std::max(x_high, v.dot(right) - tx * z);
      x_low = std::min(x_low, v.dot(right) + tx * z);
      y_high = std::max(y_high, v.dot(up) - ty * z);
      y_low = std::min(y_low, v.dot(up) + ty * z);
    }
  }
  if (scene.meshes().empty()) x_low = y_low = -1.0F, x_high = y_high = 1.0F;
  const float distance = std::max((x_high - x_low) / (2.0F * tx), (y_high - y_low) / (2.0F * ty));
  eye = 0.5F * (x_low + x_high) * right + 0.5F * (y_low + y_high) * up - distance * forward;
}

Eigen::Vector3f Camera::ray(float x, float y) const {
  const float u = (2.0F * x / width_ - 1.0F) * tan_x_;
  const float v = (1.0F - 2.0F * y / height_) * tan_y_;
  return (forward + u * right + v * up).normalized();
}

}  // namespace er
