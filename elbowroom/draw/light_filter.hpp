// Smoothing of the lighting of a picture, without smearing it over edges.
#pragma once

#include <Eigen/Core>
#include <vector>

namespace er {

/// What one pixel sees, and how it is lit.
struct LitPixel {
  Eigen::Vector3f point = Eigen::Vector3f::Zero();
  Eigen::Vector3f normal = Eigen::Vector3f::Zero();  ///< zero where nothing is seen
  int mesh = -2;     ///< which mesh is seen; -1 the ground, -2 nothing
  float sun = 0.0F;  ///< share of the lamp that is not in shadow
  float sky = 0.0F;  ///< share of the sky that is seen
};

/// How alike two surface points are, 0 to 1: same orientation, same plane, near each other.
float likeness(const LitPixel& a, const LitPixel& b, float scale);

/// Averages `sun` and `sky` over neighbours that lie on the same surface. After H. Dammertz and
/// others, "Edge-avoiding a-trous wavelet transform for fast global illumination filtering", 2010.
/// `scale` is the size of a pixel on the surface, relative to distance from the eye.
void smooth_lighting(std::vector<LitPixel>& pixels, int width, int height, float scale,
                     const Eigen::Vector3f& eye);

}  // namespace er
