#include "elbowroom/rehearse/compare_motions.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

constexpr int kSamples = 2000;

class Comparison {
 public:
  Comparison(const Arm& arm, const Motion& first, const Motion& second,
             const CompareOptions& options)
      : arm_(arm), first_(first), second_(second) {
    for (const Motion* motion : {&first, &second})
      if (motion->dof() != arm.dof())
        throw InputError(fmt::format("a motion has {} joints, arm '{}' has {}", motion->dof(),
                                     arm.name(), arm.dof()));
    end_ = std::max(first.duration(), second.duration());
    tool_ = arm.end_tool(options.tool);
    out.lag = best_lag(options.most_lag);
    out.tool_before = farthest_tip(0.0).distance;
    const Tip tip = farthest_tip(out.lag);
    out.tool = tip.distance;
    out.tool_at = tip.time;
    out.largest = Posture::Zero(arm.dof());
    Posture squares = Posture::Zero(arm.dof());
    for (int i = 0; i <= kSamples; ++i) {
      const Posture off = difference(time_of(i), out.lag);
      out.largest = out.largest.cwiseMax(off.cwiseAbs());
      squares += off.cwiseAbs2();
    }
    out.root_mean_square = (squares / (kSamples + 1)).cwiseSqrt();
  }

  MotionComparison out;

 private:
  struct Tip {
    double distance = 0.0;
    double time = 0.0;
  };

  [[nodiscard]] double time_of(int sample) const { return end_ * sample / kSamples; }

  // The second was `lag` late: what it does at t + lag belongs to t.
  [[nodiscard]] Posture difference(double time, double lag) const {
    return second_.at(time + lag).position - first_.at(time).position;
  }

  [[nodiscard]] double squares(double lag) const {
    double sum = 0.0;
    for (int i = 0; i <= kSamples; i += 4) sum += difference(time_of(i), lag).squaredNorm();
    return sum;
  }

  // Coarsely over the whole range, then by golden sections about the best.
  [[nodiscard]] double best_lag(double most) const {
    constexpr int kCoarse = 100;
    const double step = most / kCoarse;
    double best = 0.0;
    double least = squares(0.0);
    for (int i = -kCoarse; i <= kCoarse; ++i)
      if (const double sum = squares(i * step); sum < least) least = sum, best = i * step;
    double low = best - step;
    double high = best + step;
    const double golden = 0.5 * (std::sqrt(5.0) - 1.0);
    for (int i = 0; i < 40; ++i) {
      const double a = high - golden * (high - low);
      const double b = low + golden * (high - low);
      if (squares(a) < squares(b))
        high = b;
      else
        low = a;
    }
    const double fine = 0.5 * (low + high);
    return squares(fine) < least ? fine : best;
  }

  [[nodiscard]] Tip farthest_tip(double lag) const {
    Tip tip;
    for (int i = 0; i <= kSamples; ++i) {
      const double time = time_of(i);
      const double distance = (tool_pose(arm_, tool_, second_.at(time + lag).position).position -
                               tool_pose(arm_, tool_, first_.at(time).position).position)
                                  .norm();
      if (distance > tip.distance) tip = {distance, time};
    }
    return tip;
  }

  const Arm& arm_;
  const Motion& first_;
  const Motion& second_;
  Tool tool_;
  double end_ = 0.0;
};

}  // namespace

MotionComparison compare_motions(const Arm& arm, const Motion& first, const Motion& second,
                                 const CompareOptions& options) {
  return Comparison(arm, first, second, options).out;
}

std::string MotionComparison::text(const Arm& arm) const {
  std::string out = fmt::format(
      "compared: the second is {:.2f} ms {} the first; without that the tool is {:.2f} mm off at "
      "most, at {} (with it {:.2f} mm)\n",
      1e3 * std::abs(lag), lag >= 0.0 ? "behind" : "before", to_mm(tool), text_time(tool_at),
      to_mm(tool_before));
  Table table({"<joint", "largest difference", "root mean square"});
  for (int k = 0; k < arm.dof(); ++k) {
    const bool slides = arm.moving_joint(k).kind == JointKind::prismatic;
    const auto shown = [&](double value) {
      return fmt::format("{:.4f} {}", slides ? to_mm(value) : to_deg(value), slides ? "mm" : "deg");
    };
    table.row({arm.moving_joint(k).name, shown(largest[k]), shown(root_mean_square[k])});
  }
  return out + table.text();
}

}  // namespace er
