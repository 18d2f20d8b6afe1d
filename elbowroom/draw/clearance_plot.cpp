#include "elbowroom/draw/clearance_plot.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/gnuplot.hpp"

namespace er {
namespace {

constexpr double kFar = 0.5;  // m: further away is cut off

double least_of(const std::vector<Nearest>& link) {
  double least = std::numeric_limits<double>::infinity();
  for (const Nearest& here : link) least = std::min(least, here.distance);
  return least;
}

// The links that things come nearest to.
std::vector<std::size_t> nearest_links(const ClearanceProfile& profile) {
  std::vector<std::size_t> order(profile.links.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    return least_of(profile.nearest[a]) < least_of(profile.nearest[b]);
  });
  std::erase_if(order, [&](std::size_t k) { return !(least_of(profile.nearest[k]) < kFar); });
  order.resize(std::min(order.size(), kPlotColours.size()));
  return order;
}

}  // namespace

void plot_clearances(const std::filesystem::path& path, const CellQuery& query,
                     const ClearanceProfile& profile, const ClearancePlot& options) {
  const std::vector<std::size_t> shown = nearest_links(profile);
  std::string script;
  double top = 0.0;
  // Rows stand for several looks each, with the least of them.
  const std::size_t block = 1 + profile.at.size() / kPlotRows;
  for (const std::size_t k : shown) {
    script += fmt::format("$link{} << END_OF_DATA\n", k);
    for (std::size_t i = 0; i < profile.at.size(); i += block) {
      double least = kFar;
      for (std::size_t n = i; n < std::min(i + block, profile.at.size()); ++n)
        least = std::min(least, profile.nearest[k][n].distance);
      script += fmt::format("{:.9g} {:.6g}\n", profile.at[i], to_mm(least));
      top = std::max(top, least);
    }
    script += "END_OF_DATA\n";
  }
  script += fmt::format(
      "{}set title {} font 'DejaVu Sans,13'\nset xlabel {}\nset ylabel 'clearance (mm)'\n"
      "set xrange [{}:{}]\nset yrange [*<0:{}]\n"
      "set key outside right top\nset lmargin at screen 0.085\nset rmargin at screen 0.80\n",
      kPlotStyle, gnuplot_quoted(options.plot.title), gnuplot_quoted(options.along),
      profile.at.front(), profile.at.back(), to_mm(std::max(1.05 * top, 0.01)));
  std::string plots;
  const auto add = [&](const std::string& one) { plots += (plots.empty() ? "plot " : ", ") + one; };
  for (std::size_t n = 0; n < shown.size(); ++n)
    // Two links that are nearest to each other have the same line: the first shows below the
    // second.
    add(fmt::format(
        "$link{} using 1:2 with lines linewidth {} linecolor rgb '{}' title {}", shown[n],
        n % 2 == 0 ? 5 : 2, kPlotColours[n],
        gnuplot_quoted(
            query.arm().links()[static_cast<std::size_t>(profile.links[shown[n]])].name)));
  if (options.asked > 0.0)
    add(fmt::format("{} with lines dashtype 2 linewidth 2 linecolor rgb '#222222' title {}",
                    to_mm(options.asked), gnuplot_quoted("asked for")));
  if (!shown.empty()) {
    const auto [k, i] = profile.least();
    const Nearest& least = profile.nearest[k][i];
    const bool is_left = profile.at[i] < 0.5 * (profile.at.front() + profile.at.back());
    script += fmt::format(
        "set style textbox opaque noborder\nset label 1 {} at {:.9g},{:.6g} {} offset {},1.2 boxed "
        "point pointtype 7 pointsize 1.4 "
        "linecolor rgb '#222222' front\n",
        gnuplot_quoted(query.describe(least)), profile.at[i], to_mm(least.distance),
        is_left ? "left" : "right", is_left ? 1 : -1);
  } else {
    add("0 notitle linecolor rgb '#ffffff'");
  }
  draw_with_gnuplot(path, options.plot.width, options.plot.height, script + plots + "\n");
}

}  // namespace er
