#include "elbowroom/draw/plot.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/gnuplot.hpp"

namespace er {
namespace {

constexpr int kRows = 1200;  // more than one sample a pixel

double in_drawing_unit(const Joint& joint, double value) {
  return joint.kind == JointKind::prismatic ? to_mm(value) : to_deg(value);
}

std::string data_block(const Motion& motion, const Arm& arm) {
  std::string out = "$motion << END_OF_DATA\n";
  JointState state;
  for (int i = 0; i <= kRows; ++i) {
    const double t = motion.duration() * i / kRows;
    motion.at(t, state);
    fmt::format_to(std::back_inserter(out), "{:.9g}", t);
    for (const Posture* values : {&state.position, &state.velocity, &state.acceleration})
      for (int k = 0; k < arm.dof(); ++k)
        fmt::format_to(std::back_inserter(out), " {:.9g}",
                       in_drawing_unit(arm.moving_joint(k), (*values)[k]));
    out += "\n";
  }
  return out + "END_OF_DATA\n";
}

std::string unit_of(const Arm& arm) {
  bool turns = false;
  bool slides = false;
  for (int k = 0; k < arm.dof(); ++k)
    (arm.moving_joint(k).kind == JointKind::prismatic ? slides : turns) = true;
  return turns && slides ? "deg or mm" : slides ? "mm" : "deg";
}

// Both sides of each limit, each in its joint's colour; limits far outside what is plotted are left
// out so that the curves stay readable, and the share used says how far off they are.
std::string limit_lines(const Motion& motion, const Arm& arm, int order) {
  std::string out;
  const Limits& limits = arm.limits();
  double most = 0.0;
  std::vector<std::array<double, 2>> all;
  for (int k = 0; k < arm.dof(); ++k) {
    const Joint& joint = arm.moving_joint(k);
    for (const CurvePiece& piece : motion.pieces()) {
      Quintic c = piece.joints[static_cast<std::size_t>(k)];
      for (int i = 0; i < order; ++i) c = derivative_of(c);
      const Extremes e = extremes_of(c, piece.duration);
      most = std::max({most, std::abs(in_drawing_unit(joint, e.low)),
                       std::abs(in_drawing_unit(joint, e.high))});
    }
    const double high = order == 0   ? limits.upper[k]
                        : order == 1 ? limits.velocity[k]
                                     : limits.acceleration[k];
    const double low = order == 0 ? limits.lower[k] : -high;
    all.push_back({in_drawing_unit(joint, low), in_drawing_unit(joint, high)});
  }
  for (std::size_t k = 0; k < all.size(); ++k)
    for (const double limit : all[k])
      if (std::isfinite(limit) && std::abs(limit) <= 1.6 * most)
        out += fmt::format(", {} with lines dashtype 2 linewidth 1 linecolor rgb '{}' notitle",
                           limit, kPlotColours[k % kPlotColours.size()]);
  return out;
}

std::string panel(const Motion& motion, const Arm& arm, int order) {
  static constexpr std::array kNames{"position", "velocity", "acceleration"};
  static constexpr std::array kSuffix{"", "/s", "/s²"};
  const auto i = static_cast<std::size_t>(order);
  std::string out =
      panel_frame(order, fmt::format("{} ({}{})", kNames[i], unit_of(arm), kSuffix[i]));
  out += "plot ";
  for (int k = 0; k < arm.dof(); ++k)
    out += fmt::format("{}$motion using 1:{} with lines linewidth 2 linecolor rgb '{}' title {}",
                       k == 0 ? "" : ", ", 2 + order * arm.dof() + k,
                       kPlotColours[static_cast<std::size_t>(k) % kPlotColours.size()],
                       gnuplot_quoted(arm.moving_joint(k).name));
  return out + limit_lines(motion, arm, order) + "\n";
}

}  // namespace

void plot_motion(const std::filesystem::path& path, const Motion& motion, const Arm& arm,
                 const PlotOptions& options) {
  std::string script = data_block(motion, arm);
  script += three_panels(options.title, "dashed: limits", 0.855, motion.duration());
  for (int order = 0; order < 3; ++order) script += panel(motion, arm, order);
  script += "unset multiplot\n";
  draw_with_gnuplot(path, options.width, options.height, script);
}

}  // namespace er
