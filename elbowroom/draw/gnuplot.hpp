// Running gnuplot over a script of ours.
#pragma once

#include <filesystem>
#include <functional>
#include <string>

namespace er {

/// A text as gnuplot quotes it.
std::string gnuplot_quoted(const std::string& text);

/// Draws `script`, which needs no terminal and no output of its own, to a PNG or SVG file by the
/// ending of `path`; the file is written whole or not at all. Throws InputError for another
/// ending, or when gnuplot is missing or fails.
void draw_with_gnuplot(const std::filesystem::path& path, int width, int height,
                       const std::string& script);

}  // namespace er
