// How arms are read from the dimensions of a data sheet; model/data_sheet.hpp says what they mean.
#pragma once

#include <vector>

#include "elbowroom/files/document.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

/// A `data_sheet:` group: the family, its dimensions with sides in words, and its axes. With
/// `thickness` every link gets a limb in that colour.
std::vector<Link> read_data_sheet(const Node& node, const Colour& colour);

}  // namespace er
