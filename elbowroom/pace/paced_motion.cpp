#include "elbowroom/pace/paced_motion.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/pace/motor_use.hpp"

namespace er {

std::string_view name_of(Profile profile) {
  static constexpr std::array<std::string_view, 5> kNames{"cubic", "quintic", "trapezoid",
                                                          "jerk-limited", "time-optimal"};
  return kNames.at(static_cast<std::size_t>(profile));
}

Profile profile_named(std::string_view name) {
  std::vector<std::string> known;
  for (const Profile profile : kAllProfiles) {
    if (name == name_of(profile)) return profile;
    known.emplace_back(name_of(profile));
  }
  throw unknown_name("profile", name, known);
}

int PacedMotion::rounded() const {
  return static_cast<int>(std::count_if(corners.begin(), corners.end(),
                                        [](const Corner& corner) { return corner.cut > 0.0; }));
}

std::string law_name(Profile profile, bool keep_jerk) {
  return std::string(name_of(profile)) + (keep_jerk ? " with jerk limits" : "");
}

std::string PacedMotion::summary() const {
  const std::string round = corners.empty()
                                ? ""
                                : fmt::format(", {} of {} corner{} rounded", rounded(),
                                              corners.size(), corners.size() == 1 ? "" : "s");
  return fmt::format(
      "yes: {} in all, {}, {} stop{} on the way{}; at most {:.1f} % of a velocity limit "
      "and {:.1f} % of an acceleration limit{}",
      text_time(motion.duration()), law(), stops, stops == 1 ? "" : "s", round,
      100.0 * peaks.velocity.share, 100.0 * peaks.acceleration.share,
      slowed.empty() ? "" : "; slowed for " + slowed.front().what());
}

std::string PacedMotion::corners_text(const Arm& arm) const {
  double most = 0.0;
  int joint = 0;
  for (const Corner& corner : corners)
    for (int k = 0; k < arm.dof(); ++k)
      if (corner.off[k] > most) most = corner.off[k], joint = k;
  const bool slides = arm.moving_joint(joint).kind == JointKind::prismatic;
  return fmt::format(
      "  round corners: at most {:.2f} {} ({}) from the straight lines; the motion as it stands is "
      "proved to keep {:.1f} mm\n",
      slides ? to_mm(most) : to_deg(most), slides ? "mm" : "deg", arm.moving_joint(joint).name,
      to_mm(clearance));
}

std::string SlowedStretch::what() const {
  if (!rule.empty()) return "the speed of a frame";
  return zone.empty() ? "torque limits" : "zone " + zone;
}

std::string SlowedStretch::why() const {
  if (!rule.empty()) return fmt::format("{} is kept", rule);
  if (!zone.empty()) return fmt::format("{} keeps the speed cap of zone {}", link, zone);
  return "torque limits are kept";
}

std::string PacedMotion::report(const Arm& arm) const {
  std::string out = limits_table(motion, arm);
  for (const SlowedStretch& one : slowed)
    out += fmt::format("  stretch {} takes {:.2f} times as long so that {}\n", one.stretch,
                       one.factor, one.why());
  for (const FrameUse& one : frames)
    out += fmt::format("  {}: {:.1f} % of that, at {}\n", one.rule.text(),
                       100.0 * one.fastest.share, text_time(one.fastest.time));
  if (peaks.jerk.share > 1.0 + 1e-6)
    out += fmt::format("  jerk limits are not kept: {:.0f} % of that of {}\n",
                       100.0 * peaks.jerk.share, arm.moving_joint(peaks.jerk.joint).name);
  if (const std::string text = torque_text(torque, arm); !text.empty()) out += "  " + text + "\n";
  if (profile == Profile::trapezoid)
    out += "  a trapezoid's acceleration jumps at each corner: jerk is not limited there\n";
  if (profile == Profile::cubic)
    out += "  a cubic's acceleration jumps at both ends: jerk is not limited there\n";
  if (profile == Profile::time_optimal && !keeps_jerk)
    out += "  acceleration jumps from one limit to another: jerk is not limited there\n";
  if (rounded() > 0) out += corners_text(arm);
  if (steady) out += "  " + steady->text() + "\n";
  if (stray)
    out += fmt::format(
        "  the tip strays {:.4f} mm and {:.4f} deg from its path at most; the motion as it "
        "stands is proved to keep {:.1f} mm\n",
        to_mm(stray->beside), to_deg(stray->turned), to_mm(clearance));
  return out;
}

}  // namespace er
