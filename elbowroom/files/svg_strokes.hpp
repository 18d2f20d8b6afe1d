// Strokes from SVG files: what their lines and curves say, not how they look.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/route/strokes.hpp"

namespace er {

/// The strokes of path, line, polyline, polygon, rect, circle and ellipse elements, in file order,
/// in the units of the file, y turned up; groups and `transform` counted in; what stands under defs
/// is left out. Throws InputError with line and column for files that cannot be read, path data
/// that makes no sense, and for a file without strokes.
std::vector<Stroke> load_svg_strokes(const std::filesystem::path& path);
/// The same from text; `file` stands in messages.
std::vector<Stroke> parse_svg_strokes(const std::string& text, const std::string& file);

}  // namespace er
