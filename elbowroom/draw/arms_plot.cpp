#include "elbowroom/draw/arms_plot.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/gnuplot.hpp"
#include "elbowroom/routine/arms_apart.hpp"

namespace er {
namespace {

constexpr double kLooksEachSecond = 60.0;
constexpr double kNumbered = 0.012;  // of the whole: shorter steps have no room for their number
constexpr double kNamed = 0.0062;    // of the whole, for each letter of a name
constexpr const char* kResting = "#eeeeee";

std::string bar(double from, double to, double low, double high, const std::string& colour,
                const char* border) {
  return fmt::format(
      "set object rectangle from {:.6g},{:.4g} to {:.6g},{:.4g} fillcolor rgb '{}' fillstyle solid "
      "border linecolor rgb '{}'\n",
      from, low, to, high, colour, border);
}

std::string text(double x, double y, const std::string& what, const char* more) {
  return fmt::format("set label {} at {:.6g},{:.4g} {} front\n", gnuplot_quoted(what), x, y, more);
}

// Steps of one arm that are a part of the same, or one alone.
struct Run {
  std::string name;
  double from = 0.0;
  double to = 0.0;
};

// A lane: its steps, what they are a part of above them, what is held below them.
std::string lane(const PlannedRoutine& planned, const std::string& arm, double y,
                 const std::string& colour) {
  const double until = planned.duration();
  std::string out = bar(0.0, until, y - 0.16, y + 0.16, kResting, kResting);
  std::vector<Run> runs;
  std::vector<Run> held;
  for (const PlannedStep& step : planned.steps) {
    if (planned.routine.arm_of(step.step) != arm) continue;
    out += bar(step.begins, step.ends(), y - 0.16, y + 0.16, colour, "white");
    if (step.duration() > kNumbered * until)
      out += text(0.5 * (step.begins + step.ends()), y, std::to_string(step.number),
                  "center textcolor rgb 'white' font 'DejaVu Sans,9'");
    const std::string& of = step.step.of.empty() ? step.step.name : step.step.of;
    if (!runs.empty() && runs.back().name == of)
      runs.back().to = step.ends();
    else
      runs.push_back({of, step.begins, step.ends()});
    if (step.grips) held.push_back({step.grips->piece, step.ends(), until});
    if (const auto* release = std::get_if<Release>(&step.step.action))
      for (Run& one : held)
        if (one.name == release->piece) one.to = std::min(one.to, step.ends());
  }
  for (const Run& run : runs)
    if (run.to - run.from > kNamed * until * static_cast<double>(run.name.size()))
      out += text(0.5 * (run.from + run.to), y + 0.25, run.name,
                  "center textcolor rgb '#222222' font 'DejaVu Sans,9'");
  for (const Run& one : held) {
    out += bar(one.from, one.to, y - 0.24, y - 0.19, "#d98f6a", "#d98f6a");
    out += text(0.5 * (one.from + one.to), y - 0.32, "holds " + one.name,
                "center textcolor rgb '#8a5338' font 'DejaVu Sans,9'");
  }
  return out;
}

}  // namespace

void plot_arms(const std::filesystem::path& path, const Cell& found, const PlannedRoutine& planned,
               const PlotOptions& options) {
  const std::vector<std::string> arms = planned.routine.arms();
  const std::vector<ArmsApart> apart = arms_apart(found, planned, kLooksEachSecond);
  const auto least = std::min_element(
      apart.begin(), apart.end(),
      [](const ArmsApart& a, const ArmsApart& b) { return a.distance < b.distance; });
  const double until = planned.duration();
  std::string script = "$apart << END_OF_DATA\n";
  double most = 0.0;
  for (const ArmsApart& one : apart) {
    most = std::max(most, one.distance);
    script += fmt::format("{:.6g} {:.6g}\n", one.time, to_mm(one.distance));
  }
  std::string names;
  for (std::size_t a = 0; a < arms.size(); ++a)
    names += fmt::format("{}{} {}", a == 0 ? "" : ", ", gnuplot_quoted(arms[a]), arms.size() - a);
  script += fmt::format(
      "END_OF_DATA\n{}set multiplot title {} font 'DejaVu Sans,13'\nunset key\n"
      "set lmargin at screen 0.09\nset rmargin at screen 0.97\nset xrange [0:{:.6g}]\n"
      "set tmargin at screen 0.92\nset bmargin at screen 0.42\nset yrange [0.4:{:.4g}]\n"
      "set ytics ({}) font 'DejaVu Sans,11'\nset xtics\nset grid noytics\n",
      kPlotStyle, gnuplot_quoted(options.title), until, static_cast<double>(arms.size()) + 0.6,
      names);
  for (std::size_t a = 0; a < arms.size(); ++a)
    script += lane(planned, arms[a], static_cast<double>(arms.size() - a),
                   kPlotColours[a % kPlotColours.size()]);
  script += fmt::format(
      "plot NaN notitle\nunset object\nunset label\nset tmargin at screen 0.36\n"
      "set bmargin at screen 0.09\nset yrange [0:{:.6g}]\nset ytics auto\nset grid ytics\n"
      "set xlabel 'time (s)'\nset ylabel 'arms apart (mm)'\n"
      "set title {} font 'DejaVu Sans,10' offset 0,-0.6\n"
      "set label '' at {:.6g},{:.6g} point pointtype 7 pointsize 0.8 linecolor rgb '#d55e00' "
      "front\n"
      "plot $apart using 1:2 with lines linewidth 1.8 linecolor rgb '#222222'\nunset multiplot\n",
      1.1 * std::max(to_mm(most), 1.0),
      gnuplot_quoted(fmt::format("nearest at {}: {:.1f} mm ({})", text_time(least->time),
                                 to_mm(least->distance), least->pair)),
      least->time, to_mm(least->distance));
  draw_with_gnuplot(path, options.width, options.height, script);
}

}  // namespace er
