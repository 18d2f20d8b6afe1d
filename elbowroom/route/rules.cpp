#include "elbowroom/route/rules.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <type_traits>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/checked_pairs.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/core_shape.hpp"
#include "elbowroom/reach/numeric.hpp"

namespace er {
namespace {

constexpr double kPi = std::numbers::pi;
constexpr double kInfinity = std::numeric_limits<double>::infinity();
constexpr double kRounding = 1e-9;          // m or rad that is always kept to spare
constexpr double kLeastHalf = 1.0 / 65536;  // of a line: what is still open then counts as broken
constexpr double kDrawnIn = 0.3;            // of half a band's width
constexpr double kMostDrawnIn = 0.02;       // m
constexpr double kMostTurnedIn = 0.2;       // rad

double angle_between(const Vector3& a, const Vector3& b) {
  return std::atan2(a.cross(b).norm(), a.dot(b));
}

// What is to spare within a band when the value may change by `change`.
double within(const Band& band, double value, double change) {
  return std::min(band.upper - value, value - band.lower) - change;
}
// An angle can neither fall below 0 nor rise above half a turn.
double angle_within(const Band& band, double angle, double change) {
  const double above = band.upper >= kPi ? kPi : band.upper - angle - change;
  const double below = band.lower <= 0.0 ? kPi : angle - band.lower - change;
  return std::min(above, below);
}

Band drawn_in(const Band& band, double most) {
  if (!std::isfinite(band.upper - band.lower)) {
    Band out = band;
    if (std::isfinite(out.lower)) out.lower += most;
    if (std::isfinite(out.upper)) out.upper -= most;
    return out;
  }
  const double by = std::min(most, 0.5 * kDrawnIn * (band.upper - band.lower));
  return {band.lower + by, band.upper - by};
}
// The lower end of an angle up to something is no edge to keep off.
Band angle_drawn_in(const Band& band) {
  Band out = drawn_in(band, kMostTurnedIn);
  if (band.lower <= 0.0) out.lower = band.lower;
  if (band.upper >= kPi) out.upper = band.upper;
  return out;
}

[[noreturn]] void refuse(const Requirement& rule, const std::string& why,
                         const std::string& advice) {
  throw InputError(fmt::format("rule '{}' {}", rule.name, why), advice);
}

void expect_room(const Requirement& rule, const Band& band, const char* what) {
  if (band.is_exact())
    refuse(rule, fmt::format("holds {} exactly, and a route needs room", what),
           "give it a band, or an angle");
}

void expect_rule(const Requirement& rule, const AtPlace& place) {
  for (const Band& band : place.along) expect_room(rule, band, "the place");
  if (!place.standoff.is_exact())
    refuse(rule, "has a standoff in a band", "ask for a distance to the point");
  if (place.tilt == kAnyTilt) return;
  if (place.tilt == 0.0 || !place.turn.is_free())
    refuse(rule, "holds the orientation, or the turn about an axis, and a route needs room",
           "say how far an axis may lean: direction, with an angle");
}
void expect_rule(const Requirement& rule, const InDirection& direction) {
  if (direction.angle.upper == 0.0 || direction.angle.is_exact())
    refuse(rule, "holds a direction exactly, and a route needs room", "give it an angle: 5 deg");
}
void expect_rule(const Requirement& rule, const AtDistance& distance) {
  expect_room(rule, distance.range, "a distance");
}
void expect_rule(const Requirement& rule, const InRoom& room) {
  for (const Band& band : room.along) expect_room(rule, band, "a coordinate");
}
void expect_rule(const Requirement& rule, const InSight&) {
  refuse(rule, "is about sight, which is not looked at on the way",
         "hold the direction to the point: direction, at and angle");
}
void expect_rule(const Requirement& rule, const JointBands& bands) {
  for (const JointBands::One& one : bands.joints) expect_room(rule, one.value, "a joint");
}

void draw_in(AtPlace& place) {
  for (Band& band : place.along) band = drawn_in(band, kMostDrawnIn);
  if (std::isfinite(place.tilt)) place.tilt = angle_drawn_in(Band::up_to(place.tilt)).upper;
}
void draw_in(InDirection& direction) { direction.angle = angle_drawn_in(direction.angle); }
void draw_in(AtDistance& distance) { distance.range = drawn_in(distance.range, kMostDrawnIn); }
void draw_in(InRoom& room) {
  for (Band& band : room.along) band = drawn_in(band, kMostDrawnIn);
}
void draw_in(InSight&) {}
void draw_in(JointBands&) {}

// A frame, by how much it may move (m) and turn (rad), and the link that it is on.
struct Seen {
  const Pose& frame;
  double travel;
  double turn;
  const Link& link;
  Pose link_pose;
};

// What is to spare of each kind of rule, m or rad.
double spare_in_box(const Pose& at, const std::array<Band, 3>& along, const Vector3& point,
                    double travel) {
  double least = kInfinity;
  for (int k = 0; k < 3; ++k)
    least = std::min(least, within(along[static_cast<std::size_t>(k)],
                                   at.rotation.col(k).dot(point - at.position), travel));
  return least;
}

double spare_of(const AtPlace& place, const Seen& seen) {
  const Vector3 axis = seen.frame.rotation * place.axis;
  const double inside = spare_in_box(
      place.at, place.along, seen.frame.position + place.standoff.lower * axis, seen.travel);
  if (!std::isfinite(place.tilt)) return inside;
  return std::min(inside,
                  angle_within(Band::up_to(place.tilt),
                               angle_between(axis, place.at.rotation * place.axis), seen.turn));
}

double spare_of(const InDirection& direction, const Seen& seen) {
  const Vector3 axis = seen.frame.rotation * direction.axis;
  if (!direction.at_point)
    return angle_within(direction.angle, angle_between(axis, direction.along), seen.turn);
  // The way to the point swings by what the frame moves across it, too.
  const Vector3 way = direction.point - seen.frame.position;
  const double distance = way.norm();
  if (distance == 0.0) return -kPi;
  const double swing = seen.travel < distance ? std::asin(seen.travel / distance) : kPi;
  return angle_within(direction.angle, angle_between(axis, way), seen.turn + swing);
}

double spare_of(const AtDistance& distance, const Seen& seen) {
  return within(distance.range, (seen.frame.position - distance.point).norm(), seen.travel);
}

double spare_of(const InRoom& room, const Seen& seen) {
  if (!room.whole_link) return spare_in_box(room.at, room.along, seen.frame.position, seen.travel);
  double least = kInfinity;
  for (const Part& part : seen.link.parts) {
    if (!part.collides) continue;
    const CoreShape shape(part.shape, seen.link_pose * part.at);
    for (int k = 0; k < 3; ++k)
      for (const double sense : {1.0, -1.0}) {
        const Vector3 outward = sense * room.at.rotation.col(k);
        const Band& band = room.along[static_cast<std::size_t>(k)];
        const double limit = sense > 0.0 ? band.upper : -band.lower;
        const double height = shape.furthest(outward) - outward.dot(room.at.position);
        least = std::min(least, limit - height - seen.travel);
      }
  }
  return least;
}

// Sight is refused; bands of joints are looked at by themselves.
double spare_of(const InSight&, const Seen&) { return -kInfinity; }
double spare_of(const JointBands&, const Seen&) { return kInfinity; }

// rad that a link turns per unit of each entry, whatever the posture: no joint turns it by more.
Posture turn_of(const Arm& arm, int link) {
  Posture out = Posture::Zero(arm.dof());
  for (int at = link; at >= 0; at = arm.links()[static_cast<std::size_t>(at)].parent_index) {
    const Link& one = arm.links()[static_cast<std::size_t>(at)];
    if (one.posture_index >= 0 && one.joint.kind == JointKind::revolute)
      out[one.posture_index] += std::abs(one.posture_ratio);
  }
  return out;
}

// The point of the frame that a rule is about: its origin, or ahead of it by a standoff.
Vector3 point_of(const Requirement& rule) {
  const AtPlace* place = std::get_if<AtPlace>(&rule.holds);
  return place == nullptr ? Vector3::Zero() : Vector3(place->standoff.lower * place->axis);
}

// The axis of the frame that it is about; zero where it is about none.
Vector3 axis_of(const Requirement& rule) {
  if (const AtPlace* place = std::get_if<AtPlace>(&rule.holds)) return place->axis;
  const InDirection* direction = std::get_if<InDirection>(&rule.holds);
  return direction == nullptr ? Vector3::Zero() : direction->axis;
}

bool is_about_whole_link(const Requirement& rule) {
  const InRoom* room = std::get_if<InRoom>(&rule.holds);
  return room != nullptr && room->whole_link;
}

// How far a point may move and an axis turn along a joint line that is gone in unit time, within
// `span` before and after an instant at which its speed is known. What the joints can do to it at
// most, V = sum of |lever dq| and S = sum of |turn dq|, bounds the speed; the acceleration is a sum
// over pairs of joints, the inner one turning what the outer one does: at most 2 S V for the point
// and S^2 for the axis.
class LineBounds {
 public:
  LineBounds(double travel, double turn) : travel_(travel), turn_(turn) {}
  [[nodiscard]] double travel(double span, double speed) const {
    return std::min(span * travel_, span * (speed + span * turn_ * travel_));
  }
  [[nodiscard]] double turn(double span, double speed) const {
    return std::min(span * turn_, span * (speed + 0.5 * span * turn_ * turn_));
  }

 private:
  double travel_;
  double turn_;
};

}  // namespace

void check_rule(const Arm& arm, const Requirement& rule) {
  check_requirement(rule);
  std::visit([&](const auto& one) { expect_rule(rule, one); }, rule.holds);
  const Target alone = Target{}.require(rule);
  static_cast<void>(TargetOnArm(arm, alone));
}

std::string kept_text(const Requirement& rule) {
  return fmt::format("'{}': {}", rule.name, rule.text());
}

Rules::Rules(const CellQuery& query, const std::vector<Requirement>& requirements)
    : query_(query), requirements_(requirements) {
  std::erase_if(requirements_, [](const Requirement& one) { return !one.on; });
  if (requirements_.empty()) return;
  const Arm& arm = query_.arm();
  for (const Requirement& rule : requirements_) {
    check_rule(arm, rule);
    Requirement inside = rule;
    std::visit([](auto& one) { draw_in(one); }, inside.holds);
    inside.position_tolerance = std::max(inside.position_tolerance, 1e-3);
    inside.angle_tolerance = std::max(inside.angle_tolerance, 1e-3);
    inside_.require(inside);
  }
  projection_.emplace(arm, inside_);
  int next = 0;
  for (std::size_t i = 0; i < requirements_.size(); ++i) {
    const Requirement& rule = requirements_[i];
    if (const auto* bands = std::get_if<JointBands>(&rule.holds)) {
      for (const JointBands::One& one : bands->joints)
        joint_checks_.push_back({static_cast<int>(i), arm.find_moving_joint(one.joint), one.value});
      continue;
    }
    const TargetOnArm::Bound& bound = (*projection_)[next++];
    Check check{static_cast<int>(i), bound.link, bound.frame,
                lever_of_point(arm, bound.link, bound.frame * point_of(rule)),
                turn_of(arm, bound.link)};
    if (is_about_whole_link(rule))
      for (const MovingPart& part : query_.pairs().moving)
        if (part.link == bound.link) check.lever = check.lever.cwiseMax(part.lever);
    checks_.push_back(std::move(check));
  }
}

double Rules::spare(const Check& check, const Pose& frame, double travel, double turn) const {
  const Seen seen{frame, travel, turn, query_.arm().links()[static_cast<std::size_t>(check.link)],
                  frame * check.frame.inverse()};
  return std::visit([&](const auto& one) { return spare_of(one, seen); },
                    requirements_[static_cast<std::size_t>(check.rule)].holds) -
         kRounding;
}

int Rules::broken_at(const PostureRef& posture) const {
  for (const Check& check : checks_)
    if (spare(check, frame_pose(query_.arm(), check.link, check.frame, posture), 0.0, 0.0) < 0.0)
      return check.rule;
  for (const JointCheck& check : joint_checks_)
    if (std::abs(check.band.outside(posture[check.entry])) > kRounding) return check.rule;
  return -1;
}

int Rules::broken_between(const PostureRef& from, const PostureRef& to) const {
  // Bands of joints hold between two postures that keep them.
  for (const PostureRef& end : {from, to})
    if (const int broken = broken_at(end); broken >= 0) return broken;
  for (const Check& check : checks_)
    if (!is_kept_between(check, from, to)) return check.rule;
  return -1;
}

bool Rules::is_kept_between(const Check& check, const PostureRef& from,
                            const PostureRef& to) const {
  const Posture way = to - from;
  const Requirement& rule = requirements_[static_cast<std::size_t>(check.rule)];
  const LineBounds line(check.lever.dot(way.cwiseAbs()), check.turn.dot(way.cwiseAbs()));
  const bool one_point = !is_about_whole_link(rule);
  Jacobian jacobian;
  double half = 0.5;
  for (double at = 0.0; at < 1.0;) {
    const Posture middle = from + (at + half) * way;
    const Pose frame = frame_jacobian(query_.arm(), check.link, check.frame, middle, jacobian);
    const Eigen::Matrix<double, 6, 1> speed = jacobian * way;
    const Vector3 turning = speed.tail<3>();
    const double point_speed =
        one_point ? (speed.head<3>() + turning.cross(frame.rotation * point_of(rule))).norm()
                  : kInfinity;
    const double axis_speed = turning.cross(frame.rotation * axis_of(rule)).norm();
    const auto is_kept_within = [&](double span) {
      return spare(check, frame, line.travel(span, point_speed), line.turn(span, axis_speed)) >=
             0.0;
    };
    if (is_kept_within(half)) {
      at += 2.0 * half;
      if (is_kept_within(2.0 * half)) half *= 2.0;
      half = std::min(half, 0.5 * (1.0 - at));
    } else {
      if (spare(check, frame, 0.0, 0.0) < 0.0) return false;
      do half *= 0.5;
      while (half >= kLeastHalf && !is_kept_within(half));
      if (half < kLeastHalf) return false;
    }
  }
  return true;
}

std::string Rules::fault_of(const PostureRef& posture) const {
  const int broken = broken_at(posture);
  if (broken < 0) return "";
  const Requirement& rule = requirements_[static_cast<std::size_t>(broken)];
  std::string off;
  for (const Check& check : checks_) {
    if (check.rule != broken) continue;
    ErrorRows rows;
    error_rows(rule, frame_pose(query_.arm(), check.link, check.frame, posture),
               query_.arm().links()[static_cast<std::size_t>(check.link)], check.frame, rows);
    off = rows.angle() > 0.0 ? "; " + text_angle(rows.angle()) + " off"
                             : "; " + text_length(rows.position()) + " off";
  }
  return fmt::format("rule '{}' is not kept: {}{}", rule.name, rule.text(), off);
}

std::optional<Posture> Rules::projected(const PostureRef& posture) const {
  const Posture kept = posture.cwiseMax(projection_->lower()).cwiseMin(projection_->upper());
  NumericSolve solve = solve_from(*projection_, kept, {.iterations = 20});
  if (!solve.met || broken_at(solve.posture) >= 0) return std::nullopt;
  return solve.posture;
}

}  // namespace er
