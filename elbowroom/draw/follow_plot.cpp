#include "elbowroom/draw/follow_plot.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/gnuplot.hpp"

namespace er {
namespace {

constexpr double kLeastOff = 1e-5;   // mm: less is drawn as this
constexpr double kLeastShare = 0.1;  // %
constexpr std::size_t kRows =
    1600;  // rows of data a line; each the worst of the steps it stands for

struct Row {
  double time = 0.0;
  double off = kLeastOff;
  double velocity = kLeastShare;
  double acceleration = kLeastShare;
};

std::vector<Row> rows_of(const Arm& arm, const Following& following) {
  const Limits& limits = arm.limits();
  const auto& samples = following.samples;
  const std::size_t block = 1 + samples.size() / kRows;
  std::vector<Row> rows;
  for (std::size_t i = 0; i < samples.size(); ++i) {
    if (i % block == 0) rows.push_back({.time = samples[i].time});
    Row& row = rows.back();
    row.off = std::max(row.off, to_mm(samples[i].off));
    if (i == 0) continue;
    const double period = samples[i].time - samples[i - 1].time;
    for (Eigen::Index k = 0; k < arm.dof(); ++k) {
      const double v = std::abs(samples[i].velocity[k]);
      const double a = std::abs(samples[i].velocity[k] - samples[i - 1].velocity[k]) / period;
      row.velocity = std::max(row.velocity, 100.0 * v / limits.velocity[k]);
      row.acceleration = std::max(row.acceleration, 100.0 * a / limits.acceleration[k]);
    }
  }
  return rows;
}

std::string panel(const std::vector<Following>& all, int column, double least) {
  static constexpr std::array kLabels{"off the path (mm)", "most of a velocity limit (%)",
                                      "most of an accel. limit (%)"};
  std::string out = fmt::format("set ylabel \"{}\"\n", kLabels[static_cast<std::size_t>(column)]);
  out +=
      column == 2 ? "set xlabel \"time (s)\"\nset format x\n" : "set xlabel\nset format x \"\"\n";
  out += column == 0 ? "set key outside right top\n" : "unset key\n";
  out += fmt::format("set tmargin at screen {:.3f}\nset bmargin at screen {:.3f}\n",
                     0.93 - 0.29 * column, 0.93 - 0.29 * column - 0.26);
  out += fmt::format("set yrange [{}:*]\nplot ", least);
  for (std::size_t i = 0; i < all.size(); ++i)
    out += fmt::format("{}$way{} using 1:{} with lines linewidth {} linecolor rgb '{}' title {}",
                       i == 0 ? "" : ", ", i, 2 + column, i % 2 == 0 ? 5 : 2, kPlotColours[i],
                       gnuplot_quoted(std::string(name_of(all[i].mode))));
  if (column > 0) out += ", 100 with lines dashtype 2 linewidth 2 linecolor rgb '#222222' notitle";
  return out + "\n";
}

}  // namespace

void plot_following(const std::filesystem::path& path, const Arm& arm,
                    const std::vector<Following>& all, const PlotOptions& options) {
  std::string script;
  double end = 0.0;
  for (std::size_t i = 0; i < all.size(); ++i) {
    script += fmt::format("$way{} << END_OF_DATA\n", i);
    for (const Row& row : rows_of(arm, all[i]))
      script += fmt::format("{:.9g} {:.6g} {:.6g} {:.6g}\n", row.time, row.off, row.velocity,
                            row.acceleration);
    script += "END_OF_DATA\n";
    end = std::max(end, all[i].duration());
  }
  script += fmt::format(
      "set multiplot\nset lmargin at screen 0.085\nset rmargin at screen 0.875\n"
      "set label 1 {} at screen 0.085,0.965 font 'DejaVu Sans,13'\n"
      "set label 2 \"dashed: the limit\" at screen 0.885,0.66 font 'DejaVu Sans,10'\n"
      "set grid linecolor rgb '#dddddd'\nset border linecolor rgb '#888888'\n"
      "set tics textcolor rgb '#222222'\nset xrange [0:{}]\nset logscale y\n"
      "set format y \"%g\"\n",
      gnuplot_quoted(options.title), end);
  for (int column = 0; column < 3; ++column) {
    script += panel(all, column, column == 0 ? kLeastOff : kLeastShare);
    script += "unset label\n";
  }
  script += "unset multiplot\n";
  draw_with_gnuplot(path, options.width, options.height, script);
}

}  // namespace er
