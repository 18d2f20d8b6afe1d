// Surfaces as bytes, from one process to another.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "elbowroom/model/surface.hpp"

namespace er {

std::string bytes_of(const std::vector<Surface>& surfaces);
/// Throws InputError for what bytes_of did not write.
std::vector<Surface> surfaces_of_bytes(std::string_view bytes);

}  // namespace er
