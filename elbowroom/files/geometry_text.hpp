// Everything about a cell's geometry as text, and a short name for it: for telling whether
// something that was worked out for a cell still belongs to it.
#pragma once

#include <string>
#include <string_view>

#include "elbowroom/model/cell.hpp"

namespace er {

/// Arms with their joints and ranges, fixtures, pieces, zones, meant contacts: all that distances
/// depend on, taken from what they are worked out from and not from a cell file, which names the
/// meshes of hulls only and says nothing of joints held for once. Equal texts: equal geometry, to
/// the last bit.
std::string geometry_text(const Cell& cell);

/// Sixteen hexadecimal digits: FNV-1a, 64 bits.
std::string digest_of(std::string_view text);

}  // namespace er
