#include "elbowroom/draw/profiles_plot.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/gnuplot.hpp"

namespace er {
namespace {

double signed_percent(const WayLimits& limits, double value) {
  return std::copysign(100.0 * limits.share_of(value), value);
}

// Time, then for each joint the percentages of its limits of velocity and of acceleration.
std::string data_of(const ProfileRun& run, const Arm& arm, std::size_t number) {
  std::string out = fmt::format("$run{} << END_OF_DATA\n", number);
  JointState state;
  for (std::size_t i = 0; i <= kPlotRows; ++i) {
    const double t =
        run.motion.duration() * static_cast<double>(i) / static_cast<double>(kPlotRows);
    run.motion.at(t, state);
    fmt::format_to(std::back_inserter(out), "{:.6g}", t);
    for (int k = 0; k < arm.dof(); ++k)
      fmt::format_to(std::back_inserter(out), " {:.5g} {:.5g}",
                     signed_percent(arm.limits().velocity_of(k), state.velocity[k]),
                     signed_percent(arm.limits().acceleration_of(k), state.acceleration[k]));
    out += "\n";
  }
  return out + "END_OF_DATA\n";
}

std::string panel(const ProfileRun& run, const Arm& arm, std::size_t row, std::size_t rows,
                  int column) {
  const double top = 0.9 - 0.86 * static_cast<double>(row) / static_cast<double>(rows);
  const double left = 0.055 + 0.475 * column;
  std::string out = fmt::format(
      "set lmargin at screen {:.3f}\nset rmargin at screen {:.3f}\nset tmargin at screen {:.3f}\n"
      "set bmargin at screen {:.3f}\nunset arrow\n",
      left, left + 0.43, top, top - 0.86 / static_cast<double>(rows) + 0.055);
  for (const double time : run.boundaries)
    out += fmt::format(
        "set arrow from {0},graph 0 to {0},graph 1 nohead linewidth 1 linecolor rgb '#bbbbbb' "
        "back\n",
        time);
  out += fmt::format(
      "set title {} font 'DejaVu Sans,10' offset 0,-0.8\n",
      gnuplot_quoted(fmt::format(
          "{}, {}: {} (% of the limit)", law_name(run.profile, run.keep_jerk),
          text_time(run.motion.duration()), column == 0 ? "velocity" : "acceleration")));
  const bool first = row == 0 && column == 0;
  out += first ? "set key at screen 0.96,0.995 horizontal right maxrows 2 font 'DejaVu Sans,9'\n"
               : "unset key\nunset label 1\n";
  out += row + 1 == rows ? "set xlabel 'time (s)' offset 0,0.6\n" : "set xlabel\n";
  out += "plot ";
  for (int k = 0; k < arm.dof(); ++k)
    out += fmt::format(
        "{}$run{} using 1:{} with lines linewidth 1.5 linecolor rgb '{}' {}", k == 0 ? "" : ", ",
        row, 2 + 2 * k + column, kPlotColours[static_cast<std::size_t>(k) % kPlotColours.size()],
        first ? "title " + gnuplot_quoted(arm.moving_joint(k).name) : std::string("notitle"));
  return out + "\n";
}

}  // namespace

void plot_profiles(const std::filesystem::path& path, const std::vector<ProfileRun>& runs,
                   const Arm& arm, const PlotOptions& options) {
  std::string script;
  double end = 0.0;
  for (std::size_t i = 0; i < runs.size(); ++i) {
    script += data_of(runs[i], arm, i);
    end = std::max(end, runs[i].motion.duration());
  }
  script += fmt::format(
      "set multiplot\n{}set tics font 'DejaVu Sans,9'\nset xrange [0:{}]\nset yrange [-110:110]\n"
      "set ytics 50\nset label 1 {} at screen 0.055,0.975 font 'DejaVu Sans,13'\n",
      kPlotStyle, end, gnuplot_quoted(options.title));
  for (std::size_t i = 0; i < runs.size(); ++i)
    for (const int column : {0, 1}) script += panel(runs[i], arm, i, runs.size(), column);
  draw_with_gnuplot(path, options.width, options.height, script + "unset multiplot\n");
}

}  // namespace er
