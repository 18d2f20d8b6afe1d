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
  const Arm& arm = query.arm();
  std::string out;
  const auto line = [&](const char* what, const std::string& text) {
    out += fmt::format("  {:<24}{}\n", what, text);
  };
  line("path", fmt::format("{} of {} followed", text_time(followed), text_time(asked)));
  line("time taken", text_time(duration()));
  line("off the path", fmt::format("by {} and {} at most, worst at {}", fine_length(worst_off),
                                   fine_angle(worst_off_angle), text_time(worst_at)));
  line("most of a velocity", used_text(arm, velocity));
  line("most of an acceleration", used_text(arm, acceleration));
  if (clearance.nearest.first >= 0) line("least clearance", query.describe(clearance.nearest));
  if (slowdowns.empty()) return out;
  out += "  slowed down:\n";
  Table table({"from", "to", "lost", "least speed", "<why"});
  for (const Slowdown& s : slowdowns)
    table.row({text_time(s.from), text_time(s.to), text_time(s.lost),
               fmt::format("{:.1f} %", 100.0 * s.least_scale), s.why});
  return out + table.text(4);
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
