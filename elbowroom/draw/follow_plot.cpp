#include "elbowroom/draw/follow_plot.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/gnuplot.hpp"

namespace er {
namespace {

constexpr double kLeastOff = 1e-5;   // mm: less is drawn as this
constexpr double kLeastShare = 0.1;  // %

struct FollowRow {
  double time = 0.0;
  double off = kLeastOff;
  double velocity = kLeastShare;
  double acceleration = kLeastShare;
};

std::vector<FollowRow> rows_of(const Following& following) {
  const std::size_t block = 1 + following.samples.size() / kPlotRows;
  std::vector<FollowRow> rows;
  for (std::size_t i = 0; i < following.samples.size(); ++i) {
    const FollowSample& sample = following.samples[i];
    if (i % block == 0) rows.push_back({.time = sample.time});
    FollowRow& row = rows.back();
    row.off = std::max(row.off, to_mm(sample.off));
    row.velocity = std::max(row.velocity, 100.0 * sample.velocity_use);
    row.acceleration = std::max(row.acceleration, 100.0 * sample.acceleration_use);
  }
  return rows;
}

std::string panel(const std::vector<Following>& all, int column, double least) {
  static constexpr std::array kLabels{"off the path (mm)", "most of a velocity limit (%)",
                                      "most of an accel. limit (%)"};
  std::string out = panel_frame(column, kLabels[static_cast<std::size_t>(column)]);
  out += fmt::format("set yrange [{}:*]\nplot ", least);
  for (std::size_t i = 0; i < all.size(); ++i)
    out += fmt::format("{}$way{} using 1:{} with lines linewidth {} linecolor rgb '{}' title {}",
                       i == 0 ? "" : ", ", i, 2 + column, i % 2 == 0 ? 5 : 2, kPlotColours[i],
                       gnuplot_quoted(std::string(name_of(all[i].mode))));
  if (column > 0) out += ", 100 with lines dashtype 2 linewidth 2 linecolor rgb '#222222' notitle";
  return out + "\n";
}

}  // namespace

void plot_following(const std::filesystem::path& path, const std::vector<Following>& all,
                    const PlotOptions& options) {
  std::string script;
  double end = 0.0;
  for (std::size_t i = 0; i < all.size(); ++i) {
    script += fmt::format("$way{} << END_OF_DATA\n", i);
    for (const FollowRow& row : rows_of(all[i]))
      script += fmt::format("{:.9g} {:.6g} {:.6g} {:.6g}\n", row.time, row.off, row.velocity,
                            row.acceleration);
    script += "END_OF_DATA\n";
    end = std::max(end, all[i].duration());
  }
  script += three_panels(options.title, "dashed: the limit", 0.875, end);
  script += "set logscale y\nset format y \"%g\"\n";
  for (int column = 0; column < 3; ++column)
    script += panel(all, column, column == 0 ? kLeastOff : kLeastShare);
  script += "unset multiplot\n";
  draw_with_gnuplot(path, options.width, options.height, script);
}

}  // namespace er
