#include "elbowroom/collision/inspection.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>

#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/cover.hpp"
#include "elbowroom/kinematics/reach_bound.hpp"
#include "elbowroom/model/surface.hpp"

namespace er {
namespace {

std::string text_limit(const Joint& joint, double value, int derivative) {
  if (!std::isfinite(value)) return "not stated";
  static constexpr std::array kSuffix{"", "/s", "/s^2", "/s^3"};
  const bool slides = joint.kind == JointKind::prismatic;
  return fmt::format("{:.0f} {}{}", slides ? to_mm(value) : to_deg(value), slides ? "mm" : "deg",
                     kSuffix[static_cast<std::size_t>(derivative)]);
}

double reach_of_tip(const Arm& arm) {
  const Vector3 tip =
      arm.tools().empty() ? Vector3(Vector3::Zero()) : arm.tools().front().tip.position;
  return reach_bound(arm, arm.end_link(), tip).distance;
}

// The joints one by one through their ranges, with nothing but the arm itself to meet.
void run_joints(const Cell& cell, ArmInspection& out) {
  const Arm& arm = out.arm;
  Posture from = Posture::Zero(arm.dof());
  out.run_from = "zero";
  if (const Posture* home = arm.find_stance("home")) {
    from = *home;
    out.run_from = "home";
  }
  if (!arm.limit_breach(from).empty()) return;
  CellDescription alone;
  alone.arms = {arm};
  for (const MeantContact& contact : cell.contacts()) {
    const std::string prefix = arm.name() + ".";
    if (contact.first.rfind(prefix, 0) == 0 && contact.second.rfind(prefix, 0) == 0)
      alone.contacts.push_back(contact);
  }
  const CellQuery query(Cell::build(alone), arm.name());
  for (int k = 0; k < arm.dof(); ++k) out.runs.push_back(run_joint(query, from, k));
}

ArmInspection inspect_arm(const Cell& cell, const Arm& arm, std::vector<Finding>& findings) {
  ArmInspection out{.arm = arm, .reach_bound = reach_of_tip(arm)};
  for (Finding& finding : findings_of(cell, arm)) findings.push_back(std::move(finding));
  for (const Link& link : arm.links()) {
    out.mass += link.inertial.mass;
    if (!(link.inertial.mass > 0.0)) out.without_mass.push_back(link.name);
  }
  const bool has_levers = arm.search_lower().allFinite() && arm.search_upper().allFinite();
  if (has_levers) run_joints(cell, out);
  const CellQuery query(cell, arm.name());
  out.checked_self_pairs = static_cast<int>(query.pairs().self.size());
  for (const auto& [a, b] : query.pairs().joined_links)
    out.joined.emplace_back(link_name(arm, a), link_name(arm, b));
  for (const Stance& stance : arm.stances()) {
    StanceCheck check{
        stance.name, {}, arm.limit_breach(stance.posture), query.nearest(stance.posture), {}};
    check.tip = arm.tools().empty() ? link_poses(arm, stance.posture).back()
                                    : tool_pose(arm, arm.tools().front(), stance.posture);
    check.nearest_text = query.describe(check.nearest);
    const std::string subject = fmt::format("{}, stance {}", arm.name(), stance.name);
    if (!check.limit_breach.empty())
      findings.push_back({Severity::wrong, subject, check.limit_breach,
                          "move the stance within the range, or correct the range", stance.place});
    if (check.nearest.distance <= 0.0)
      findings.push_back({Severity::wrong, subject, check.nearest_text,
                          "move the stance, or list the pair under contacts: if it is meant",
                          stance.place});
    out.stances.push_back(std::move(check));
  }
  return out;
}

std::string tree_text(const Arm& arm) {
  std::string out;
  const std::function<void(int, int)> walk = [&](int link, int depth) {
    const Link& here = arm.links()[static_cast<std::size_t>(link)];
    const std::string joint =
        depth == 0
            ? fmt::format("stands at [{:.0f}, {:.0f}, {:.0f}] mm", to_mm(arm.mount().position.x()),
                          to_mm(arm.mount().position.y()), to_mm(arm.mount().position.z()))
            : fmt::format("{} {}", name_of(here.joint.kind), here.joint.name);
    out += fmt::format("  {:<{}}{:<{}}  {}\n", "", 2 * depth, here.name, 26 - 2 * depth, joint);
    for (std::size_t k = 0; k < arm.links().size(); ++k)
      if (arm.links()[k].parent_index == link) walk(static_cast<int>(k), depth + 1);
  };
  walk(0, 0);
  return out;
}

// "-60 to 90 deg/s" where the limit differs by the way.
std::string text_ways(const Joint& joint, double either, const std::optional<WayLimits>& ways,
                      int derivative) {
  if (!ways) return text_limit(joint, either, derivative);
  const bool slides = joint.kind == JointKind::prismatic;
  return fmt::format("{:.0f} to {}", slides ? to_mm(ways->low) : to_deg(ways->low),
                     text_limit(joint, ways->high, derivative));
}

std::string joint_table(const Arm& arm) {
  Table joints({"<joint", "<kind", "<axis at zero", "from", "to", "velocity", "acceleration",
                "jerk", "torque"});
  const auto zero = link_poses(arm.mounted_at({}), Posture::Zero(arm.dof()));
  for (std::size_t i = 0; i < arm.links().size(); ++i) {
    const Link& link = arm.links()[i];
    if (link.posture_index < 0) continue;
    const Joint& j = link.joint;
    const bool slides = j.kind == JointKind::prismatic;
    std::string kind = j.continuous ? "continuous" : std::string(name_of(j.kind));
    if (!j.follow.joint.empty())
      kind = fmt::format("{:g} x {}", j.follow.ratio, j.follow.joint) +
             (j.follow.offset == 0.0 ? "" : " + " + text_value(j, j.follow.offset));
    // What is in force, also where followers or a hold tighten it.
    const JointLimits limits =
        j.follow.joint.empty() ? arm.limits_of(link.posture_index) : j.limits;
    const auto range = [&](double limit) {
      return j.continuous ? std::string("endless") : text_limit(j, limit, 0);
    };
    joints.row({j.name, kind, text_direction(zero[i].rotation * j.axis), range(limits.lower),
                range(limits.upper), text_ways(j, limits.velocity, limits.velocity_ways, 1),
                text_ways(j, limits.acceleration, limits.acceleration_ways, 2),
                text_limit(j, limits.jerk, 3),
                std::isfinite(limits.torque)
                    ? fmt::format("{:g} {}", limits.torque, slides ? "N" : "N m")
                    : "not stated"});
  }
  return joints.text();
}

// Which joints meet the rest of the arm within their range.
std::string run_report(const ArmInspection& one) {
  if (one.runs.empty()) return {};
  std::string out;
  for (std::size_t k = 0; k < one.runs.size(); ++k) {
    const Joint& joint = one.arm.moving_joint(static_cast<int>(k));
    const JointRun& run = one.runs[k];
    if (!run.met_below.empty())
      out += fmt::format("    {} meets below {}: {}\n", joint.name, text_value(joint, run.lower),
                         run.met_below);
    if (!run.met_above.empty())
      out += fmt::format("    {} meets above {}: {}\n", joint.name, text_value(joint, run.upper),
                         run.met_above);
  }
  if (out.empty())
    return fmt::format(
        "\n  each joint alone, from {}: free of the rest of the arm over its range\n",
        one.run_from);
  return fmt::format("\n  each joint alone, from {}, against the rest of the arm:\n{}",
                     one.run_from, out);
}

std::string mass_report(const ArmInspection& one) {
  if (one.mass == 0.0) return "\n  no mass is stated\n";
  std::string out = fmt::format("\n  mass {:.3g} kg", one.mass);
  if (!one.without_mass.empty())
    out += fmt::format(", without {}", fmt::join(one.without_mass, ", "));
  return out + "\n";
}

std::string arm_report(const ArmInspection& one) {
  const Arm& arm = one.arm;
  std::string out = fmt::format(
      "\n{}: {} links, {} moving joints, tip never further than {:.0f} mm from its first joint\n",
      arm.name(), arm.links().size(), arm.dof(), to_mm(one.reach_bound));
  out += tree_text(arm);
  out += '\n' + joint_table(arm) + run_report(one) + mass_report(one);
  if (!one.stances.empty()) {
    Table stances({"<stance", "x mm", "y mm", "z mm", "<nearest pair"});
    for (const StanceCheck& s : one.stances) {
      const Vector3 tip = without_rounding(s.tip).position;
      stances.row({s.name, fmt::format("{:.1f}", to_mm(tip.x())),
                   fmt::format("{:.1f}", to_mm(tip.y())), fmt::format("{:.1f}", to_mm(tip.z())),
                   s.nearest_text});
    }
    out += fmt::format("\n{} (tip of {})\n", "  stances",
                       arm.tools().empty() ? "the last link" : arm.tools().front().name);
    out += stances.text();
  }
  std::vector<std::string> joined;
  for (const auto& [a, b] : one.joined)
    joined.push_back(a.substr(arm.name().size() + 1) + "-" + b.substr(arm.name().size() + 1));
  out += fmt::format("\n  {} of its own {} checked\n", one.checked_self_pairs,
                     one.checked_self_pairs == 1 ? "pair of parts is" : "pairs of parts are");
  if (one.cover_balls > 0)
    out += fmt::format(
        "  looked at first as {} ball{}, which stand out of its shapes by {} at most ({})\n",
        one.cover_balls, one.cover_balls == 1 ? "" : "s", text_length(one.cover_bulge),
        one.cover_widest_at);
  out += wrapped_list("  never checked, being joined: ", joined);
  return out;
}

void measure_covers(ArmInspection& out) {
  for (const Link& link : out.arm.links())
    for (const Part& part : link.parts) {
      if (!part.collides) continue;
      const Cover cover = cover_of(part.shape);
      const double bulge = bulge_of(cover, part.shape);
      out.cover_balls += leaves_of(cover);
      if (bulge <= out.cover_bulge) continue;
      out.cover_bulge = bulge;
      out.cover_widest_at = link.name;
    }
}

// Parts from files whose size says that their unit is another.
void check_sizes(const std::string& subject, const std::vector<Part>& parts, const Place& place,
                 std::vector<Finding>& findings) {
  constexpr double kNotSmall = 0.01;  // m
  for (const Part& part : parts) {
    const FileOrigin* from = origin_of(part.shape);
    if (from == nullptr || from->file.empty()) continue;
    const AlignedBox box = own_box(part.shape);
    double size = (box.high - box.low).norm();
    if (!from->bodies.empty()) size = std::max(size, kNotSmall);  // one may be as small as a washer
    const std::string doubt = unit_doubt(size, from->scale.x());
    if (!doubt.empty())
      findings.push_back({Severity::wrong, subject,
                          fmt::format("its {} of '{}': {}", name_of(part.shape), from->file, doubt),
                          "say unit: beside file:", place});
  }
}

}  // namespace

Inspection inspect(const Cell& cell) {
  Inspection out;
  out.cell = cell.name();
  out.fixtures = static_cast<int>(cell.fixtures().size());
  out.pieces = static_cast<int>(cell.pieces().size());
  out.zones = static_cast<int>(cell.zones().size());
  out.contacts = cell.contacts();
  for (const auto* bodies : {&cell.fixtures(), &cell.pieces()})
    for (const Body& body : *bodies)
      out.standing_parts += static_cast<int>(std::count_if(
          body.parts.begin(), body.parts.end(), [](const Part& p) { return p.collides; }));
  if (cell.arms().empty())
    out.findings.push_back({Severity::missing, "cell", "it has no arm", "add one under arms:", {}});
  for (const Note& note : cell.notes())
    out.findings.push_back({Severity::odd, note.subject, note.text, note.advice, note.place});
  for (const auto* bodies : {&cell.fixtures(), &cell.pieces()})
    for (const Body& body : *bodies) check_sizes(body.name, body.parts, {}, out.findings);
  for (const Arm& arm : cell.arms()) {
    for (const Link& link : arm.links())
      check_sizes(arm.name() + "." + link.name, link.parts, link.place, out.findings);
    out.arms.push_back(inspect_arm(cell, arm, out.findings));
    measure_covers(out.arms.back());
  }
  std::stable_sort(out.findings.begin(), out.findings.end(),
                   [](const Finding& a, const Finding& b) { return a.severity < b.severity; });
  return out;
}

std::string Inspection::summary() const {
  const auto plural = [](auto count) { return count == 1 ? "" : "s"; };
  const auto count = [&](Severity severity) {
    return std::count_if(findings.begin(), findings.end(),
                         [&](const Finding& f) { return f.severity == severity; });
  };
  const std::string what = fmt::format(
      "{}: {} arm{}, {} fixture{}, {} piece{}{}", cell.empty() ? "cell" : cell, arms.size(),
      plural(arms.size()), fixtures, plural(fixtures), pieces, plural(pieces),
      zones == 0 ? "" : fmt::format(", {} zone{}", zones, plural(zones)));
  if (findings.empty()) return what + "; nothing wrong, missing or odd found";
  return fmt::format("{}; {} wrong, {} missing, {} odd", what, count(Severity::wrong),
                     count(Severity::missing), count(Severity::odd));
}

std::string Inspection::report() const {
  std::string out = summary() + "\n";
  for (const Finding& f : findings)
    out += fmt::format("  {:<8}{}: {}{}\n          {}\n", name_of(f.severity), f.subject, f.text,
                       f.place.line > 0 ? fmt::format(" ({})", f.place.text()) : "", f.advice);
  for (const ArmInspection& arm : arms) out += arm_report(arm);
  std::vector<std::string> pairs;
  for (const MeantContact& contact : contacts)
    pairs.push_back(contact.first + "-" + contact.second);
  return out + wrapped_list("  never checked, being meant: ", pairs);
}

}  // namespace er
