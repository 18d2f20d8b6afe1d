#include "elbowroom/draw/ghosts.hpp"

#include <algorithm>
#include <cmath>

#include "elbowroom/draw/tool_path.hpp"

namespace er {
namespace {

constexpr double kGhost = 0.36;  // how much of a ghost is seen
constexpr double kTint = 0.6;    // how much of a warning is its colour
constexpr Colour kWarning{0.84, 0.20, 0.16};
constexpr Colour kGap{0.12, 0.12, 0.14};  // the axes are red, green and blue
constexpr double kAxisLength = 0.12;      // m
constexpr double kAxisRadius = 0.005;

// Lays a ghost over a picture where it is, but not over the solid arm in front.
void blend(Image& picture, const Image& ghost, const std::vector<float>& there,
           const std::vector<float>& front, bool warning) {
  const std::array<double, 3> tint{255.0 * kWarning.red, 255.0 * kWarning.green,
                                   255.0 * kWarning.blue};
  for (std::size_t p = 0; p < there.size(); ++p) {
    const double share = kGhost * there[p] * (1.0F - front[p]);
    for (std::size_t c = 0; c < 3; ++c) {
      double value = ghost.rgb[3 * p + c];
      if (warning) value = (1.0 - kTint) * value + kTint * tint[c];
      std::uint8_t& out = picture.rgb[3 * p + c];
      out = static_cast<std::uint8_t>(std::lround((1.0 - share) * out + share * value));
    }
  }
}

void add(Scene& scene, const Marks& marks) {
  for (const MarkedPlace& place : marks.places) {
    scene.add_frame(place.at, kAxisLength, kAxisRadius);
    if (place.missed_from) scene.add_tube(*place.missed_from, place.at.position, kGap, kAxisRadius);
  }
  for (const auto& path : marks.other_paths) scene.add_path(path, kOtherPathColour);
  if (!marks.path.empty()) scene.add_path(marks.path, kPathColour);
  for (const auto& [from, to] : marks.gaps) {
    scene.add_tube(from, to, kGap, kAxisRadius);
    for (const Vector3& end : {from, to}) scene.add_ball(end, 2.0 * kAxisRadius, kGap);
  }
}

Scene together(const Scene& scene, const std::vector<GhostScene>& ghosts) {
  Scene out = scene;
  for (const GhostScene& ghost : ghosts) out.add(ghost.scene);
  return out;
}

}  // namespace

Image render_with_ghosts(const Cell& cell, const Arm& arm, const Posture& solid,
                         const std::vector<Ghost>& ghosts, const Marks& marks,
                         const RenderOptions& options) {
  Scene scene(cell, postures_with(cell, arm, solid), arm.name());
  add(scene, marks);
  std::vector<GhostScene> seen_through;
  for (const Ghost& ghost : ghosts) {
    for (const Vector3& contact : ghost.contacts) scene.add_ball(contact, 0.014, kWarning);
    seen_through.push_back(
        {Scene(cell, postures_with(cell, arm, ghost.posture), arm.name()), ghost.warning});
  }
  return render_with_ghosts(scene, seen_through, best_view(together(scene, seen_through)), options);
}

Image render_with_ghosts(const Scene& scene, const std::vector<GhostScene>& ghosts,
                         const View& view, const RenderOptions& options) {
  const Scene all = together(scene, ghosts);  // what the camera takes in
  RenderOptions framed = options;
  framed.frame = &all;
  Image picture = render(scene, view, framed);
  const std::vector<float> front = subject_share(scene, view, framed);
  framed.edge_samples = 2;
  framed.light_samples = 2;  // seen through, they need no fine shadows
  for (const GhostScene& ghost : ghosts)
    blend(picture, render(ghost.scene, view, framed), subject_share(ghost.scene, view, framed),
          front, ghost.warning);
  return picture;
}

}  // namespace er
