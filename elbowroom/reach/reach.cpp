#include "elbowroom/reach/reach.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/posture_text.hpp"
#include "elbowroom/reach/diagnosis.hpp"
#include "elbowroom/reach/full_turns.hpp"
#include "elbowroom/reach/posture_search.hpp"
#include "elbowroom/reach/tool_swing.hpp"

namespace er {
namespace {

Posture travel_start(const Arm& arm, const ReachOptions& options) {
  if (options.from.size() > 0) {
    arm.check_posture(options.from, "the posture that travel is counted from");
    return options.from;
  }
  if (const Posture* home = arm.find_stance("home")) return *home;
  return arm.mid_range();
}

// Where the tolerances leave room, a posture beside the exact ones may do.
bool is_exact(const Target& target) {
  const Requirement* pose = target.full_pose();
  return pose != nullptr && pose->position_tolerance <= 1e-5 && pose->angle_tolerance <= 1e-4;
}

// A part of the cost as a column of the table; one that counts nothing has none.
struct CostColumn {
  const char* heading;
  double weight;
  double ReachSolution::*part;
};
std::vector<CostColumn> cost_columns(const Wishes& wishes) {
  std::vector<CostColumn> out;
  for (const CostColumn& column :
       {CostColumn{"travel", wishes.travel, &ReachSolution::travel_cost},
        CostColumn{"room", wishes.room, &ReachSolution::room_cost},
        CostColumn{"limits", wishes.limits, &ReachSolution::limit_cost},
        CostColumn{"dexterity", wishes.dexterity, &ReachSolution::dexterity_cost},
        CostColumn{"load", wishes.load, &ReachSolution::load_cost},
        CostColumn{"branch", wishes.branch.empty() ? 0.0 : wishes.branch_cost,
                   &ReachSolution::branch_cost}})
    if (column.weight > 0.0) out.push_back(column);
  return out;
}

// Between branches: what the joints and what the tool would do.
std::string ways_there(const Arm& arm, const Reach& found, std::size_t most) {
  const TargetOnArm on_arm(arm, found.target);
  if (on_arm.size() == 0) return "";
  const TargetOnArm::Bound& tool = on_arm[0];
  bool slides = false;
  for (int k = 0; k < arm.dof(); ++k)
    slides = slides || arm.moving_joint(k).kind == JointKind::prismatic;
  std::vector<std::string> headings{"#", "joints turn in all"};
  if (slides) headings.emplace_back("and slide mm");
  for (const char* heading : {"the tool goes mm", "off its straight way mm"})
    headings.emplace_back(heading);
  Table table(headings);
  for (std::size_t i = 0; i < std::min(most, found.solutions.size()); ++i) {
    const Posture& to = found.solutions[i].posture;
    double turning = 0.0;
    double sliding = 0.0;
    for (int k = 0; k < arm.dof(); ++k)
      (arm.moving_joint(k).kind == JointKind::prismatic ? sliding : turning) +=
          std::abs(to[k] - found.from[k]);
    const ToolSwing swing = tool_swing(arm, tool.link, tool.frame, found.from, to);
    std::vector<std::string> row{std::to_string(i + 1), text_angle(turning)};
    if (slides) row.push_back(fmt::format("{:.1f}", to_mm(sliding)));
    row.push_back(fmt::format("{:.1f}", to_mm(swing.travel)));
    row.push_back(fmt::format("{:.1f}", to_mm(swing.off)));
    table.row(std::move(row));
  }
  return "  from where travel is counted, joints going straight:\n" + table.text(4);
}

// What is nearest to each link of a posture, and where.
std::string clearance_by_link(const CellQuery& query, const ReachSolution& one) {
  PartPoses parts(query);
  std::vector<Nearest> links(query.arm().links().size());
  query.nearest_of_links(one.posture, parts, links);
  Table table({"<link", "clear mm", "<nearest", "<at mm"});
  for (const Nearest& pair : links) {
    if (pair.first < 0) continue;
    const Vector3 at = (pair.point_first * 1e3).array().round() + 0.0;  // never -0
    table.row({query.name(pair.first), fmt::format("{:.1f}", to_mm(pair.distance)),
               query.name(pair.second),
               fmt::format("[{:.0f}, {:.0f}, {:.0f}]", at.x(), at.y(), at.z())});
  }
  return "  clearance of posture 1, link by link:\n" + table.text(4);
}

}  // namespace

CellQuery with_meant_contacts(const CellQuery& query, const Target& target) {
  std::vector<MeantContact> meant;
  for (const Requirement& one : target.requirements()) {
    if (!one.on || one.may_touch.empty()) continue;
    MeantContact contact{link_name(query.arm(), query.arm().link_index(one.of)), one.may_touch};
    if (!query.cell().contact_is_meant(contact.first, contact.second))
      meant.push_back(std::move(contact));
  }
  return meant.empty() ? query : query.with_contacts(meant);
}

Verdict<Reach> reach(const CellQuery& asked, const Target& target, const ReachOptions& options) {
  const Stopwatch watch;
  const CellQuery query = with_meant_contacts(asked, target);
  const Arm& arm = query.arm();
  require_ranges(arm);
  if (options.starts < 1) throw InputError("reach needs at least one start");
  const TargetOnArm on_arm(arm, target);
  const Ranking ranking(query, on_arm, travel_start(arm, options));

  Reach out;
  out.target = target;
  out.from = ranking.from();
  PostureSearch search(query, on_arm, ranking, options, out);
  if (options.use_closed_form) search.by_form();
  const bool are_all = out.complete && is_exact(target);
  if (!search.any_is_free() && !are_all) {
    out.complete = false;
    search.by_starts();
  }
  if (are_all && search.found().empty() && search.beyond().empty()) search.doubt_that_none();
  PartPoses parts(query);
  std::vector<ReachSolution> colliding;
  for (const PostureSearch::Found& one : search.found()) {
    if (!one.is_free) ++out.colliding;
    if (!one.is_free && !options.rate_refused) continue;
    std::vector<Posture> turned;
    append_full_turns(arm, on_arm.lower(), on_arm.upper(), one.posture, ranking.from(), turned);
    for (const Posture& posture : turned) {
      ReachSolution rated = ranking.rate(posture, one.branch, parts);
      rated.free_joint = one.free_joint;
      rated.view_blocked_by = one.view_blocked_by;
      (one.is_free ? out.solutions : colliding).push_back(std::move(rated));
    }
  }
  // A difference in the tenth digit is rounding, and is not to choose: the order found decides.
  const auto by_cost = [](const ReachSolution& a, const ReachSolution& b) {
    return std::round(a.cost() * 1e9) < std::round(b.cost() * 1e9);
  };
  std::stable_sort(out.solutions.begin(), out.solutions.end(), by_cost);
  if (out.solutions.empty() && !options.rate_refused && out.colliding > 0)
    return Reason{
        Cause::in_collision,
        fmt::format("no: all {} postures that meet it are too near something", out.colliding)};
  if (out.solutions.empty())
    return explain_no(query, target, options, colliding, search.beyond(), out);
  for (ReachSolution& one : colliding) {
    const bool known =
        std::any_of(out.refused.begin(), out.refused.end(), [&](const ReachSolution& other) {
          return is_same_posture(arm, one.posture, other.posture);
        });
    if (!known) out.refused.push_back(std::move(one));
  }
  out.seconds = watch.seconds();
  return out;
}

Verdict<Reach> reach(const Cell& cell, std::string_view arm, const Target& target,
                     const ReachOptions& options) {
  return reach(CellQuery(cell, arm), target, options);
}

std::vector<Posture> Reach::postures() const {
  std::vector<Posture> all;
  for (const ReachSolution& s : solutions) all.push_back(s.posture);
  return all;
}

std::string Reach::summary(const CellQuery& query) const {
  const bool one = solutions.size() == 1;
  const char* verb = is_family ? (one ? " found that reaches it" : "s found that reach it")
                               : (one ? " reaches it" : "s reach it");
  return fmt::format("yes: {} posture{}; the best keeps {}", solutions.size(), verb,
                     query.describe(solutions.front().nearest));
}

std::string Reach::report(const CellQuery& query, std::size_t most) const {
  const Arm& arm = query.arm();
  std::vector<std::string> headings{"#"};
  for (std::string& heading : joint_headings(arm)) headings.push_back(std::move(heading));
  const bool branches = std::any_of(solutions.begin(), solutions.end(),
                                    [](const ReachSolution& s) { return !s.branch.empty(); });
  if (branches) headings.emplace_back("<branch");
  headings.emplace_back("cost");
  const std::vector<CostColumn> columns = cost_columns(target.wishes());
  for (const CostColumn& column : columns) headings.emplace_back(column.heading);
  for (const char* h : {"clear mm", "<nearest pair"}) headings.emplace_back(h);
  Table table(headings);
  for (std::size_t i = 0; i < std::min(most, solutions.size()); ++i) {
    const ReachSolution& s = solutions[i];
    std::vector<std::string> row{std::to_string(i + 1)};
    for (std::string& cell : joint_cells(arm, s.posture)) row.push_back(std::move(cell));
    if (branches) row.push_back(s.branch);
    row.push_back(fmt::format("{:.2f}", s.cost()));
    for (const CostColumn& column : columns)
      row.push_back(fmt::format("{:.2f}", column.weight * s.*column.part));
    row.push_back(s.nearest.first < 0 ? "-" : fmt::format("{:.1f}", to_mm(s.nearest.distance)));
    row.push_back(s.nearest.first < 0
                      ? "nothing to meet"
                      : query.name(s.nearest.first) + ", " + query.name(s.nearest.second));
    table.row(std::move(row));
  }
  std::string out = table.text();
  if (solutions.size() > most)
    out += fmt::format("  ... and {} more (--all lists them)\n", solutions.size() - most);
  if (branches && !branch_legend.empty()) out += "  " + branch_legend + "\n";
  if (std::any_of(solutions.begin(), solutions.end(),
                  [](const ReachSolution& one) { return !one.free_joint.empty(); }))
    out += fmt::format(
        "  singular: {} may be turned freely, other joints giving way; the posture nearest to the "
        "start is listed\n",
        solutions.front().free_joint);
  if (is_family) {
    const std::vector<std::string> open = target.leaves_open();
    const std::string spare = arm.dof() > 6 ? "nothing, but the arm has joints to spare"
                                            : "what its requirements do not hold";
    out += fmt::format(
        "  the target leaves open: {}; of a family without end each posture is the best of its "
        "kind\n",
        open.empty() ? spare : fmt::format("{}", fmt::join(open, ", ")));
  }
  if (starts > 0) {
    out += fmt::format("  {} of {} starts met the target", converged, starts);
  } else if (complete) {
    out += fmt::format("  {}: all postures there are; {} more beyond the joint ranges", form,
                       beyond_limits);
  } else if (is_family) {
    out += fmt::format("  {}, {}", form, looked_over);
  } else {
    out += fmt::format("  {}: not sure to be all; {} more beyond the joint ranges", form,
                       beyond_limits);
  }
  out += fmt::format("; {} further distinct posture{} too near something; {:.1f} ms\n", colliding,
                     colliding == 1 ? " was" : "s were", seconds * 1e3);
  double position = 0.0;
  double angle = 0.0;
  for (const ReachSolution& s : solutions) {
    position = std::max(position, s.position_error);
    angle = std::max(angle, s.angle_error);
  }
  return out + fmt::format(
                   "  by forward kinematics no posture is further off than {:.2g} um and "
                   "{:.2g} mdeg\n",
                   position * 1e6, to_deg(angle) * 1e3);
}

std::string Reach::explanation(const CellQuery& query, std::size_t most) const {
  std::string out = "  asked for:\n" + target.report("    ");
  for (std::size_t i = 1; i < std::min(most, solutions.size()); ++i)
    out += fmt::format("  1 before {}: {}\n", i + 1,
                       comparison(query.arm(), target.wishes(), solutions.front(), solutions[i]));
  return out + ways_there(query.arm(), *this, most) +
         clearance_by_link(with_meant_contacts(query, target), solutions.front());
}

std::string Reach::check(const CellQuery& query) const {
  const Arm& arm = query.arm();
  const TargetOnArm on_arm(arm, target);
  Table table({"#", "off um", "off mdeg", "<met"});
  for (std::size_t i = 0; i < solutions.size(); ++i) {
    const Posture& q = solutions[i].posture;
    const std::vector<Pose> links = link_poses(arm, q);
    const TargetOnArm::Error error = on_arm.error(q);
    double position = error.position;
    double angle = error.angle;
    for (int k = 0; k < on_arm.size(); ++k) {
      const Pose there = links[static_cast<std::size_t>(on_arm[k].link)] * on_arm[k].frame;
      const Pose solved = frame_pose(arm, on_arm[k].link, on_arm[k].frame, q);
      position += (there.position - solved.position).norm();
      angle += rotation_vector((there.inverse() * solved).rotation).norm();
    }
    table.row({std::to_string(i + 1), fmt::format("{:.2g}", 1e6 * position),
               fmt::format("{:.2g}", 1e3 * to_deg(angle)), on_arm.is_met(q) ? "yes" : "NO"});
  }
  return "  put back through the transforms of all links:\n" + table.text(4);
}

}  // namespace er
