#include "elbowroom/follow/following.hpp"

#include <fmt/format.h>

#include <array>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

constexpr std::array<std::string_view, 4> kModeNames{"limited", "damped", "pseudo", "plain"};

}  // namespace

std::string_view name_of(FollowMode mode) { return kModeNames[static_cast<std::size_t>(mode)]; }

FollowMode follow_mode_named(std::string_view name) {
  for (std::size_t i = 0; i < kModeNames.size(); ++i)
    if (kModeNames[i] == name) return static_cast<FollowMode>(i);
  const std::vector<std::string> known(kModeNames.begin(), kModeNames.end());
  throw unknown_name("mode", name, known);
}

std::string Following::summary(const CellQuery& query) const {
  if (no) return no->text;
  const double late = duration() - asked;
  return fmt::format("yes: {} follows the path of {} in {} ({}), off by {} and {} at most",
                     query.arm().name(), text_time(asked), text_time(duration()),
                     late < 5e-4 ? "nothing lost" : text_time(late) + " more",
                     fine_length(worst_off), fine_angle(worst_off_angle));
}

std::string Following::report(const CellQuery& query) const {
  return report_line("path",
                     fmt::format("{} of {} followed", text_time(followed), text_time(asked))) +
         report_line("time taken", text_time(duration())) +
         StepLog::report(query, "the path", "slowed down");
}

std::string comparison(const std::vector<Following>& all) {
  Table table({"<mode", "time", "off the path", "turned off", "of velocity", "of acceleration",
               "clearance", "<verdict"});
  for (const Following& one : all)
    table.row({std::string(name_of(one.mode)), text_time(one.duration()),
               fine_length(one.worst_off), fine_angle(one.worst_off_angle),
               fmt::format("{:.1f} %", 100.0 * one.velocity.share),
               fmt::format("{:.1f} %", 100.0 * one.acceleration.share),
               text_length(one.clearance.nearest.distance), one.no ? "no" : "yes"});
  std::string out = table.text(2);
  for (const Following& one : all)
    if (one.no) out += fmt::format("  {}: {}\n", name_of(one.mode), one.no->text.substr(4));
  return out;
}

}  // namespace er
