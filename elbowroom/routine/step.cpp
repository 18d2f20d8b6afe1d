#include "elbowroom/routine/step.hpp"

#include <algorithm>

#include <array>

namespace er {

std::string_view kind_of(const Action& action) {
  static constexpr std::array<std::string_view, std::variant_size_v<Action>> kKinds{
      "free move", "joint turn", "straight line", "straight line", "arc",
      "turn",      "trace",      "grip",          "release",       "wait"};
  return kKinds.at(action.index());
}

bool is_tool_move(const Action& action) {
  return std::holds_alternative<StraightMove>(action) ||
         std::holds_alternative<RelativeMove>(action) || std::holds_alternative<ArcMove>(action) ||
         std::holds_alternative<TurnMove>(action) || std::holds_alternative<TraceMove>(action);
}

namespace {

Step step_like(const Step& settings, std::string name, Action action, StepContacts contacts = {}) {
  Step step = settings;
  step.name = std::move(name);
  step.action = std::move(action);
  step.contacts = std::move(contacts);
  // Rules, and what a way costs, are for free moves.
  if (!std::holds_alternative<FreeMove>(step.action)) {
    step.keep.clear();
    step.cost = {};
    step.improve = 0;
  }
  if (!is_tool_move(step.action)) {
    step.tool_speed.reset();
    step.steady = false;
    step.freedom = {};
  }
  return step;
}

}  // namespace

bool is_done(const Step& step, const std::vector<Condition>& holding) {
  return step.on && std::all_of(step.when.begin(), step.when.end(), [&](const Condition& one) {
           return std::find(holding.begin(), holding.end(), one) != holding.end();
         });
}

std::vector<Step> steps_of(const Taking& taking, const Step& settings) {
  const std::string& piece = taking.piece;
  const AtGrasp grasp{piece, taking.grasps, 0.0};
  AtGrasp before = grasp;
  before.back = taking.from;
  return {
      step_like(settings, "go before " + piece, FreeMove{{before}, true}),
      step_like(settings, "in to " + piece,
                RelativeMove{.by = {0.0, 0.0, taking.from}, .in = "tool"}, {.meets = piece}),
      step_like(settings, "grip " + piece, Grip{piece, taking.grasps, taking.takes}),
      step_like(settings, "raise " + piece, RelativeMove{.by = {0.0, 0.0, taking.raise}},
                {.leaves = piece}),
  };
}

std::vector<Step> steps_of(const Putting& putting, const Step& settings) {
  const std::string& piece = putting.piece;
  return {
      step_like(
          settings, "carry " + piece,
          FreeMove{{PieceAt{piece, putting.at, putting.turn, {0.0, 0.0, putting.lower}}}, true}),
      step_like(settings, "lower " + piece, RelativeMove{.by = {0.0, 0.0, -putting.lower}},
                {.settles = piece}),
      step_like(settings, "release " + piece, Release{piece, putting.takes}),
      step_like(settings, "back off " + piece,
                RelativeMove{.by = {0.0, 0.0, -putting.back}, .in = "tool"}, {.meets = piece}),
  };
}

}  // namespace er
