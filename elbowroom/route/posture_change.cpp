#include "elbowroom/route/posture_change.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "elbowroom/base/text.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/reach/reach.hpp"

namespace er {
namespace {

constexpr double kSamePosture = 1e-4;  // rad or m of any joint
constexpr int kLooksAtTool = 50;       // at the tool, on each line

bool has_all(const std::string& branch, const std::vector<std::string>& wanted) {
  const std::vector<std::string> words = split_at_commas(branch);
  return std::all_of(wanted.begin(), wanted.end(), [&](const std::string& word) {
    return std::find(words.begin(), words.end(), word) != words.end();
  });
}

Reason no_such_branch(const CellQuery& query, const Reach& reach, const std::string& from,
                      const std::string& branch) {
  std::set<std::string> others;
  for (const ReachSolution& one : reach.solutions)
    if (one.branch != from) others.insert(one.branch);
  Reason reason{
      Cause::goal_blocked,
      branch.empty()
          ? fmt::format("no: with the tool where it is there is no other posture to go to than {}",
                        from.empty() ? "this one" : "'" + from + "'")
          : fmt::format("no: with the tool where it is there is no posture '{}' to go to", branch)};
  if (!others.empty())
    reason.details.push_back(fmt::format("there are: {}", fmt::join(others, "; ")));
  for (const ReachSolution& one : reach.refused)
    if (branch.empty() || has_all(one.branch, split_at_commas(branch)))
      reason.details.push_back(fmt::format("{}: {}", one.branch.empty() ? "one" : one.branch,
                                           query.describe(one.nearest)));
  return reason;
}

double furthest_off(const Arm& arm, const Tool& held, const std::vector<Posture>& waypoints) {
  const Vector3 place = frame_pose(arm, held.link_index, held.tip, waypoints.front()).position;
  double off = 0.0;
  for (std::size_t i = 0; i + 1 < waypoints.size(); ++i)
    for (int k = 1; k <= kLooksAtTool; ++k) {
      const double share = static_cast<double>(k) / kLooksAtTool;
      const Posture at = waypoints[i] + share * (waypoints[i + 1] - waypoints[i]);
      off = std::max(off, (frame_pose(arm, held.link_index, held.tip, at).position - place).norm());
    }
  return off;
}

}  // namespace

Verdict<PostureChange> change_posture(const CellQuery& query, const Posture& start,
                                      const std::string& branch, const RouteOptions& options,
                                      const Supervision& supervision) {
  const Arm& arm = query.arm();
  arm.check_posture(start, "the start of the route");
  if (const std::string fault = query.fault_of(start, options.clearance); !fault.empty())
    return Reason{Cause::start_blocked, "no: at the start: " + fault};
  const Tool held = arm.end_tool();  // what stays
  const Target here = Target{}
                          .place(held.name, frame_pose(arm, held.link_index, held.tip, start))
                          .named("where the tool is");
  const auto reached = reach(query, here, {.clearance = options.clearance, .from = start});
  if (!reached) return reached.reason();
  PostureChange out;
  out.legend = reached->branch_legend;
  const auto is_start = [&](const ReachSolution& one) {
    return (one.posture - start).cwiseAbs().maxCoeff() < kSamePosture;
  };
  for (const ReachSolution& one : reached->solutions)
    if (is_start(one)) out.from = one.branch;
  std::vector<Posture> goals;
  std::vector<std::string> branches;
  for (const ReachSolution& one : reached->solutions) {
    if (is_start(one)) continue;
    if (branch.empty() ? !one.branch.empty() && one.branch == out.from
                       : !has_all(one.branch, split_at_commas(branch)))
      continue;
    goals.push_back(one.posture);
    branches.push_back(one.branch);
  }
  if (goals.empty()) return no_such_branch(query, *reached, out.from, branch);
  auto route = find_route(query, start, goals, options, supervision);
  if (!route) return route.reason();
  out.route = std::move(route).value();
  out.to = branches[out.route.goal];
  out.room = swept_room(query, out.route.waypoints);
  out.off = furthest_off(arm, held, out.route.waypoints);
  return out;
}

}  // namespace er
