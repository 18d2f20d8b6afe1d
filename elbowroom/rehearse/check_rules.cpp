#include "elbowroom/rehearse/check_rules.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/units.hpp"
#include "elbowroom/model/shape.hpp"
#include "elbowroom/rehearse/drift.hpp"

namespace er {
namespace {

constexpr int kMostHalvingsOfMove = 45;

// What a rule asks for when all of it is to hold however a frame drifts from where it is in the
// middle of a stretch. False where nothing is left of it.
bool draw_in(Band& band, double by) {
  by = std::max(by - kRulesKeptTo, 0.0);
  band.lower += by;
  band.upper -= by;
  return band.lower <= band.upper;
}

bool drawn_in(AtPlace& rule, const Pose&, const Drift& drift) {
  // With a standoff it is a point beside the origin that is in place.
  const double beside = std::max(std::abs(rule.standoff.lower), std::abs(rule.standoff.upper));
  const double travel = drift.travel + beside * drift.turn;
  for (Band& band : rule.along)
    if (!draw_in(band, travel)) return false;
  if (!rule.standoff.is_exact() && !draw_in(rule.standoff, travel)) return false;
  rule.tilt -= std::max(drift.turn - kRulesKeptTo, 0.0);
  return rule.tilt >= 0.0;
}

bool drawn_in(InDirection& rule, const Pose& frame, const Drift& drift) {
  double turn = drift.turn;
  if (rule.at_point) {
    const double away = (rule.point - frame.position).norm();
    if (away <= drift.travel) return false;
    turn += std::asin(drift.travel / away);
  }
  // No angle is below zero or beyond half a turn.
  Band& band = rule.angle;
  const double by = std::max(turn - kRulesKeptTo, 0.0);
  if (band.lower > 0.0) band.lower += by;
  if (band.upper < kTurn / 2) band.upper -= by;
  return band.lower <= band.upper;
}

bool drawn_in(AtDistance& rule, const Pose&, const Drift& drift) {
  return draw_in(rule.range, drift.travel);
}

bool drawn_in(InRoom& rule, const Pose&, const Drift& drift) {
  return std::all_of(rule.along.begin(), rule.along.end(),
                     [&](Band& band) { return draw_in(band, drift.travel); });
}

bool drawn_in(InSight&, const Pose&, const Drift&) { return false; }
bool drawn_in(JointBands&, const Pose&, const Drift&) { return true; }

// How far any point of what is on a link is from a point of it.
double radius_about(const Link& link, const Vector3& point) {
  double most = 0.0;
  for (const Part& part : link.parts) {
    const BoundingBall ball = bounding_ball(part.shape);
    most = std::max(most, (part.at * ball.middle - point).norm() + ball.radius);
  }
  return most;
}

class RuleCheck {
 public:
  RuleCheck(const Arm& arm, const TargetOnArm::Bound& bound, const Posture& from, const Posture& to)
      : arm_(arm), bound_(bound), from_(from), step_(to - from) {
    const auto* room = std::get_if<InRoom>(&bound.requirement->holds);
    if (room != nullptr && room->whole_link)
      radius_ =
          radius_about(arm.links()[static_cast<std::size_t>(bound.link)], bound.frame.position);
  }

  // The share of the line at which it is broken, or not shown to hold; -1: nowhere.
  double broken_at(long& looks) { return check(0.0, 1.0, 0, looks); }
  // By how much, there.
  [[nodiscard]] ErrorRows off_at(double share) const {
    ErrorRows rows;
    const Posture q = from_ + share * step_;
    rows_of(*bound_.requirement, frame_pose(arm_, bound_.link, bound_.frame, q), rows);
    return rows;
  }

 private:
  void rows_of(const Requirement& rule, const Pose& frame, ErrorRows& rows) const {
    error_rows(rule, frame, arm_.links()[static_cast<std::size_t>(bound_.link)], bound_.frame,
               rows);
  }

  double check(double from, double to, int halvings, long& looks) {
    ++looks;
    const double middle = 0.5 * (from + to);
    const auto poses = link_poses(arm_, from_ + middle * step_);
    const Pose frame = poses[static_cast<std::size_t>(bound_.link)] * bound_.frame;
    ErrorRows rows;
    rows_of(*bound_.requirement, frame, rows);
    if (rows.position() > kRulesKeptTo || rows.angle() > kRulesKeptTo) return middle;
    Requirement inside = *bound_.requirement;
    const auto axis_at = [&](int l) {
      const Pose& at = poses[static_cast<std::size_t>(l)];
      return JointAxis{at.position,
                       at.rotation * arm_.links()[static_cast<std::size_t>(l)].joint.axis};
    };
    const Drift drift = drift_within(arm_, bound_.link, -1, step_, 0.5 * (to - from),
                                     frame.position, radius_, axis_at);
    if (std::visit([&](auto& one) { return drawn_in(one, frame, drift); }, inside.holds)) {
      rows = {};
      rows_of(inside, frame, rows);
      if (rows.position() == 0.0 && rows.angle() == 0.0) return -1.0;
    }
    if (halvings == kMostHalvingsOfMove) return middle;
    const double first = check(from, middle, halvings + 1, looks);
    return first >= 0.0 ? first : check(middle, to, halvings + 1, looks);
  }

  const Arm& arm_;
  const TargetOnArm::Bound& bound_;
  const Posture& from_;
  Posture step_;
  double radius_ = 0.0;
};

Reason rule_broken(const Requirement& rule, std::size_t move, double share, const ErrorRows& off) {
  const bool broken = off.position() > kRulesKeptTo || off.angle() > kRulesKeptTo;
  const std::string where = fmt::format("at {:.2f} % of move {}", 100.0 * share, move + 1);
  const std::string text =
      broken ? fmt::format("no: rule '{}' is not kept {}: off by {}", rule.name, where,
                           off.angle() > kRulesKeptTo ? text_angle(off.angle())
                                                      : text_length(off.position()))
             : fmt::format("no: rule '{}' could not be shown to hold {}", rule.name, where);
  return {Cause::not_proved, text, {{"line", static_cast<double>(move), ""}, {"at", share, ""}}};
}

// Bands of joints hold between two postures that keep them.
std::optional<Reason> joints_beyond(const TargetOnArm& rules, const Posture& posture,
                                    std::size_t waypoint) {
  for (Eigen::Index k = 0; k < posture.size(); ++k)
    if (posture[k] < rules.lower()[k] - kRulesKeptTo ||
        posture[k] > rules.upper()[k] + kRulesKeptTo)
      return Reason{Cause::not_proved,
                    fmt::format("no: joint {} leaves the band of a rule at waypoint {}",
                                rules.arm().moving_joint(static_cast<int>(k)).name, waypoint + 1)};
  return std::nullopt;
}

}  // namespace

Verdict<CheckedRules> check_rules(const Arm& arm, const std::vector<Requirement>& rules,
                                  const std::vector<Posture>& waypoints) {
  Target all;
  CheckedRules out;
  for (const Requirement& rule : rules) {
    if (!rule.on) continue;
    all.require(rule);
    ++out.rules;
  }
  if (out.rules == 0) return out;
  const TargetOnArm on_arm(arm, all);
  for (std::size_t i = 0; i < waypoints.size(); ++i)
    if (auto reason = joints_beyond(on_arm, waypoints[i], i)) return *reason;
  for (std::size_t move = 0; move + 1 < waypoints.size(); ++move)
    for (int r = 0; r < on_arm.size(); ++r) {
      RuleCheck check(arm, on_arm[r], waypoints[move], waypoints[move + 1]);
      if (const double share = check.broken_at(out.looks); share >= 0.0)
        return rule_broken(*on_arm[r].requirement, move, share, check.off_at(share));
    }
  return out;
}

}  // namespace er
