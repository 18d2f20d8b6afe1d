#include "elbowroom/routine/goal_ways.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/base/trigonometric.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/model/find_named.hpp"
#include "elbowroom/reach/reach.hpp"

namespace er {
namespace {

constexpr int kTurnsLookedAt = 12;  // all the way round
constexpr double kAtGrasp = 1e-6;   // m and rad: how exactly a piece is met

// Values to look at in a band of turns.
std::vector<double> turns_in(const Band& turn) {
  if (turn.is_exact()) return {turn.lower};
  if (turn.upper - turn.lower >= kTurn - 1e-9) {
    std::vector<double> out;
    for (int i = 0; i < kTurnsLookedAt; ++i) out.push_back(wrapped(kTurn * i / kTurnsLookedAt));
    return out;
  }
  const int steps =
      std::max(1, static_cast<int>(std::ceil(kTurnsLookedAt * (turn.upper - turn.lower) / kTurn)));
  std::vector<double> out;
  for (int i = 0; i <= steps; ++i)
    out.push_back(turn.lower + (turn.upper - turn.lower) * i / steps);
  return out;
}

std::string turned_text(double turn) {
  return turn == 0.0 ? std::string{} : fmt::format("turned {:.0f} deg", to_deg(turn));
}

std::string joined(const std::string& a, const std::string& b) {
  return a.empty() || b.empty() ? a + b : a + ", " + b;
}

Target full(const std::string& name, const std::string& tool, const Pose& pose) {
  Target out;
  out.named(name).place(tool, pose).within(kAtGrasp, kAtGrasp);
  return out;
}

// A target as it is, and, where it is a place that leaves the turn open alone, turned by steps:
// the best for itself need not be the best for the steps after it.
std::vector<ResolvedGoal::Way> ways_of(const Target& target) {
  std::vector<ResolvedGoal::Way> out{{target, {}}};
  const AtPlace* place = target.first_place();
  if (target.requirements().size() != 1 || place == nullptr || place->turn.is_exact()) return out;
  AtPlace exact = *place;
  exact.turn = Band::exactly(0.0);
  if (!exact.is_full()) return out;
  for (const double turn : turns_in(place->turn)) {
    Requirement requirement = target.requirements().front();
    exact.turn = Band::exactly(turn);
    requirement.holds = exact;
    Target one = target;
    one.changed(requirement);
    out.push_back({std::move(one), turned_text(turn)});
  }
  return out;
}

struct Resolving {
  Situations& situations;
  int situation;
  const std::string& tool;
  const Posture& start;
  const Posture& from;
  double clearance;

  ResolvedGoal operator()(const AtStance& goal) const {
    if (goal.name.empty()) return {"the start", {start}, {}};
    return {goal.name, {situations.query(situation).arm().stance(goal.name)}, {}};
  }
  ResolvedGoal operator()(const AtTarget& goal) const {
    if (goal.piece.empty()) return {goal.target.name(), {}, ways_of(goal.target)};
    const Pose now = standing(goal.piece).at;
    return {goal.target.name(), {}, ways_of(goal.target.moved_by(now * goal.piece_at.inverse()))};
  }
  ResolvedGoal operator()(const AtGrasp& goal) const {
    const Body& piece = standing(goal.piece);
    ResolvedGoal out{goal.piece, {}, {}};
    for (const Grasp& grasp : grasps_of(piece, goal.grasps))
      for (const double turn : turns_in(grasp.turn)) {
        Pose tip = piece.at * tip_in_piece(grasp, turn);
        tip.position -= goal.back * tip.rotation.col(2);
        out.targets.push_back({full(goal.piece, tool, tip), joined(grasp.name, turned_text(turn))});
      }
    return out;
  }
  ResolvedGoal operator()(const PieceAt& goal) const {
    const Hold* hold = situations.hold_of(situation, goal.piece);
    if (hold == nullptr)
      throw InputError(fmt::format("'{}' is not held", goal.piece), "grip it in a step before");
    ResolvedGoal out{goal.piece, {}, {}};
    for (const double turn : turns_in(goal.turn)) {
      Pose at = goal.at * Pose{rotation_about(Vector3::UnitZ(), turn), Vector3::Zero()};
      at.position += goal.lifted;
      out.targets.push_back({full(goal.piece, hold->tool, at * hold->tip), turned_text(turn)});
    }
    return out;
  }

  ResolvedGoal operator()(const AtTraceStart& goal) const {
    constexpr std::size_t kMostStarts = 8;
    ToolLadder ladder(situations.query(situation, situations.as_held(situation, goal.touching)),
                      tool, ToolTrace(goal.poses), goal.freedom, {.clearance = clearance});
    return {"the trace", ladder.starts(from, kMostStarts), {}};
  }

 private:
  [[nodiscard]] const Body& standing(const std::string& name) const {
    if (const Body* piece = situations.piece(situation, name)) return *piece;
    throw InputError(fmt::format("'{}' is held, so it stands nowhere", name),
                     "release it in a step before");
  }
};

// Postures are taken as they are: a route to one that is blocked says so.
void add_postures(const ResolvedGoal& goal, std::vector<GoalWay>& out) {
  for (const Posture& posture : goal.postures) out.push_back({posture, 0.0, goal.name, {}});
}

std::vector<MeantContact> meant_by(const Arm& arm, const Target& target) {
  std::vector<MeantContact> out;
  for (const Requirement& one : target.requirements())
    if (one.on && !one.may_touch.empty())
      out.push_back({link_name(arm, arm.link_index(one.of)), one.may_touch});
  return out;
}

}  // namespace

std::vector<Grasp> grasps_of(const Body& piece, const std::vector<std::string>& names) {
  if (piece.grasps.empty())
    throw InputError(fmt::format("piece '{}' has no grasps", piece.name),
                     "give it some under grasps: in the cell");
  if (names.empty()) return piece.grasps;
  std::vector<Grasp> out;
  for (const std::string& name : names)
    out.push_back(find_named(piece.grasps, "grasp", name, "piece", piece.name));
  return out;
}

Reason why_no_way_to(Situations& situations, int situation, const std::string& tool,
                     const std::vector<Goal>& goals, const Posture& start, const Posture& from,
                     double clearance) {
  const CellQuery& query = situations.query(situation);
  const ResolvedGoal first =
      resolved(situations, situation, tool, goals.front(), start, from, clearance);
  if (const auto* trace = std::get_if<AtTraceStart>(&goals.front())) {
    auto curve =
        ToolLadder(query, tool, ToolTrace(trace->poses), trace->freedom, {.clearance = clearance})
            .curve_near(from);
    return curve ? Reason{Cause::step_refused, "no: it can be done"} : curve.reason();
  }
  if (first.targets.empty()) return {Cause::step_refused, "no: there is nothing to end at"};
  const auto why =
      reach(query, first.targets.front().target, {.clearance = clearance, .from = from});
  return why ? Reason{Cause::step_refused, "no: it can be done"} : why.reason();
}

Pose tip_in_piece(const Grasp& grasp, double turn) {
  return Pose{rotation_about(Vector3::UnitZ(), turn), Vector3::Zero()} * grasp.tip;
}

ResolvedGoal resolved(Situations& situations, int situation, const std::string& tool,
                      const Goal& goal, const Posture& start, const Posture& from,
                      double clearance) {
  return std::visit(Resolving{situations, situation, tool, start, from, clearance}, goal);
}

Verdict<std::vector<GoalWay>> ways_to(Situations& situations, int situation,
                                      const std::string& tool, const std::vector<Goal>& goals,
                                      const Posture& start, const Posture& from, double clearance,
                                      std::size_t most) {
  const CellQuery& query = situations.query(situation);
  const Arm& arm = query.arm();
  std::vector<GoalWay> out;
  std::optional<Reason> no;
  for (const Goal& goal : goals) {
    const ResolvedGoal one = resolved(situations, situation, tool, goal, start, from, clearance);
    add_postures(one, out);
    for (const ResolvedGoal::Way& way : one.targets) {
      const auto reached = reach(
          query, way.target,
          {.clearance = clearance, .from = from, .find_remedies = false, .rate_refused = false});
      if (!reached) {
        if (!no) no = reached.reason();
        continue;
      }
      const std::string name = goals.size() > 1 ? one.name : std::string{};
      for (const ReachSolution& solution : reached->solutions) {
        const auto same = [&](const GoalWay& other) {
          return (other.posture - solution.posture).cwiseAbs().maxCoeff() < 1e-6;
        };
        if (std::any_of(out.begin(), out.end(), same)) continue;
        const double travel = way.target.wishes().travel * solution.travel_cost;
        out.push_back({solution.posture, solution.cost() - travel,
                       joined(joined(name, way.how), solution.branch), meant_by(arm, way.target)});
      }
    }
  }
  if (out.empty())
    return no ? *no
              : Reason{Cause::off_line, "no: from no posture can the whole trace be followed"};
  std::stable_sort(out.begin(), out.end(), [](const GoalWay& a, const GoalWay& b) {
    return std::round(a.cost * 1e9) < std::round(b.cost * 1e9);
  });
  if (out.size() > most) out.resize(most);
  return out;
}

}  // namespace er
