#include "elbowroom/draw/drawing_plot.hpp"

#include <fmt/format.h>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/gnuplot.hpp"

namespace er {
namespace {

template <class Line>
std::string points_of(const Line& line) {
  std::string out;
  for (const auto& point : line)
    out += fmt::format("{:.6g} {:.6g}\n", to_mm(point.x()), to_mm(point.y()));
  return out + "\n";
}

}  // namespace

void plot_drawings(const std::filesystem::path& path, const PlannedRoutine& planned,
                   const PlotOptions& options) {
  const std::vector<Drawing>& drawings = planned.routine.drawings;
  if (drawings.empty()) throw InputError("this routine draws nothing");
  std::string script;
  for (std::size_t i = 0; i < drawings.size(); ++i) {
    std::string asked;
    for (const Stroke& stroke : drawings[i].strokes) asked += points_of(stroke);
    std::string drawn;
    for (const auto& line : drawn_lines(planned, static_cast<int>(i))) drawn += points_of(line);
    if (drawn.empty()) drawn = asked;  // its steps are off
    script += fmt::format(
        "$asked{0} << END_OF_DATA\n{1}END_OF_DATA\n$drawn{0} << END_OF_DATA\n{2}"
        "END_OF_DATA\n",
        i, asked, drawn);
  }
  script += fmt::format(
      "{}set multiplot layout 1,{} title {} font 'DejaVu Sans,13'\nset size ratio -1\n"
      "set offsets graph 0.08, graph 0.08, graph 0.08, graph 0.08\nset key below maxrows 1\n"
      "set ylabel 'mm, in the plane that is drawn on'\n",
      kPlotStyle, drawings.size(), gnuplot_quoted(options.title));
  for (std::size_t i = 0; i < drawings.size(); ++i) {
    const DrawnError error = drawn_error(planned, static_cast<int>(i));
    script += fmt::format(
        "set title {1}\nplot $asked{0} using 1:2 with lines linewidth 9 linecolor rgb '#f0c9a8' "
        "title 'asked for', $drawn{0} using 1:2 with lines linewidth 1.5 linecolor rgb '{2}' "
        "title 'drawn'\n",
        i,
        gnuplot_quoted(fmt::format("{}: {:.1f} mm, off by {:.3f} mm at most, {:.3f} mm in the mean",
                                   drawings[i].name, to_mm(error.length), to_mm(error.worst),
                                   to_mm(error.mean))),
        kPlotColours[0]);
  }
  draw_with_gnuplot(path, options.width, options.height, script + "unset multiplot\n");
}

}  // namespace er
