// How the axes of a chain lie to each other: where they meet, which are parallel.
#pragma once

#include <optional>

#include "elbowroom/reach/screw_chain.hpp"

namespace er {

/// Axes nearer than this meet, and directions within it are parallel (m, and rad). Closed forms are
/// polished on the exact chain afterwards, so that the tolerance does not show in the answer.
constexpr double kAxisTolerance = 1e-7;

bool are_parallel(const Screw& a, const Screw& b);

/// Where two lines come nearest to each other: a point of each. Not for parallel ones.
struct CommonNormal {
  Vector3 on_first;
  Vector3 on_second;
  [[nodiscard]] double length() const { return (on_second - on_first).norm(); }
};
CommonNormal common_normal(const Screw& a, const Screw& b);

/// The point in which two axes meet, if they do.
std::optional<Vector3> meeting_point(const Screw& a, const Screw& b);
/// The one point in which three axes meet; the outer two may be parallel or the same.
std::optional<Vector3> meeting_point(const Screw& a, const Screw& b, const Screw& c);

double distance_from(const Screw& axis, const Vector3& point);

}  // namespace er
