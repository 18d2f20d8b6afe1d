// Clouds of points, each with the same ball about it.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/model/shape.hpp"

namespace er {

/// What a cloud is made of; shared by all copies of it. In the shape's own frame, metres.
struct CloudData {
  std::vector<Vector3> points = {};  ///< in the order of the tree
  double radius = 0.0;
  BoxTree tree = {};  ///< over the balls
  BoundingBall ball = {};
  double reach = 0.0;  ///< of a ball about the origin that holds it
  FileOrigin origin = {};
};

/// Throws InputError for no points, points that are not finite, or a radius of zero or less.
Cloud cloud_of(std::vector<Vector3> points, double radius, FileOrigin origin = {});

}  // namespace er
