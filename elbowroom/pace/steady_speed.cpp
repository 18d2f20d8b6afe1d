#include "elbowroom/pace/steady_speed.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

#include "elbowroom/base/units.hpp"
#include "elbowroom/pace/tool_moments.hpp"

namespace er {
namespace {

constexpr double kKept = 0.01;
constexpr double kLeastShare = 0.5;

constexpr int kSamples = 2000;

}  // namespace

SteadySpeed steady_speed(const Motion& motion, const Arm& arm, const Tool& tool, double asked) {
  const std::vector<ToolMoment> moments = tool_moments(motion, arm, tool, kSamples);
  SteadySpeed out{.asked = asked, .length = moments.back().way};
  const auto is_kept = [&](const ToolMoment& m) {
    return std::abs(m.speed - asked) <= kKept * asked;
  };
  std::size_t first = moments.size();
  std::size_t last = 0;
  for (std::size_t i = 0; i < moments.size(); ++i) {
    if (!is_kept(moments[i])) continue;
    first = std::min(first, i);
    last = i;
    if (i > 0) out.at_speed += moments[i].way - moments[i - 1].way;
  }
  out.reached = first < moments.size();
  if (!out.reached) {
    // All of it: how fast it got.
    first = 0;
    last = moments.size() - 1;
  }
  out.least = std::numeric_limits<double>::infinity();
  for (std::size_t i = first; i <= last; ++i) {
    if (moments[i].speed < out.least) {
      out.least = moments[i].speed;
      out.least_at = moments[i].way;
    }
    out.largest = std::max(out.largest, moments[i].speed);
    out.mean += moments[i].speed / static_cast<double>(last - first + 1);
  }
  out.kept =
      out.reached && out.least >= (1.0 - kKept) * asked && out.at_speed >= kLeastShare * out.length;
  return out;
}

std::string SteadySpeed::text() const {
  if (!reached)
    return fmt::format("tool speed {:.1f} mm/s is never reached: {:.1f} mm/s at most", to_mm(asked),
                       to_mm(largest));
  const std::string within = fmt::format(
      "tool speed {:.1f} mm/s is kept within {:.0f} % over {:.1f} of {:.1f} mm ({:.0f} %)",
      to_mm(asked), 100.0 * kKept, to_mm(at_speed), to_mm(length), 100.0 * at_speed / length);
  if (kept) return within + fmt::format(", at {:.2f} mm/s on average", to_mm(mean));
  if (least >= (1.0 - kKept) * asked) return within + ", which is less than half of its way";
  return within +
         fmt::format("; at {:.1f} mm it falls to {:.1f} mm/s", to_mm(least_at), to_mm(least));
}

}  // namespace er
