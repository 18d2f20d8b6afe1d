#include "elbowroom/draw/steer_plot.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/gnuplot.hpp"

namespace er {
namespace {

constexpr double kFarOff = 1e3;  // mm: clearances beyond this are not drawn

struct SteerRow {
  double time = 0.0;
  double asked = 0.0;          // mm/s
  double speed = 0.0;          // mm/s
  double velocity = 0.0;       // %
  double acceleration = 0.0;   // %
  double clearance = kFarOff;  // mm
};

std::vector<SteerRow> rows_of(const CellQuery& query, const Steered& steered) {
  PartPoses parts(query);
  // A row has the largest of the steps that it stands for, and the clearance at the first.
  const std::size_t block = 1 + steered.samples.size() / kPlotRows;
  std::vector<SteerRow> rows;
  for (std::size_t i = 0; i < steered.samples.size(); ++i) {
    const FollowSample& sample = steered.samples[i];
    const Steered::Moment& moment = steered.moments[i];
    if (i % block == 0)
      rows.push_back(
          {.time = sample.time,
           .clearance = std::min(kFarOff, to_mm(query.nearest(sample.posture, parts).distance))});
    SteerRow& row = rows.back();
    row.asked = std::max(row.asked, to_mm(moment.asked_speed));
    row.speed = std::max(row.speed, to_mm(moment.speed));
    row.velocity = std::max(row.velocity, 100.0 * sample.velocity_use);
    row.acceleration = std::max(row.acceleration, 100.0 * sample.acceleration_use);
  }
  return rows;
}

std::string line(int column, int colour, const char* style, const char* title) {
  return fmt::format("$steered using 1:{} with lines {} linecolor rgb '{}' title {}", column, style,
                     kPlotColours[static_cast<std::size_t>(colour)], gnuplot_quoted(title));
}

}  // namespace

void plot_steered(const std::filesystem::path& path, const CellQuery& query, const Steered& steered,
                  double asked, const PlotOptions& options) {
  std::string script = "$steered << END_OF_DATA\n";
  for (const SteerRow& row : rows_of(query, steered))
    script += fmt::format("{:.9g} {:.6g} {:.6g} {:.6g} {:.6g} {:.6g}\n", row.time, row.asked,
                          row.speed, row.velocity, row.acceleration, row.clearance);
  script += "END_OF_DATA\n";
  script += three_panels(options.title, "dashed: the limit", 0.86, steered.duration());
  script += panel_frame(0, "speed of the tool (mm/s)");
  script += "set offsets graph 0, graph 0, graph 0.08, graph 0\nset yrange [0:*]\nplot " +
            line(2, 4, "linewidth 4", "commanded") + ", " + line(3, 0, "linewidth 2", "steered") +
            "\n";
  script += panel_frame(1, "most of a limit (%)");
  script += "set key outside right bottom\nset yrange [0:110]\nplot " +
            line(5, 5, "linewidth 1", "acceleration") + ", " +
            line(4, 1, "linewidth 2", "velocity") +
            ", 100 with lines dashtype 2 linewidth 2 linecolor rgb '#222222' notitle\n";
  script += panel_frame(2, "least clearance (mm)");
  script += fmt::format(
      "unset key\nset yrange [0:*]\nplot {}, {:.9g} with lines dashtype 2 linewidth 2 linecolor "
      "rgb '#222222' notitle\n",
      line(6, 2, "linewidth 2", "clearance"), to_mm(asked));
  script += "unset multiplot\n";
  draw_with_gnuplot(path, options.width, options.height, script);
}

}  // namespace er
