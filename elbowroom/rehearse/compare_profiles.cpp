#include "elbowroom/rehearse/compare_profiles.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/pace/tool_moments.hpp"

namespace er {
namespace {

double largest_jump_share(const Motion& motion, const Limits& limits) {
  double most = 0.0;
  const auto& pieces = motion.pieces();
  for (std::size_t i = 0; i <= pieces.size(); ++i)
    for (int k = 0; k < motion.dof(); ++k)
      most = std::max(most, std::abs(jump_before(motion, i, k, 2)) / limits.acceleration[k]);
  return most < 1e-6 ? 0.0 : most;
}

}  // namespace

Verdict<std::vector<ProfileRun>> compare_profiles(const CellQuery& query, const Routine& routine,
                                                  const Supervision& supervision) {
  std::vector<ProfileRun> runs;
  struct Law {
    Profile profile;
    bool keep_jerk = false;
  };
  std::vector<Law> laws{{Profile::quintic}, {Profile::trapezoid}};
  const std::vector<std::string> arms = routine.arms();
  const bool jerks = std::all_of(arms.begin(), arms.end(), [&](const std::string& arm) {
    return query.cell().limits(arm).jerk.allFinite();
  });
  if (jerks) laws.push_back({Profile::jerk_limited});
  laws.push_back({Profile::time_optimal});
  if (jerks) laws.push_back({Profile::time_optimal, true});
  for (const Law& law : laws) {
    Routine own = routine;
    own.profile = law.profile;
    own.keep_jerk = law.keep_jerk;
    if (law.profile != Profile::time_optimal) own.corners.reset();
    const auto planned = plan_routine(query, own, {}, supervision);
    if (!planned) return planned.reason();
    ProfileRun run{.profile = law.profile, .keep_jerk = law.keep_jerk, .motion = planned->whole()};
    run.boundaries = planned->ends();
    const Cell moving = routine.moving_cell(query.cell());
    const Arm& arm = routine.moving_arm(moving);
    run.peaks = peaks_of(run.motion, arm.limits());
    run.jump = largest_jump_share(run.motion, arm.limits());
    const int samples = static_cast<int>(std::ceil(run.motion.duration() * 500.0));
    run.tool_speed = highest_speed(tool_moments(run.motion, arm, arm.end_tool(), samples));
    run.passed = rehearse(query.cell(), *planned, {}, supervision).passed();
    runs.push_back(std::move(run));
  }
  return runs;
}

std::string comparison_text(const std::vector<ProfileRun>& runs) {
  Table table({"<profile", "duration", "velocity", "acceleration", "jerk", "jump of acceleration",
               "tool", "<rehearsal"});
  const ProfileRun* quickest = &runs.front();
  for (const ProfileRun& run : runs) {
    const auto percent = [](double share) { return fmt::format("{:.1f} %", 100.0 * share); };
    table.row({law_name(run.profile, run.keep_jerk), text_time(run.motion.duration()),
               percent(run.peaks.velocity.share), percent(run.peaks.acceleration.share),
               percent(run.peaks.jerk.share), percent(run.jump),
               fmt::format("{:.0f} mm/s", to_mm(run.tool_speed)), run.passed ? "yes" : "no"});
    if (run.passed && (!quickest->passed || run.motion.duration() < quickest->motion.duration()))
      quickest = &run;
  }
  return fmt::format("{} is the quickest, {}\n", law_name(quickest->profile, quickest->keep_jerk),
                     text_time(quickest->motion.duration())) +
         table.text() +
         "  velocity, acceleration, jerk: the largest share of any joint's limit; a jump of "
         "acceleration is a jerk without limit\n";
}

}  // namespace er
