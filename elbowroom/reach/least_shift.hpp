// The least shift of a target that makes the answer a yes.
#pragma once

#include <optional>
#include <string>

#include "elbowroom/reach/reach.hpp"

namespace er {

/// The same target of one full pose, elsewhere. Throws InputError for a target of another kind.
Target shifted(const Target& target, const Vector3& shift);

/// True when the target can be reached with half a millimetre of clearance more than is asked for
/// (what is told to somebody must not graze), by a posture of `branch` if one is named.
bool would_do(const CellQuery& query, const Target& target, ReachOptions options,
              const std::string& branch = {});

/// Along a direction (world, unit): a shift in whole millimetres that would do, none of half its
/// size or less by doubling did, and of the sizes between, halved down to a millimetre, it is the
/// least that was seen to. Up to `most` (m); nothing when none does.
std::optional<Vector3> least_shift(const CellQuery& query, const Target& target,
                                   const ReachOptions& options, const Vector3& direction,
                                   double most, const std::string& branch = {});

/// "[0, -20, 0] mm", never "-0".
std::string text_shift(const Vector3& shift);

}  // namespace er
