#include "elbowroom/draw/ghosts.hpp"

#include <algorithm>
#include <cmath>
#include <cstdlib>

namespace er {
namespace {

constexpr double kGhost = 0.32;  // how much of a ghost is seen
constexpr double kTint = 0.6;    // how much of a warning is its colour
constexpr Colour kWarning{0.84, 0.20, 0.16};
constexpr int kSameColour = 14;  // of 255: less is noise of few rays

// Where two pictures of one view show something else.
std::vector<bool> differing(const Image& a, const Image& b) {
  std::vector<bool> out(a.rgb.size() / 3);
  for (std::size_t p = 0; p < out.size(); ++p)
    for (std::size_t c = 3 * p; c < 3 * p + 3; ++c)
      out[p] = out[p] || std::abs(int{a.rgb[c]} - int{b.rgb[c]}) > kSameColour;
  return out;
}

void blend(Image& picture, const Image& ghost, const std::vector<bool>& where,
           const std::vector<bool>& behind, bool warning) {
  const std::array<double, 3> tint{255.0 * kWarning.red, 255.0 * kWarning.green,
                                   255.0 * kWarning.blue};
  for (std::size_t p = 0; p < where.size(); ++p) {
    if (!where[p] || behind[p]) continue;
    for (std::size_t c = 0; c < 3; ++c) {
      double value = ghost.rgb[3 * p + c];
      if (warning) value = (1.0 - kTint) * value + kTint * tint[c];
      std::uint8_t& out = picture.rgb[3 * p + c];
      out = static_cast<std::uint8_t>(std::lround((1.0 - kGhost) * out + kGhost * value));
    }
  }
}

}  // namespace

Image render_with_ghosts(const Cell& cell, const Arm& arm, const Posture& solid,
                         const std::vector<Ghost>& ghosts, const RenderOptions& options) {
  Scene scene(cell, postures_with(cell, arm, solid));
  Scene all = scene;  // what the camera takes in
  for (const Ghost& ghost : ghosts) {
    for (const Vector3& contact : ghost.contacts) scene.add_ball(contact, 0.014, kWarning);
    all.add(Scene(cell, postures_with(cell, arm, ghost.posture)));
  }
  const View view = best_view(all);
  RenderOptions full = options;
  full.frame = &all;
  Image picture = render(scene, view, full);
  if (ghosts.empty()) return picture;

  // What is a ghost is told by comparing pictures with and without the arm, for which few rays do.
  RenderOptions quick = full;
  quick.edge_samples = 2;
  quick.light_samples = 2;
  const Image empty = render(Scene(cell, postures_with(cell, arm, solid), arm.name()), view, quick);
  const std::vector<bool> front = differing(render(scene, view, quick), empty);
  for (const Ghost& ghost : ghosts) {
    const Image one = render(Scene(cell, postures_with(cell, arm, ghost.posture)), view, quick);
    blend(picture, one, differing(one, empty), front, ghost.warning);
  }
  return picture;
}

}  // namespace er
