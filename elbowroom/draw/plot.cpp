#include "elbowroom/draw/plot.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/gnuplot.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

constexpr int kRows = 1200;  // more than one sample a pixel

double in_drawing_unit(const Joint& joint, double value) {
  return joint.kind == JointKind::prismatic ? to_mm(value) : to_deg(value);
}

// Which columns of the data hold what, from 1.
class Columns {
 public:
  explicit Columns(int dof) : dof_(dof) {}
  [[nodiscard]] int joint(int order, int k) const { return 2 + order * dof_ + k; }
  [[nodiscard]] int use(int k) const { return 2 + 4 * dof_ + k; }
  [[nodiscard]] int tool(int axis) const { return 2 + 5 * dof_ + axis; }
  [[nodiscard]] int speed() const { return 5 + 5 * dof_; }

 private:
  int dof_;
};

// The larger of the shares of its limits of velocity and acceleration.
double use_of(const JointState& state, const Limits& limits, int k) {
  return std::max(limits.velocity_of(k).share_of(state.velocity[k]),
                  limits.acceleration_of(k).share_of(state.acceleration[k]));
}

std::string data_block(const Motion& motion, const Arm& arm) {
  std::string out = "$motion << END_OF_DATA\n";
  const Tool tool = arm.end_tool();
  JointState state;
  Jacobian jacobian;
  for (int i = 0; i <= kRows; ++i) {
    const double t = motion.duration() * i / kRows;
    motion.at(t, state);
    fmt::format_to(std::back_inserter(out), "{:.9g}", t);
    const auto add = [&](double value) {
      fmt::format_to(std::back_inserter(out), " {:.9g}", value);
    };
    for (const Posture* values :
         {&state.position, &state.velocity, &state.acceleration, &state.jerk})
      for (int k = 0; k < arm.dof(); ++k) add(in_drawing_unit(arm.moving_joint(k), (*values)[k]));
    for (int k = 0; k < arm.dof(); ++k) add(100.0 * use_of(state, arm.limits(), k));
    const Pose tip = tool_jacobian(arm, tool, state.position, jacobian);
    for (const double value : tip.position) add(to_mm(value));
    add(to_mm((jacobian.topRows<3>() * state.velocity).norm()));
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

const char* colour_of(int joint) {
  return kPlotColours[static_cast<std::size_t>(joint) % kPlotColours.size()];
}

// Whether what is plotted of a derivative is rounding alone: over no piece does it change the one
// before it by anything that counts.
bool is_rounding(const Motion& motion, int order) {
  if (order == 0) return false;
  double most = 0.0;
  double change = 0.0;
  for (const CurvePiece& piece : motion.pieces())
    for (Quintic c : piece.joints) {
      for (int i = 1; i < order; ++i) c = derivative_of(c);
      most = std::max(most, bound_over(c, piece.duration));
      change = std::max(change, piece.duration * bound_over(derivative_of(c), piece.duration));
    }
  return change <= 1e-6 * most;
}

// Both sides of each limit, each in its joint's colour; limits far outside what is plotted are left
// out so that the curves stay readable.
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
      most = std::max(most, std::abs(in_drawing_unit(joint, bound_over(c, piece.duration))));
    }
    const WayLimits both = order == 0   ? WayLimits{limits.lower[k], limits.upper[k]}
                           : order == 1 ? limits.velocity_of(k)
                           : order == 2 ? limits.acceleration_of(k)
                                        : WayLimits{-limits.jerk[k], limits.jerk[k]};
    all.push_back({in_drawing_unit(joint, both.low), in_drawing_unit(joint, both.high)});
  }
  for (std::size_t k = 0; k < all.size(); ++k)
    for (const double limit : all[k])
      if (std::isfinite(limit) && std::abs(limit) <= 1.3 * most)
        out += fmt::format(", {} with lines dashtype 2 linewidth 1 linecolor rgb '{}' notitle",
                           limit, colour_of(static_cast<int>(k)));
  return out;
}

// Nine panels, three in each row.
class Panels {
 public:
  Panels(const Motion& motion, const Arm& arm, const PlotOptions& options)
      : motion_(motion),
        arm_(arm),
        columns_(arm.dof()),
        width_(options.width),
        height_(options.height) {
    for (int i = 0; i <= kRows; ++i) {
      const double t = motion.duration() * i / kRows;
      const Vector3 tip = 1e3 * tool_pose(arm, arm.end_tool(), motion.at(t).position).position;
      low_ = low_.cwiseMin(tip);
      high_ = high_.cwiseMax(tip);
    }
    for (const double time : options.boundaries)
      marks_ += fmt::format(
          "set arrow from {0},graph 0 to {0},graph 1 nohead linewidth 1 linecolor rgb '#bbbbbb' "
          "back\n",
          time);
  }

  [[nodiscard]] std::string script(const std::string& title) const {
    std::string out = fmt::format(
        "set multiplot\n{}set tics font 'DejaVu Sans,9'\n"
        "set label 1 {} at screen 0.055,0.975 font 'DejaVu Sans,13'\n",
        kPlotStyle, gnuplot_quoted(title));
    const std::string unit = unit_of(arm_);
    static constexpr std::array kNames{"position", "velocity", "acceleration", "jerk"};
    static constexpr std::array kSuffix{"", "/s", "/s²", "/s³"};
    for (int order = 0; order < 4; ++order) {
      const auto i = static_cast<std::size_t>(order);
      out += over_time(order < 3 ? 0 : 1, order % 3,
                       fmt::format("{} ({}{})", kNames[i], unit, kSuffix[i]));
      if (is_rounding(motion_, order)) out += "set yrange [-1:1]\n";
      // Room above and below, so that limits that are just reached are not hidden by the frame.
      out += "set offsets graph 0, graph 0, graph 0.03, graph 0.03\n" +
             joints(order, columns_.joint(order, 0)) + limit_lines(motion_, arm_, order) +
             "\nunset offsets\n";
    }
    out += over_time(1, 1, "use of velocity or acceleration limit (%)");
    const MotionPeaks peaks = peaks_of(motion_, arm_.limits());
    const double most = std::max(peaks.velocity.share, peaks.acceleration.share);
    out += fmt::format("set yrange [0:{}]\n", 100.0 * std::max(1.08, 1.05 * most));
    out += joints(-1, columns_.use(0)) +
           ", 100 with lines dashtype 2 linewidth 1 linecolor rgb '#222222' notitle\n";
    out += over_time(1, 2, "speed of the tool (mm/s)");
    out += fmt::format(
        "set yrange [0:*]\nset offsets graph 0, graph 0, graph 0.06, graph 0\n"
        "plot $motion using 1:{} with lines linewidth 2 linecolor rgb '#222222' "
        "notitle\nunset offsets\n",
        columns_.speed());
    out += view(0, "from above: x, y (mm)", 0, 1);
    out += view(1, "from the front: y, z (mm)", 1, 2);
    out += view(2, "from the side: x, z (mm)", 0, 2);
    return out + "unset multiplot\n";
  }

 private:
  static constexpr double kWidth = 0.265;
  static constexpr double kHeight = 0.235;

  static std::string place(int column, int row) {
    const double left = 0.055 + 0.33 * column;
    const double top = 0.885 - 0.295 * row;
    return fmt::format(
        "set lmargin at screen {:.3f}\nset rmargin at screen {:.3f}\nset tmargin at screen "
        "{:.3f}\nset bmargin at screen {:.3f}\n",
        left, left + kWidth, top, top - kHeight);
  }

  [[nodiscard]] std::string over_time(int column, int row, const std::string& title) const {
    const bool first = column == 0 && row == 0;
    return place(column, row) + (first ? "" : "unset label 1\n") +
           fmt::format(
               "unset arrow\n{}set autoscale\nset xrange [0:{}]\nset title {} "
               "font 'DejaVu "
               "Sans,10' offset 0,-0.7\n{}{}",
               marks_, motion_.duration(), gnuplot_quoted(title),
               row == 2 ? "set xlabel 'time (s)' offset 0,0.6 font 'DejaVu Sans,9'\n"
                        : "set xlabel\n",
               first ? "set key at screen 0.985,0.965 horizontal right maxrows 1 font 'DejaVu "
                       "Sans,9'\n"
                     : "unset key\n");
  }

  [[nodiscard]] std::string joints(int order, int first_column) const {
    std::string out = "plot ";
    for (int k = 0; k < arm_.dof(); ++k)
      out += fmt::format("{}$motion using 1:{} with lines linewidth 1.7 linecolor rgb '{}' {}",
                         k == 0 ? "" : ", ", first_column + k, colour_of(k),
                         order == 0 ? "title " + gnuplot_quoted(arm_.moving_joint(k).name)
                                    : std::string("notitle"));
    return out;
  }

  // The way of the tool seen along one axis, as large as fits with the same scale both ways: begins
  // at the ring, ends at the dot.
  [[nodiscard]] std::string view(int row, const char* title, Eigen::Index across,
                                 Eigen::Index up) const {
    const int x = columns_.tool(static_cast<int>(across));
    const int y = columns_.tool(static_cast<int>(up));
    const Vector3 middle = 0.5 * (low_ + high_);
    const Vector3 half = 0.5 * (high_ - low_);
    const double scale = 1.12 * std::max({half[across] / (kWidth * width_),
                                          half[up] / (kHeight * height_), 1.0 / width_});
    const double wide = scale * kWidth * width_;
    const double high = scale * kHeight * height_;
    return place(2, row) +
           fmt::format(
               "unset arrow\nunset key\nunset label 1\nset xlabel\nset xrange [{}:{}]\nset yrange "
               "[{}:{}]\n",
               middle[across] - wide, middle[across] + wide, middle[up] - high, middle[up] + high) +
           fmt::format(
               "set title {0} font 'DejaVu Sans,10' offset 0,-0.7\n"
               "plot $motion using {1}:{2} with lines linewidth 1.7 linecolor rgb '#0072b2' "
               "notitle, "
               "$motion using {1}:{2} every ::0::0 with points pointtype 6 pointsize 1.6 linewidth "
               "2 "
               "linecolor rgb '#222222' notitle, "
               "$motion using {1}:{2} every ::{3}::{3} with points pointtype 7 pointsize 0.9 "
               "linecolor rgb '#222222' notitle\n",
               gnuplot_quoted(title), x, y, kRows);
  }

  const Motion& motion_;
  const Arm& arm_;
  Columns columns_;
  double width_;
  double height_;
  std::string marks_;
  Vector3 low_ = Vector3::Constant(std::numeric_limits<double>::infinity());  // mm, of the tool
  Vector3 high_ = -low_;
};

}  // namespace

void plot_motion(const std::filesystem::path& path, const Motion& motion, const Arm& arm,
                 const PlotOptions& options) {
  draw_with_gnuplot(path, options.width, options.height,
                    data_block(motion, arm) + Panels(motion, arm, options).script(options.title));
}

}  // namespace er
