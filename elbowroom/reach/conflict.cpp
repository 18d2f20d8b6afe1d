#include "elbowroom/reach/conflict.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "elbowroom/base/told.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/reach/side_by_side.hpp"

namespace er {
namespace {

// Weighed so little, a requirement gives way to all others and still comes as near as they let it.
constexpr double kFaint = 1e-3;
constexpr double kSpare = 3e-3;  // rad that a remedy gives more than is needed

bool can_be_met(const Arm& arm, const Target& target, int starts) {
  const TargetOnArm on_arm(arm, target);
  return on_arm.size() == 0 || posture_from_starts(on_arm, starts);
}

std::vector<std::string> names_on(const Target& target) {
  std::vector<std::string> names;
  for (const Requirement& one : target.requirements())
    if (one.on) names.push_back(one.name);
  return names;
}

// How far joint bands are left by a posture.
TargetOnArm::Error left_by(const Arm& arm, const JointBands& bands, const Posture& posture) {
  TargetOnArm::Error most;
  for (const JointBands::One& one : bands.joints)
    for (int k = 0; k < arm.dof(); ++k) {
      if (arm.moving_joint(k).name != one.joint) continue;
      double& part = one.slides ? most.position : most.angle;
      part = std::max(part, std::abs(one.value.outside(posture[k])));
    }
  return most;
}

// What a requirement is off by, at the least that was found, when the others are met.
std::optional<TargetOnArm::Error> left_over(const Arm& arm, const Target& target,
                                            const Requirement& requirement, int starts) {
  const JointBands* bands = std::get_if<JointBands>(&requirement.holds);
  Target others = target;
  others.switched(requirement.name, false);
  if (names_on(others).empty()) others = target;
  TargetOnArm all(arm, bands != nullptr ? others : target);
  TargetOnArm rest(arm, others);
  int index = -1;
  for (int i = 0; i < all.size(); ++i)
    if (all[i].requirement->name == requirement.name) index = i;
  if (index >= 0) all.weigh(index, kFaint);
  const bool alone = index >= 0 && all.size() == 1;
  std::optional<TargetOnArm::Error> least;
  double least_size = 0.0;
  SpreadSequence sequence = all.starts();
  for (int i = 0; i < starts; ++i) {
    NumericSolve solve = solve_from(all, sequence.next());
    // The faint wish leaves the others a little off; they are met from there.
    const Posture posture = alone ? solve.posture : solve_from(rest, solve.posture).posture;
    if (!alone && !rest.is_met(posture)) continue;
    const TargetOnArm::Error error =
        bands != nullptr ? left_by(arm, *bands, posture) : all.error_of(index, posture);
    const double size = error.position + 0.3 * error.angle;
    if (least && size >= least_size) continue;
    least = error;
    least_size = size;
  }
  return least;
}

std::string text_of(const TargetOnArm::Error& error) {
  const bool length = error.position > 1e-6;
  const bool angle = error.angle > 1e-6;
  if (length && angle)
    return fmt::format("{} and {}", text_length(error.position), text_angle(error.angle));
  return length ? text_length(error.position) : text_angle(error.angle);
}

std::string listed(const std::vector<std::string>& names) {
  std::string out;
  for (std::size_t i = 0; i < names.size(); ++i)
    out += fmt::format("{}'{}'", i == 0 ? "" : i + 1 == names.size() ? " and " : ", ", names[i]);
  return out;
}

Band widened(const Band& band, double by) { return {band.lower - by, band.upper + by}; }

}  // namespace

std::vector<std::string> conflicting_requirements(const Arm& arm, const Target& target,
                                                  int starts) {
  if (can_be_met(arm, target, starts)) return {};
  // Leaving one out after the other: what still cannot be met without it does not need it.
  Target left = target;
  for (const std::string& name : names_on(target)) {
    Target without = left;
    without.switched(name, false);
    if (names_on(without).empty()) break;
    if (!can_be_met(arm, without, starts)) left = std::move(without);
  }
  return names_on(left);
}

Requirement loosened(Requirement requirement, double metres, double radians) {
  if (AtPlace* place = std::get_if<AtPlace>(&requirement.holds)) {
    // A standoff with two ends is along the tool alone, where no other band may be.
    if (place->standoff.is_exact()) {
      for (Band& band : place->along) band = widened(band, metres);
    } else {
      place->standoff = widened(place->standoff, metres);
    }
    if (radians > 0.0) {
      place->tilt += radians;
      place->turn = widened(place->turn, radians);
    }
  } else if (InDirection* direction = std::get_if<InDirection>(&requirement.holds)) {
    direction->angle = {std::max(0.0, direction->angle.lower - radians),
                        direction->angle.upper + radians};
  } else if (AtDistance* distance = std::get_if<AtDistance>(&requirement.holds)) {
    distance->range = {std::max(0.0, distance->range.lower - metres),
                       distance->range.upper + metres};
  } else if (InRoom* room = std::get_if<InRoom>(&requirement.holds)) {
    for (Band& band : room->along) band = widened(band, metres);
  } else if (InSight* sight = std::get_if<InSight>(&requirement.holds)) {
    sight->cone += radians;
    sight->incidence += radians;
    sight->range = widened(sight->range, metres);
  } else if (JointBands* bands = std::get_if<JointBands>(&requirement.holds)) {
    for (JointBands::One& one : bands->joints)
      one.value = widened(one.value, one.slides ? metres : radians);
  }
  return requirement;
}

Reason explain_conflict(const CellQuery& query, const Target& target, const ReachOptions& options) {
  const Arm& arm = query.arm();
  const std::vector<std::string> names = conflicting_requirements(arm, target, options.starts);
  if (names.empty())
    return {
        Cause::out_of_reach,
        "no: no posture was found, though the requirements can be met; more starts may find one",
        {}};
  Target at_odds = target;
  for (const std::string& name : names_on(target))
    at_odds.switched(name, std::find(names.begin(), names.end(), name) != names.end());
  Reason reason{Cause::at_odds, {}, {{"requirements", static_cast<double>(names.size()), ""}}};
  reason.text = names.size() == 1
                    ? fmt::format("no: requirement {} cannot be met", listed(names))
                    : fmt::format(
                          "no: requirements {} cannot be met together, though without any "
                          "one of them the others can",
                          listed(names));
  for (const Requirement& one : target.requirements()) {
    if (std::find(names.begin(), names.end(), one.name) == names.end()) continue;
    const auto error = left_over(arm, at_odds, one, options.starts);
    if (!error) continue;
    reason.details.push_back(fmt::format(
        "{} ({}) {} {}", one.name, one.text(),
        names.size() == 1 ? "comes no nearer than" : "is, with the others met, off by at least",
        text_of(*error)));
    Target changed = target;
    const double metres =
        error->position > 1e-6 ? told_above(1.05 * error->position + 1e-3, kToldLength) : 0.0;
    const double radians =
        error->angle > 1e-6 ? told_above(1.05 * error->angle + kSpare, kToldAngle) : 0.0;
    changed.changed(loosened(one, metres, radians));
    ReachOptions again = options;
    again.find_remedies = false;
    if (reach(query, changed, again))
      reason.remedies.push_back(
          {fmt::format("loosen '{}' by {}", one.name, text_of({metres, radians}))});
  }
  return reason;
}

}  // namespace er
