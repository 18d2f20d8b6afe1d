#include "elbowroom/routine/check_routine.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/kinematics/named_frame.hpp"
#include "elbowroom/routine/goal_ways.hpp"

namespace er {
namespace {

// Goes through the steps and keeps account of what the arm holds.
class RoutineCheck {
 public:
  RoutineCheck(const Cell& cell, const Arm& arm) : cell_(cell), arm_(arm) {
    for (const HeldPiece& one : cell.description().held)
      (one.arm == arm.name() ? held_ : held_elsewhere_).push_back(one);
  }

  void check(const Step& step) {
    (void)arm_.end_tool(step.tool);
    std::visit([&](const auto& action) { check(action, step); }, step.action);
    for (const std::string* piece :
         {&step.contacts.meets, &step.contacts.leaves, &step.contacts.settles})
      if (!piece->empty()) (void)known(*piece);
  }
  [[nodiscard]] int held() const { return static_cast<int>(held_.size()); }

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
  [[nodiscard]] bool is_held(const std::string& piece) const {
    return std::any_of(held_.begin(), held_.end(),
                       [&](const HeldPiece& one) { return one.piece.name == piece; });
  }
  // A piece that nobody holds.
  const Body& standing(const std::string& name) const {
    const Body& piece = known(name);
    if (is_held(name))
      throw InputError(fmt::format("'{}' is held already", name), "release it in a step before");
    for (const HeldPiece& one : held_elsewhere_)
      if (one.piece.name == name)
        throw InputError(fmt::format("'{}' is held by arm '{}'", name, one.arm),
                         "two arms cannot hold one piece");
    return piece;
  }
  void need_held(const std::string& name) const {
    (void)known(name);
    if (is_held(name)) return;
    std::string holds = "the arm holds nothing";
    if (!held_.empty()) {
      std::vector<std::string> names;
      for (const HeldPiece& one : held_) names.push_back(one.piece.name);
      holds = fmt::format("the arm holds {}", fmt::join(names, ", "));
    }
    throw InputError(fmt::format("'{}' is not held: {} then", name, holds),
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
  const Arm& arm_;
  std::vector<HeldPiece> held_;
  std::vector<HeldPiece> held_elsewhere_;
};

}  // namespace

std::vector<int> check_routine(const Cell& cell, const Routine& routine) {
  const Arm& arm = cell.arm(routine.arm);
  RoutineCheck check(cell, arm);
  std::vector<int> held;
  for (const Step& step : routine.steps) {
    if (!step.on) {
      held.push_back(check.held());
      continue;
    }
    try {
      check.check(step);
    } catch (const InputError& error) {
      throw error.place().line > 0 ? error : error.at(step.place);
    }
    held.push_back(check.held());
  }
  if (std::none_of(routine.steps.begin(), routine.steps.end(),
                   [](const Step& step) { return step.on; }))
    throw InputError(
        routine.steps.empty() ? "the routine has no steps" : "all steps of the routine are off",
        "add some under steps:");
  return held;
}

}  // namespace er
