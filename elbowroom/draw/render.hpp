// Still pictures of a scene, ray traced on the processor: no display, no graphics card.
#pragma once

#include <cstdint>
#include <filesystem>
#include <vector>

#include "elbowroom/draw/scene.hpp"

namespace er {

struct Image {
  int width = 0;
  int height = 0;
  std::vector<std::uint8_t> rgb;  ///< rows from the top, three bytes a pixel
};

/// Where the picture is taken from. The camera looks at the middle of the scene from a direction
/// and stands just far enough away that everything fits.
struct View {
  double azimuth = -0.7;    ///< radians from the world's x, turning left; 0 is from straight ahead
  double elevation = 0.45;  ///< radians above the horizon
  double field = 0.6;       ///< vertical field of view, radians
};

struct RenderOptions {
  int width = 1280;
  int height = 800;
  int edge_samples = 5;          ///< rays a pixel for smooth edges
  int light_samples = 5;         ///< shadow rays and sky rays a pixel, each
  const Scene* frame = nullptr;  ///< the camera takes this in instead, so that pictures match
};

/// The view, all round the scene at a fixed height, that shows most of the subjects: the arm and
/// its path are not hidden behind what stands around them.
View best_view(const Scene& scene);

/// Renders on all cores; the picture does not depend on how many there are.
Image render(const Scene& scene, const View& view, const RenderOptions& options = {});

/// How much of each pixel shows a subject of the scene, 0 to 1, rows from the top: not what it
/// shades or reflects. The camera is that of render().
std::vector<float> subject_share(const Scene& scene, const View& view,
                                 const RenderOptions& options = {});

/// Writes a PNG, whole or not at all. Throws InputError when it cannot.
void write_png(const std::filesystem::path& path, const Image& image);

}  // namespace er
