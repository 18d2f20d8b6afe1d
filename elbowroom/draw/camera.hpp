// A pinhole camera that makes a scene fit its frame.
#pragma once

#include "elbowroom/draw/render.hpp"

namespace er {

struct Camera {
  /// Looks along the view's direction, as near as it can be with every vertex in the frame.
  Camera(const Scene& scene, const View& view, int width, int height);

  /// The direction (unit length) through a point of the picture, in pixels from the top left.
  [[nodiscard]] Eigen::Vector3f ray(float x, float y) const;

  Eigen::Vector3f eye;
  Eigen::Vector3f right;
  Eigen::Vector3f up;
  Eigen::Vector3f forward;

 private:
  float tan_x_;
  float tan_y_;
  float width_;
  float height_;
};

}  // namespace er
