// The distance between two shapes.
#pragma once

#include "elbowroom/model/core_shape.hpp"
#include "elbowroom/model/shape.hpp"

namespace er {

/// How far apart two shapes are, and where. Metres, world frame.
struct Separation {
  /// Above zero: the gap. Below zero: how deep they overlap, the shortest way out.
  double distance = 0.0;
  /// A value the true distance is not below: what a proof may rely on.
  double lower_bound = 0.0;
  Vector3 point_a = Vector3::Zero();  ///< on the first shape, nearest to (or deepest in) the second
  Vector3 point_b = Vector3::Zero();  ///< on the second shape
  Vector3 normal = Vector3::UnitZ();  ///< unit, from the second shape towards the first
};

/// Exact shapes, no meshing: accurate to 1e-6 m, in practice near 1e-9. Of meshes and clouds, that
/// of their nearest elements; where those overlap, the shortest way out of the deepest one (of just
/// one, where both shapes are of many), which need not be the way out of all of them; of something
/// wholly inside a solid mesh, out by its nearest side. Two half-spaces overlap without end.
/// Allocates nothing.
Separation distance(const Shape& a, const Pose& pose_a, const Shape& b, const Pose& pose_b);

/// The same, but the search ends as soon as the shapes are proved further apart than `gap`: then
/// `lower_bound` is above it, and all else is of no use. Unless `measure_overlap`, shapes that
/// overlap are told to be at 0, without where and how deep. Allocates nothing.
Separation distance_within(double gap, const Shape& a, const Pose& pose_a, const Shape& b,
                           const Pose& pose_b, bool measure_overlap = true);

/// True only when the shapes are proved to be further apart than `gap` (>= 0). Much cheaper than
/// distance() because it stops at the first plane that separates them. Allocates nothing.
bool further_apart_than(double gap, const Shape& a, const Pose& pose_a, const Shape& b,
                        const Pose& pose_b);

/// What makes a search for a distance shorter.
struct DistanceHint {
  double precision = 0.0;            ///< m; the bound may be less than the distance by so much
  Vector3 normal = Vector3::Zero();  ///< about what the answer's will be; zero: not known
};

/// The same two of cores.
Separation distance_within(double gap, const CoreShape& a, const CoreShape& b,
                           bool measure_overlap = true, const DistanceHint& hint = {});
bool further_apart_than(double gap, const CoreShape& a, const CoreShape& b);

}  // namespace er
