// Running gnuplot over a script of ours.
#pragma once

#include <array>
#include <filesystem>
#include <functional>
#include <string>

namespace er {

/// Colours that stay apart in print and for colour-blind readers.
inline constexpr std::array kPlotColours{"#0072b2", "#d55e00", "#009e73", "#cc79a7",
                                         "#e69f00", "#56b4e9", "#555555", "#8c564b"};

/// Rows of data a line at most: each the worst of what it stands for.
inline constexpr std::size_t kPlotRows = 1600;

/// Grid, border and tics as all plots have them.
inline constexpr const char* kPlotStyle =
    "set grid linecolor rgb '#dddddd'\nset border linecolor rgb '#888888'\n"
    "set tics textcolor rgb '#222222'\n";

/// A text as gnuplot quotes it.
std::string gnuplot_quoted(const std::string& text);

/// The beginning of a plot of three panels above each other, which share the time axis: its title,
/// a note in the margin, and where the panels end at the right (a share of the width).
std::string three_panels(const std::string& title, const std::string& note, double right,
                         double duration);
/// The frame of one of them (0 to 2, from the top): margins that line up, the key beside the first,
/// the time below the last.
std::string panel_frame(int panel, const std::string& label);

/// Draws `script`, which needs no terminal and no output of its own, to a PNG or SVG file by the
/// ending of `path`; the file is written whole or not at all. Throws InputError for another
/// ending, or when gnuplot is missing or fails.
void draw_with_gnuplot(const std::filesystem::path& path, int width, int height,
                       const std::string& script);

}  // namespace er
