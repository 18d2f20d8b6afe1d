#include "elbowroom/draw/tuning_plot.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/base/quantile.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/gnuplot.hpp"

namespace er {
namespace {

constexpr double kSpread = 0.22;  // of a row: points of one setting are not on top of each other

// The seeds of one row: what each took, a little above or below each other.
std::string points(const std::vector<double>& values, double row, double factor) {
  std::string out;
  for (std::size_t i = 0; i < values.size(); ++i) {
    const double share =
        values.size() < 2 ? 0.5 : static_cast<double>(i) / static_cast<double>(values.size() - 1);
    out += fmt::format("{:.9g} {:.4f}\n", factor * values[i], row + kSpread * (2.0 * share - 1.0));
  }
  return out;
}

std::string block(const std::string& name, const std::string& rows) {
  return fmt::format("${} << END_OF_DATA\n{}END_OF_DATA\n", name, rows);
}

// Middle halves as bars, medians as marks.
std::string bar(const std::vector<double>& values, double row, double factor) {
  if (values.empty()) return "";
  return fmt::format("{:.9g} {:.4f} {:.9g} {:.9g}\n", factor * median(values), row,
                     factor * quantile(values, 0.25), factor * quantile(values, 0.75));
}

}  // namespace

void plot_tuning(const std::filesystem::path& path, const Tuning& tuning,
                 const PlotOptions& options) {
  std::string times;
  std::string time_bars;
  std::string kept_bar;
  std::string before;
  std::string after;
  std::string kept_after;
  std::string tics;
  std::string blank_tics;
  std::string shares;
  double longest = 0.0;  // what bars reach to
  const double scale = tuning.travel.scale;
  const std::size_t count = tuning.settings.size();
  for (std::size_t i = 0; i < count; ++i) {
    const TunedSetting& one = tuning.settings[i];
    const auto row = static_cast<double>(count - i);
    times += points(one.all(&TunedSeed::seconds), row, 1e3);
    (i == tuning.keep ? kept_bar : time_bars) += bar(one.all(&TunedSeed::seconds), row, 1e3);
    for (const auto& lengths : {one.all(&TunedSeed::length_found), one.all(&TunedSeed::length)})
      if (!lengths.empty()) longest = std::max(longest, scale * quantile(lengths, 0.75));
    before += bar(one.all(&TunedSeed::length_found), row, scale);
    (i == tuning.keep ? kept_after : after) += bar(one.all(&TunedSeed::length), row, scale);
    blank_tics += fmt::format("{}'' {}", i == 0 ? "" : ", ", row);
    tics += fmt::format("{}{} {}", i == 0 ? "" : ", ", gnuplot_quoted(one.setting.label), row);
    shares +=
        fmt::format("set label {} {} at graph 1.02, first {} left textcolor rgb '{}'\n", i + 1,
                    gnuplot_quoted(fmt::format("{} of {}", one.found(), one.seeds.size())), row,
                    one.found() == static_cast<int>(one.seeds.size()) ? "#222222" : "#d55e00");
  }
  std::string script = block("times", times) + block("bars", time_bars) + block("kept", kept_bar) +
                       block("before", before) + block("after", after) +
                       block("keptafter", kept_after);
  script += fmt::format(
      "{}set multiplot layout 1,2 title {} font 'DejaVu Sans,13'\n"
      "set yrange [0.4:{}]\nset ytics ({})\nset style fill solid 0.5 noborder\nset boxwidth 0.5\n"
      "set key below maxrows 1\n"
      "set lmargin at screen 0.24\nset rmargin at screen 0.60\nset bmargin at screen 0.14\n"
      "set logscale x\nset xlabel 'time (ms), each seed, the middle half, the median'\n",
      kPlotStyle, gnuplot_quoted(options.title), static_cast<double>(count) + 0.6, tics);
  const auto bars = [](const char* data, const char* colour, const char* title) {
    return fmt::format(
        "${0} using 1:2:3:4:($2-0.3):($2+0.3) with boxxyerror linecolor rgb '{1}' {2}, "
        "${0} using 1:2:(0):(0.3) with vectors nohead linewidth 3 linecolor rgb '{1}' notitle, "
        "${0} using 1:2:(0):(-0.3) with vectors nohead linewidth 3 linecolor rgb '{1}' notitle",
        data, colour, title[0] == '\0' ? "notitle" : "title " + gnuplot_quoted(title));
  };
  std::string left;
  if (!time_bars.empty()) left += bars("bars", kPlotColours[0], "compared") + ", ";
  if (!kept_bar.empty()) left += bars("kept", kPlotColours[2], "to keep") + ", ";
  script += "plot " + left +
            "$times using 1:2 with points pointtype 7 pointsize 0.6 linecolor rgb '#222222' "
            "notitle\n";
  script += fmt::format(
      "unset logscale x\nset ytics ({})\nset lmargin at screen 0.63\nset rmargin at screen "
      "0.90\nset xrange [0:{}]\nset xlabel 'joint travel ({}), middle half and median'\n"
      "set label {} 'found' at graph 1.02, graph 1.02 left\n{}",
      blank_tics, longest > 0.0 ? fmt::format("{:.9g}", 1.05 * longest) : "*", tuning.travel.name,
      count + 1, shares);
  std::string right;
  if (!before.empty()) right += bars("before", "#bbbbbb", "before tightening");
  if (!after.empty()) right += ", " + bars("after", kPlotColours[0], "after");
  if (!kept_after.empty()) right += ", " + bars("keptafter", kPlotColours[2], "to keep");
  if (right.empty()) right = "-1 notitle";
  draw_with_gnuplot(path, options.width, options.height,
                    script + "plot " + right + "\nunset multiplot\n");
}

}  // namespace er
