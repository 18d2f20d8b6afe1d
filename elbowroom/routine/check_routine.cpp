#include "elbowroom/routine/check_routine.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/kinematics/named_frame.hpp"
#include "elbowroom/routine/goal_ways.hpp"

namespace er {
namespace {

constexpr std::size_t kMostSignals = 6;

// Goes through the steps and keeps account of what each arm holds.
class RoutineCheck {
 public:
  RoutineCheck(const Cell& cell, const Routine& routine)
      : cell_(cell), held_(cell.description().held), arm_(cell.arm(routine.arm)) {}

  void check(const Step& step, const std::string& arm) {
    arm_ = cell_.arm(arm);
    (void)arm_.end_tool(step.tool);
    std::visit([&](const auto& action) { check(action, step); }, step.action);
    for (const std::string* piece :
         {&step.contacts.meets, &step.contacts.leaves, &step.contacts.settles})
      if (!piece->empty()) (void)known(*piece);
  }

 private:
  [[nodiscard]] const Body& known(const std::string& name) const {
    std::vector<std::string> names;
    for (const Body& piece : cell_.pieces()) {
      if (piece.name == name) return piece;
      names.push_back(piece.name);
    }
    for (const HeldPiece& one : cell_.description().held) {
      if (one.piece.name == name) return one.piece;
      names.push_back(one.piece.name);
    }
    throw unknown_name("piece", name, names);
  }
  [[nodiscard]] const HeldPiece* held(const std::string& piece) const {
    const auto found = std::find_if(held_.begin(), held_.end(),
                                    [&](const HeldPiece& one) { return one.piece.name == piece; });
    return found == held_.end() ? nullptr : &*found;
  }
  // A piece that nobody holds.
  const Body& standing(const std::string& name) const {
    const Body& piece = known(name);
    const HeldPiece* holder = held(name);
    if (holder == nullptr) return piece;
    if (holder->arm == arm_.name())
      throw InputError(fmt::format("'{}' is held already", name), "release it in a step before");
    throw InputError(fmt::format("'{}' is held by arm '{}'", name, holder->arm),
                     "two arms cannot hold one piece: release it in a step before");
  }
  void need_held(const std::string& name) const {
    (void)known(name);
    const HeldPiece* holder = held(name);
    if (holder != nullptr && holder->arm == arm_.name()) return;
    std::vector<std::string> names;
    for (const HeldPiece& one : held_)
      if (one.arm == arm_.name()) names.push_back(one.piece.name);
    const std::string holds = names.empty()
                                  ? "the arm holds nothing"
                                  : fmt::format("the arm holds {}", fmt::join(names, ", "));
    const std::string by = holder == nullptr ? "" : fmt::format("; arm '{}' holds it", holder->arm);
    throw InputError(fmt::format("'{}' is not held: {} then{}", name, holds, by),
                     "grip it in a step before");
  }
  static void above_zero(double value, const char* what) {
    if (!(value > 0.0) || !std::isfinite(value))
      throw InputError(fmt::format("{} must be above zero, found {:g}", what, value));
  }

  void check(const Goal& goal) const {
    if (const auto* stance = std::get_if<AtStance>(&goal)) {
      if (!stance->name.empty()) (void)arm_.stance(stance->name);
    } else if (const auto* target = std::get_if<AtTarget>(&goal)) {
      if (!target->piece.empty()) standing(target->piece);
    } else if (const auto* grasp = std::get_if<AtGrasp>(&goal)) {
      (void)grasps_of(standing(grasp->piece), grasp->grasps);
    } else if (const auto* place = std::get_if<PieceAt>(&goal)) {
      need_held(place->piece);
    }
  }
  void check_all(const std::vector<Goal>& goals) const {
    if (goals.empty()) throw InputError("a move has no end", "name a target or stance");
    for (const Goal& goal : goals) check(goal);
  }
  // A straight move and an arc lead to one full pose each.
  void check_full(const Goal& goal) const {
    check(goal);
    if (std::holds_alternative<AtStance>(goal))
      throw InputError("a tool move does not end in a stance",
                       "name a target, or take a free move");
    const auto* target = std::get_if<AtTarget>(&goal);
    if (target == nullptr) return;
    const AtPlace* place = target->target.first_place();
    const bool one = target->target.requirements().size() == 1 && place != nullptr;
    AtPlace turned = place == nullptr ? AtPlace{} : *place;
    turned.turn = {};
    if (one && turned.is_full()) return;
    throw InputError(
        fmt::format("a tool move needs a target that is one full place, but for the turn about the "
                    "tool's axis; '{}' leaves something else open or asks for more",
                    target->target.name()),
        "go: to it instead, or give it a place with nothing else left open");
  }
  void check_frame(const std::string& name) const {
    if (name != "tool") named_frame(cell_, arm_, name);
  }

  void check(const FreeMove& move, const Step& /*step*/) { check_all(move.to); }
  void check(const TurnJoints& turn, const Step& /*step*/) {
    if (turn.by.empty()) throw InputError("a joint turn names no joint");
    for (const auto& [joint, by] : turn.by) {
      if (arm_.find_moving_joint(joint) < 0) {
        std::vector<std::string> names;
        for (int k = 0; k < arm_.dof(); ++k) names.push_back(arm_.moving_joint(k).name);
        throw unknown_name("joint", joint, names);
      }
      if (by == 0.0 || !std::isfinite(by))
        throw InputError(fmt::format("joint {} turns by nothing", joint), "leave it out");
    }
  }
  void check(const StraightMove& move, const Step& /*step*/) {
    check_all(move.to);
    for (const Goal& goal : move.to) check_full(goal);
  }
  void check(const RelativeMove& move, const Step& /*step*/) { check_frame(move.in); }
  void check(const ArcMove& move, const Step& /*step*/) { check_full(move.to); }
  void check(const TurnMove& move, const Step& /*step*/) { check_frame(move.in); }
  void check(const TraceMove& move, const Step& /*step*/) {
    if (move.poses.size() < 2)
      throw InputError(fmt::format("a trace needs two poses or more, found {}", move.poses.size()));
  }
  void check(const Grip& grip, const Step& /*step*/) {
    above_zero(grip.takes, "what a grip takes (s)");
    const Body& piece = standing(grip.piece);
    (void)grasps_of(piece, grip.grasps);
    held_.push_back({piece, arm_.name()});
  }
  void check(const Release& release, const Step& /*step*/) {
    above_zero(release.takes, "what a release takes (s)");
    need_held(release.piece);
    std::erase_if(held_, [&](const HeldPiece& one) { return one.piece.name == release.piece; });
  }
  static void check(const Wait& wait, const Step& /*step*/) { above_zero(wait.time, "a wait (s)"); }

  const Cell& cell_;
  std::vector<HeldPiece> held_;
  Arm arm_;
};

void check_arms(const Cell& cell, const Routine& routine) {
  std::vector<std::string> seen;
  for (const std::string& name : routine.arms()) {
    (void)cell.arm(name);
    if (std::find(seen.begin(), seen.end(), name) != seen.end())
      throw InputError(fmt::format("arm '{}' takes part twice", name), "name it once");
    seen.push_back(name);
  }
  for (const ArmStart& one : routine.others) (void)cell.arm(one.arm).stance(one.start);
}

// A free move of several arms: steps that follow each other, of one arm each.
void check_together(const Routine& routine, std::size_t number) {
  const Step& step = routine.steps[number];
  if (step.together.empty()) return;
  if (!std::holds_alternative<FreeMove>(step.action))
    throw InputError(
        fmt::format("'{}' is no free move, and only those are made together", step.name),
        "leave out together:");
  if (!step.keep.empty() || !step.keep_speeds.empty() || step.improve > 0 ||
      !step.cost.is_travel_alone() || !step.contacts.named.empty() || step.tool_speed)
    throw InputError(
        "what arms do together keeps no rules, has no cost, no tool speed, and means no contacts",
        "leave out keep, cost, improve, tool_speed and touch, or let one arm go after the other");
  int mates = 0;
  for (std::size_t i = 0; i < routine.steps.size(); ++i) {
    const Step& other = routine.steps[i];
    if (i == number || !other.on || other.together != step.together) continue;
    ++mates;
    if (routine.arm_of(other) == routine.arm_of(step))
      throw InputError(fmt::format("arm '{}' has two steps that are made together as '{}'",
                                   routine.arm_of(step), step.together),
                       "give the second pair another name");
    if (other.profile != step.profile)
      throw InputError(
          fmt::format("steps that are made together ('{}') have one profile", step.together),
          "give all of them the same, or none");
    const auto [first, last] = std::minmax(i, number);
    for (std::size_t k = first; k < last; ++k)
      if (routine.steps[k].on && routine.steps[k].together != step.together)
        throw InputError(fmt::format(
            "steps that are made together ('{}') follow each other in the list", step.together));
  }
  if (mates == 0)
    throw InputError(
        fmt::format("no step of another arm is made together with this one ('{}')", step.together),
        "write the same together: at a step of another arm, next to this one");
}

void check_waits(const Routine& routine, std::size_t number) {
  const Step& step = routine.steps[number];
  for (const std::string& name : step.after) {
    if (routine.waited_for(static_cast<int>(number), name) >= 0) continue;
    std::vector<std::string> known;
    for (std::size_t i = 0; i < number; ++i) {
      const Step& other = routine.steps[i];
      if (!other.on || routine.arm_of(other) == routine.arm_of(step)) continue;
      for (const std::string* one : {&other.name, &other.of})
        if (!one->empty() && std::find(known.begin(), known.end(), *one) == known.end())
          known.push_back(*one);
    }
    throw unknown_name("step of another arm before this one", name, known);
  }
}

}  // namespace

void check_path(const Cell& cell, const Routine& routine, const std::vector<Condition>& holding) {
  RoutineCheck check(cell, routine);
  const std::vector<std::string> arms = routine.arms();
  for (std::size_t i = 0; i < routine.steps.size(); ++i) {
    const Step& step = routine.steps[i];
    if (!is_done(step, holding)) continue;
    try {
      const std::string& arm = routine.arm_of(step);
      if (std::find(arms.begin(), arms.end(), arm) == arms.end())
        throw unknown_name("arm that takes part", arm, arms);
      check.check(step, arm);
      check_together(routine, i);
      check_waits(routine, i);
    } catch (const InputError& error) {
      throw error.place().line > 0 ? error : error.at(step.place);
    }
  }
}

void check_routine(const Cell& cell, const Routine& routine) {
  check_arms(cell, routine);
  if (std::none_of(routine.steps.begin(), routine.steps.end(),
                   [](const Step& step) { return step.on; }))
    throw InputError(
        routine.steps.empty() ? "the routine has no steps" : "all steps of the routine are off",
        "add some under steps:");
  const std::vector<std::string> signals = routine.signals();
  if (signals.size() > kMostSignals)
    throw InputError(fmt::format("the routine hangs on {} signals, which makes {} paths to plan",
                                 signals.size(), 1UL << signals.size()),
                     fmt::format("{} signals are the most", kMostSignals));
  std::vector<Condition> own;  // every step that can be replaced is done itself
  for (const Step& step : routine.steps)
    for (Condition one : step.when) {
      one.is = true;
      if (one.chosen && std::find(own.begin(), own.end(), one) == own.end()) own.push_back(one);
    }
  for (std::size_t path = 0; path < (1UL << signals.size()); ++path) {
    std::vector<Condition> holding = own;
    for (std::size_t s = 0; s < signals.size(); ++s)
      holding.push_back({signals[s], (path >> s & 1U) == 0});
    check_path(cell, routine, holding);
    for (std::size_t i = 0; i < own.size(); ++i) {
      holding[i].is = false;
      check_path(cell, routine, holding);
      holding[i].is = true;
    }
  }
}

}  // namespace er
