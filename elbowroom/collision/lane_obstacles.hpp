// What stands around an arm, made ready for kernels that measure how far eight points are from it.
#pragma once

#include <span>
#include <vector>

#include "elbowroom/collision/checked_pairs.hpp"
#include "elbowroom/collision/lane_boxes.hpp"

namespace er {

/// Lengths are floats, in metres, counted from a centre near which all points are.
struct LaneObstacle {
  enum class Kind { box, cylinder, capsule, cone, hull, triangle, half_space };
  Kind kind = Kind::box;
  int standing = -1;       ///< what it is (part) of, in CheckedPairs::standing
  float rotation[9] = {};  ///< by columns
  float position[3] = {};
  float half[3] = {};         ///< of a box; z alone of round things
  float radius = 0.0F;        ///< of round things; of a cone's lower end
  float upper_radius = 0.0F;  ///< of a cone
  float ball[3] = {};         ///< the middle of a ball that holds it, margin included
  float ball_radius = 0.0F;
  float margin = 0.0F;    ///< distances count from so far outside it, rounding included
  float rounding = 0.0F;  ///< m: of a distance to it, at most
  /// A point whose distance comes out above this may be nearer: of a hull outside of it, and of
  /// whatever stands for many triangles.
  float exact_below = 0.0F;
  /// Of a hull, into LaneObstacles::planes. Of a triangle: its own plane, then for each edge the
  /// plane through it that is square to its own, its start and 1 / its length squared, and its way.
  int first_plane = 0;
  int end_plane = 0;
};

struct LaneObstacles {
  std::vector<LaneObstacle> items = {};
  LaneBoxes boxes = {};            ///< of the items with their margins
  std::vector<float> planes = {};  ///< four each: the normal and how far out
};

/// For points out to `reach` from `centre`. Meshes and clouds come as their elements, or where
/// those are many as boxes that hold some of them each. What is inside a solid mesh is not near to
/// it then: see `inside.hpp`.
LaneObstacles lane_obstacles(std::span<const StandingPart> parts, const Vector3& centre,
                             double reach);

/// Each part of a list as a single obstacle, which may be larger than the part.
LaneObstacles whole_obstacles(std::span<const StandingPart> parts, std::span<const int> list,
                              const Vector3& centre, double reach);

/// How far eight points are from each obstacle of a list, or less, never more: `out` has eight
/// values for each. `points` are eight values of x, of y and of z, from the centre.
void lane_distances(const LaneObstacles& obstacles, std::span<const int> list,
                    const float (*points)[8], float* out);

/// How fast those distances change at most, m/s, while the points go straight on at velocities that
/// are given like them: what of a velocity is towards an obstacle, or away from it.
void lane_approaches(const LaneObstacles& obstacles, std::span<const int> list,
                     const float (*points)[8], const float (*velocities)[8], float* out);

}  // namespace er
