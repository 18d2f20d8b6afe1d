// The least shift of a target that makes the answer a yes.
#pragma once

#include <optional>
#include <string>

#include "elbowroom/reach/reach.hpp"

namespace er {

/// True when the target can be reached with half a millimetre of clearance more than is asked for
/// (what is told to somebody must not graze), by a posture of `branch` if one is named.
bool would_do(const CellQuery& query, const Target& target, ReachOptions options,
              const std::string& branch = {});

/// Along a direction (world, unit), in whole millimetres: sizes of 4, 8, 16, ... up to `most` (m)
/// are tried, then the stretch before the first that does is halved down to a millimetre. (What
/// would do before a stretch that does not is not seen.) Nothing when none does.
std::optional<Vector3> least_shift(const CellQuery& query, const Target& target,
                                   const ReachOptions& options, const Vector3& direction,
                                   double most, const std::string& branch = {});

/// "[0, -20, 0] mm", never "-0".
std::string text_shift(const Vector3& shift);

}  // namespace er
