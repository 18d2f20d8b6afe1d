#include "elbowroom/base/verdict.hpp"

namespace er {

std::string_view name_of(Cause cause) {
  switch (cause) {
    case Cause::out_of_reach:
      return "out_of_reach";
    case Cause::orientation:
      return "orientation";
    case Cause::at_odds:
      return "at_odds";
    case Cause::beyond_limits:
      return "beyond_limits";
    case Cause::in_collision:
      return "in_collision";
    case Cause::view_blocked:
      return "view_blocked";
    case Cause::start_blocked:
      return "start_blocked";
    case Cause::goal_blocked:
      return "goal_blocked";
    case Cause::no_route:
      return "no_route";
    case Cause::off_line:
      return "off_line";
    case Cause::too_fast:
      return "too_fast";
    case Cause::too_heavy:
      return "too_heavy";
    case Cause::not_sayable:
      return "not_sayable";
    case Cause::step_refused:
      return "step_refused";
    case Cause::not_proved:
      return "not_proved";
    case Cause::stopped:
      return "stopped";
  }
  return "unknown";
}

}  // namespace er

fmt::format_context::iterator fmt::formatter<er::Reason>::format(
    const er::Reason& reason, fmt::format_context& context) const {
  std::string text = reason.text;
  for (const std::string& detail : reason.details) text += "\n  " + detail;
  for (const er::Remedy& remedy : reason.remedies) text += "\n  would do: " + remedy.text;
  return fmt::formatter<std::string_view>::format(text, context);
}
