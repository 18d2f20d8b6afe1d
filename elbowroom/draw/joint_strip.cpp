#include "elbowroom/draw/joint_strip.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/random.hpp"
#include "elbowroom/collision/distance.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

const Colour kMoving{0.93, 0.45, 0.10};
const Colour kStanding{0.45, 0.47, 0.50};

Cell alone(const Arm& arm) {
  CellDescription cell;
  cell.arms = {arm};
  return Cell::build(cell);
}

// How far a link's shapes reach from its joint's axis.
double reach_across(const Link& link) {
  double reach = 0.0;
  for (const Part& part : link.parts) {
    const Vector3 p = part.at.position;
    reach = std::max(reach, (p - p.dot(link.joint.axis) * link.joint.axis).norm() +
                                0.6 * bounding_radius(part.shape));
  }
  return std::clamp(reach, 0.03, 0.25);
}

// The direction across the axis in which a mark stands clear of the link's shapes and, at joint
// value zero, of those of its parent.
Vector3 freest_side(const Link& link, const Link& parent, double length) {
  const Vector3 first = any_perpendicular(link.joint.axis);
  const Pose parent_in_link = link.joint.origin.inverse();
  Vector3 best = first;
  double most = -std::numeric_limits<double>::infinity();
  for (int i = 0; i < 24; ++i) {
    const Vector3 side = rotation_about(link.joint.axis, 2.0 * std::numbers::pi * i / 24) * first;
    double room = std::numeric_limits<double>::infinity();
    const auto look = [&](const std::vector<Part>& parts, const Pose& at) {
      for (const Part& part : parts)
        room = std::min(
            room,
            distance(Sphere{0.01}, Pose::at(length * side), part.shape, at * part.at).distance);
    };
    look(link.parts, {});
    look(parent.parts, parent_in_link);
    if (room <= most + 1e-9) continue;
    most = room;
    best = side;
  }
  return best;
}

// Half the length of a tube's arrow, and the marks, in proportion to the arm.
double size_of(const Arm& arm) {
  double sum = 0.0;
  for (const Link& link : arm.links()) sum += link.joint.origin.position.norm();
  return std::clamp(0.12 * sum, 0.02, 0.2);
}

Scene scene_of_joint(const Arm& arm, int joint, const Posture& posture) {
  Scene scene(alone(arm), {posture});
  const auto poses = link_poses(arm, posture);
  const auto index = static_cast<std::size_t>(arm.moving_link(joint));
  const Link& link = arm.links()[index];
  const double size = size_of(arm);
  for (const Pose& frame : poses) scene.add_frame(frame, 0.5 * size, 0.02 * size);

  const Pose& pose = poses[index];
  const Vector3 axis = pose.rotation * link.joint.axis;
  const double reach = reach_across(link);
  const Vector3 head = pose.position + (1.2 * size + reach) * axis;
  scene.add_tube(pose.position - (size + reach) * axis, head, {0.1, 0.1, 0.12}, 0.03 * size);
  scene.add_arrow_head(head, axis, {0.1, 0.1, 0.12}, 0.12 * size);
  // The marks: where the link's own side is now, and where it is at joint value zero.
  const Link& parent_link = arm.links()[static_cast<std::size_t>(link.parent_index)];
  const Pose parent = poses[static_cast<std::size_t>(link.parent_index)];
  const Vector3 side = freest_side(link, parent_link, 1.25 * reach);
  const bool turns = link.joint.kind == JointKind::revolute;
  const auto mark = [&](const Pose& at, const Colour& colour, double radius) {
    const Vector3 from = at.position + (turns ? 0.0 : 1.1 * reach) * (at.rotation * side);
    const Vector3 to = at.position + 1.25 * reach * (at.rotation * side);
    scene.add_tube(from, to, colour, 0.5 * radius);
    scene.add_ball(to, radius, colour);
  };
  mark(parent * link.joint.origin, kStanding, 0.09 * size);
  mark(pose, kMoving, 0.11 * size);
  return scene;
}

Strip drawn(const std::vector<Scene>& scenes, std::vector<Posture> postures,
            const StripOptions& options) {
  Scene all = scenes.front();
  for (std::size_t i = 1; i < scenes.size(); ++i) all.add(scenes[i]);
  const View view = best_view(all);
  const int count = static_cast<int>(scenes.size());
  const int rows = count > 3 ? 2 : 1;
  const int columns = (count + rows - 1) / rows;
  const int width = options.width / columns;
  const int height = options.height / rows;
  Strip strip;
  strip.postures = std::move(postures);
  strip.image.width = width * columns;
  strip.image.height = height * rows;
  strip.image.rgb.assign(3 * static_cast<std::size_t>(strip.image.width) *
                             static_cast<std::size_t>(strip.image.height),
                         255);
  for (int i = 0; i < count; ++i) {
    const Image tile = render(scenes[static_cast<std::size_t>(i)], view,
                              {.width = width, .height = height, .frame = &all});
    const int left = (i % columns) * width;
    const int top = (i / columns) * height;
    for (int y = 0; y < height - 1; ++y) {  // a thin white line is left between tiles
      const auto from = 3 * static_cast<std::ptrdiff_t>(y) * width;
      const auto to = 3 * (static_cast<std::ptrdiff_t>(top + y) * strip.image.width + left);
      std::copy_n(tile.rgb.begin() + from, 3 * (width - 1), strip.image.rgb.begin() + to);
    }
  }
  return strip;
}

void check(const StripOptions& options) {
  if (options.tiles < 2 || options.tiles > 32) throw InputError("a strip has 2 to 32 pictures");
}

}  // namespace

Strip joint_strip(const Arm& arm, int joint, const Posture& posture, const StripOptions& options) {
  check(options);
  const double half = arm.moving_joint(joint).kind == JointKind::revolute ? std::numbers::pi : 0.5;
  const auto finite = [&](double limit, double otherwise) {
    return std::isfinite(limit) ? limit : otherwise;
  };
  const double lower = finite(arm.limits().lower[joint], -half);
  const double upper = finite(arm.limits().upper[joint], half);
  std::vector<Scene> scenes;
  std::vector<Posture> postures;
  for (int i = 0; i < options.tiles; ++i) {
    Posture q = posture;
    q[joint] = lower + (upper - lower) * i / (options.tiles - 1);
    scenes.push_back(scene_of_joint(arm, joint, q));
    postures.push_back(q);
  }
  return drawn(scenes, std::move(postures), options);
}

Strip random_strip(const Arm& arm, std::uint64_t seed, const StripOptions& options) {
  check(options);
  RandomStream random(seed);
  std::vector<Scene> scenes;
  std::vector<Posture> postures;
  for (int i = 0; i < options.tiles; ++i) {
    postures.push_back(random.between(arm.search_lower(), arm.search_upper()));
    scenes.emplace_back(alone(arm), std::vector<Posture>{postures.back()});
  }
  return drawn(scenes, std::move(postures), options);
}

}  // namespace er
