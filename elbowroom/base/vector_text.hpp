// Three numbers as text for people: "[400, 0, 700] mm", rounded, and never "-0".
#pragma once

#include <string>

#include "elbowroom/base/pose.hpp"

namespace er {

/// Metres, to a tenth of a millimetre; radians (roll, pitch and yaw), to a tenth of a degree; a
/// direction, to three digits.
std::string text_mm(const Vector3& metres);
std::string text_deg(const Vector3& radians);
std::string text_unit(const Vector3& direction);

}  // namespace er
