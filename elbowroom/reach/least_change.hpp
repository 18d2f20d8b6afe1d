// The least changes of a target's pose that make the answer a yes, each tried as it is told: in
// whole millimetres, or in tenths of degrees.
#pragma once

#include <optional>
#include <string>

#include "elbowroom/reach/reach.hpp"

namespace er {

/// True when the target can be reached as the options ask, and with half a millimetre of clearance
/// more (what is told to somebody must not graze), by a posture of `branch` if one is named.
bool would_do(const CellQuery& query, const Target& target, ReachOptions options,
              const std::string& branch = {});

/// Whole millimetres, or degrees. Tried are `from`, and 1, 3, 7, 15, ... more, then `most`; then
/// the stretch before the first that does is halved down to one. (What would do before a stretch
/// that does not is not seen.)
struct Sizes {
  int from = 1;
  int most = 0;
};

inline constexpr int kMostShift = 160;  ///< mm; further away it is another target

/// Along a direction (world, unit). Nothing when none does.
std::optional<Vector3> least_shift(const CellQuery& query, const Target& target,
                                   const ReachOptions& options, const Vector3& direction,
                                   Sizes millimetres, const std::string& branch = {});

/// A turn of the target about an axis (world, unit) through it, and the roll, pitch and yaw that it
/// has then: rad, whole tenths of degrees.
struct TurnedTarget {
  int degrees = 0;
  Vector3 rpy;
};
std::optional<TurnedTarget> least_turn(const CellQuery& query, const Target& target,
                                       const ReachOptions& options, const Vector3& axis,
                                       Sizes degrees);

/// The roll, pitch and yaw of a rotation as they are told: rad, whole tenths of degrees.
Vector3 told_rpy(const Matrix3& rotation);
/// A full pose, turned to these.
Target turned_to(const Target& target, const Vector3& rpy);

}  // namespace er
