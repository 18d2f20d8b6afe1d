#include "elbowroom/draw/light_filter.hpp"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace er {

namespace {

inline float alike(const LitPixel& a, const LitPixel& b, float per_scale) {
  const float facing = a.normal.dot(b.normal);
  if (facing < 0.8F) return 0.0F;
  const float off_plane = std::abs(a.normal.dot(b.point - a.point));
  const float plane = std::max(0.0F, 1.0F - 0.25F * off_plane * per_scale);
  const float turn = facing * facing * facing * facing;
  return plane * turn * turn;
}

}  // namespace

float likeness(const LitPixel& a, const LitPixel& b, float scale) {
  return alike(a, b, 1.0F / scale);
}

void smooth_lighting(std::vector<LitPixel>& pixels, int width, int height, float scale,
                     const Eigen::Vector3f& eye) {
  static constexpr std::array kWeights{0.375F, 0.25F, 0.0625F};
  std::vector<LitPixel> smoothed = pixels;
  for (const int step : {1, 2}) {
    tbb::parallel_for(0, height, [&](int y) {
      for (int x = 0; x < width; ++x) {
        const auto here = static_cast<std::size_t>(y * width + x);
        const LitPixel& centre = pixels[here];
        if (centre.normal.isZero()) continue;
        const float per_size =
            1.0F / (scale * (centre.point - eye).norm() * static_cast<float>(step));
        float sum = 0.0F, sun = 0.0F, sky = 0.0F;
        for (int j = -2; j <= 2; ++j) {
          for (int i = -2; i <= 2; ++i) {
            const int nx = x + i * step;
            const int ny = y + j * step;
            if (nx < 0 || ny < 0 || nx >= width || ny >= height) continue;
            const LitPixel& other = pixels[static_cast<std::size_t>(ny * width + nx)];
            if (other.normal.isZero()) continue;
            const float weight = kWeights[static_cast<std::size_t>(std::abs(i))] *
                                 kWeights[static_cast<std::size_t>(std::abs(j))] *
                                 alike(centre, other, per_size);
            sum += weight;
            sun += weight * other.sun;
            sky += weight * other.sky;
          }
        }
        smoothed[here].sun = sun / sum;
        smoothed[here].sky = sky / sum;
      }
    });
    std::swap(pixels, smoothed);
  }
}

}  // namespace er
