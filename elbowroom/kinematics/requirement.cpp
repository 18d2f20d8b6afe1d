#include "elbowroom/kinematics/requirement.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <type_traits>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/base/vector_text.hpp"
#include "elbowroom/model/core_shape.hpp"

namespace er {
namespace {

constexpr double kPi = std::numbers::pi;

// The unit axis about which `from` has to turn to come to `to`, and by how much.
struct TurnBetween {
  Vector3 axis;
  double angle;
};
TurnBetween turn_between(const Vector3& from, const Vector3& to) {
  const Vector3 cross = from.cross(to);
  const double sine = cross.norm();
  // Where they are opposite every way round is as good.
  return {sine > 1e-15 ? Vector3(cross / sine) : any_perpendicular(from),
          std::atan2(sine, from.dot(to))};
}

void rotation_rows(const Matrix3& wanted, const Matrix3& is, ErrorRows& out) {
  const Vector3 error = rotation_vector(is * wanted.transpose());
  for (int k = 0; k < 3; ++k) out.add(error[k], Vector3::Zero(), Vector3::Unit(k), true);
}

// An axis that is to have one direction: three rows across the axis. The direction itself turns at
// `swing` x velocity (zero for a fixed one).
void pointing_rows(const Vector3& axis, const Vector3& direction, const Matrix3& swing,
                   ErrorRows& out) {
  const TurnBetween turn = turn_between(axis, direction);
  const Vector3 error = -turn.angle * turn.axis;
  const Matrix3 across = Matrix3::Identity() - axis * axis.transpose();
  for (int k = 0; k < 3; ++k)
    out.add(error[k], -swing.row(k).transpose(), across.row(k).transpose(), true);
}

// The angle between an axis and a direction, in a band.
void angle_row(const Vector3& axis, const Vector3& direction, const Matrix3& swing,
               const Band& band, ErrorRows& out) {
  const TurnBetween turn = turn_between(axis, direction);
  const double outside = band.outside(turn.angle);
  if (outside == 0.0) return;
  out.add(outside, swing.transpose() * turn.axis, -turn.axis, true);
}

void direction_rows(const Vector3& axis, const Vector3& direction, const Matrix3& swing,
                    const Band& band, ErrorRows& out) {
  if (band.upper == 0.0) {
    pointing_rows(axis, direction, swing, out);
  } else {
    angle_row(axis, direction, swing, band, out);
  }
}

// The direction from an origin that moves with velocity v to a fixed point turns at swing * v.
Matrix3 swing_of(const Vector3& direction, double distance) {
  Matrix3 cross;
  cross << 0.0, -direction.z(), direction.y(), direction.z(), 0.0, -direction.x(), -direction.y(),
      direction.x(), 0.0;
  return -cross / std::max(distance, 1e-9);
}

// How far a frame is turned about its axis, apart from how the axis leans (swing and twist).
void twist_row(const AtPlace& place, const Matrix3& is, ErrorRows& out) {
  const Eigen::Quaterniond q(Matrix3(place.at.rotation.transpose() * is));
  const double twist = std::remainder(2.0 * std::atan2(q.vec().dot(place.axis), q.w()), 2.0 * kPi);
  const double outside = place.turn.outside(twist);
  if (outside == 0.0) return;
  const Vector3 axis = is * place.axis;
  const Vector3 wanted = place.at.rotation * place.axis;
  // While the axis moves, the frame that is only swung to it turns about it, too.
  out.add(outside, Vector3::Zero(), (axis + wanted) / std::max(1e-9, 1.0 + axis.dot(wanted)), true);
}

void rows_of(const AtPlace& place, const Pose& frame, ErrorRows& out) {
  const Vector3 axis = frame.rotation * place.axis;
  if (place.standoff.is_exact()) {
    const Vector3 lead = place.standoff.lower * axis;
    const Vector3 from = frame.position + lead - place.at.position;
    for (int k = 0; k < 3; ++k) {
      const Vector3 direction = place.at.rotation.col(k);
      const Band& band = place.along[static_cast<std::size_t>(k)];
      const double outside = band.outside(direction.dot(from));
      if (outside != 0.0 || band.is_exact())
        out.add(outside, direction, lead.cross(direction), false);
    }
  } else {
    // Seen from the frame, the place lies on its axis, so far ahead.
    const Vector3 ahead = place.at.position - frame.position;
    const Vector3 side = any_perpendicular(axis);
    for (const Vector3& direction : {side, Vector3(axis.cross(side))})
      out.add(direction.dot(ahead), -direction, direction.cross(ahead), false);
    const double outside = place.standoff.outside(axis.dot(ahead));
    if (outside != 0.0) out.add(outside, -axis, axis.cross(ahead), false);
  }
  if (place.turn.is_exact() && place.tilt == 0.0)
    return rotation_rows(place.at.rotation * rotation_about(place.axis, place.turn.lower),
                         frame.rotation, out);
  if (place.tilt == kAnyTilt) return;
  direction_rows(axis, place.at.rotation * place.axis, Matrix3::Zero(), Band::up_to(place.tilt),
                 out);
  if (!place.turn.is_free()) twist_row(place, frame.rotation, out);
}

void rows_of(const InDirection& direction, const Pose& frame, ErrorRows& out) {
  const Vector3 axis = frame.rotation * direction.axis;
  if (!direction.at_point)
    return direction_rows(axis, direction.along, Matrix3::Zero(), direction.angle, out);
  const Vector3 way = direction.point - frame.position;
  const double distance = way.norm();
  if (distance < 1e-9) return;  // in the point itself every direction points at it
  direction_rows(axis, way / distance, swing_of(way / distance, distance), direction.angle, out);
}

void range_row(const Vector3& point, const Band& range, const Pose& frame, ErrorRows& out) {
  const Vector3 way = frame.position - point;
  const double distance = way.norm();
  const double outside = range.outside(distance);
  if (outside == 0.0) return;
  out.add(outside, distance > 1e-12 ? Vector3(way / distance) : Vector3(Vector3::UnitX()),
          Vector3::Zero(), false);
}

// Straight towards a small ball one passes it on the side. From well outside, the whole way to it
// is the error: what goes aside counts by how far off the ball is, and all of it towards a point.
void rows_of(const AtDistance& distance, const Pose& frame, ErrorRows& out) {
  constexpr double kWellOutside = 1.1;
  const Vector3 way = frame.position - distance.point;
  const double away = way.norm();
  if (away <= kWellOutside * distance.range.upper)
    return range_row(distance.point, distance.range, frame, out);
  const Vector3 straight = way / away;
  const double aside = 1.0 - distance.range.upper / away;
  for (int k = 0; k < 3; ++k)
    out.add(aside * way[k], aside * Vector3::Unit(k) + (1.0 - aside) * straight[k] * straight,
            Vector3::Zero(), false);
}

void rows_of(const InRoom& room, const Pose& frame, ErrorRows& out) {
  for (int k = 0; k < 3; ++k) {
    const Vector3 direction = room.at.rotation.col(k);
    const Band& band = room.along[static_cast<std::size_t>(k)];
    const double outside = band.outside(direction.dot(frame.position - room.at.position));
    if (outside != 0.0) out.add(outside, direction, Vector3::Zero(), false);
  }
}

// Of every side of the room the point of the link that is furthest outside it.
void link_rows(const InRoom& room, const Pose& frame, const Link& link, const Pose& frame_in_link,
               ErrorRows& out) {
  const Pose link_pose = frame * frame_in_link.inverse();
  for (int k = 0; k < 3; ++k) {
    for (const double sense : {1.0, -1.0}) {
      const Band& band = room.along[static_cast<std::size_t>(k)];
      const Vector3 direction = sense * room.at.rotation.col(k);
      const double limit = sense > 0.0 ? band.upper : -band.lower;
      if (!std::isfinite(limit)) continue;
      double furthest = -std::numeric_limits<double>::infinity();
      Vector3 there = Vector3::Zero();
      for (const Part& part : link.parts) {
        if (!part.collides) continue;
        const CoreShape shape(part.shape, link_pose * part.at);
        const Vector3 point = shape.support(direction) + shape.radius * direction;
        const double height = direction.dot(point - room.at.position);
        if (height > furthest) {
          furthest = height;
          there = point;
        }
      }
      if (furthest > limit)
        out.add(furthest - limit, direction, (there - frame.position).cross(direction), false);
    }
  }
}

void rows_of(const InSight& sight, const Pose& frame, ErrorRows& out) {
  const Vector3 axis = frame.rotation.col(2);
  for (const Vector3& point : sight.points) {
    const Vector3 way = point - frame.position;
    const double distance = std::max(way.norm(), 1e-9);
    const Vector3 direction = way / distance;
    const Matrix3 swing = swing_of(direction, distance);
    angle_row(axis, direction, swing, Band::up_to(sight.cone), out);
    range_row(point, sight.range, frame, out);
    if (sight.normal.isZero(0.0)) continue;
    // The normal stands still, so all of the change is the direction's.
    const TurnBetween turn = turn_between(sight.normal, -direction);
    const double outside = turn.angle - sight.incidence;
    if (outside > 0.0) out.add(outside, swing.transpose() * turn.axis, Vector3::Zero(), true);
  }
}

enum class Unit { mm, deg };
std::string text_band(const Band& band, Unit unit) {
  const auto number = [&](double value) {
    return std::round((unit == Unit::mm ? to_mm(value) : to_deg(value)) * 10.0) / 10.0 + 0.0;
  };
  const char* name = unit == Unit::mm ? "mm" : "deg";
  if (band.is_free()) return "anything";
  if (band.is_exact()) return fmt::format("{:g} {}", number(band.lower), name);
  if (!std::isfinite(band.lower)) return fmt::format("up to {:g} {}", number(band.upper), name);
  if (!std::isfinite(band.upper)) return fmt::format("{:g} {} or more", number(band.lower), name);
  return fmt::format("{:g} to {:g} {}", number(band.lower), number(band.upper), name);
}

// "its z", "its -x", or the numbers.
std::string text_axis(const Vector3& axis) {
  for (int k = 0; k < 3; ++k)
    for (const double sense : {1.0, -1.0})
      if ((axis - sense * Vector3::Unit(k)).norm() < 1e-9)
        return fmt::format("its {}{}", sense < 0.0 ? "-" : "", "xyz"[k]);
  return "its axis " + text_unit(axis);
}

std::string text_of(const AtPlace& place) {
  std::string out = fmt::format("at {}", text_mm(place.at.position));
  if (std::isfinite(place.tilt)) out += ", rpy " + text_deg(rpy_of(place.at.rotation));
  if (place.standoff.is_exact() && place.standoff.lower != 0.0)
    out += fmt::format(", {} short of it", text_length(place.standoff.lower));
  return out;
}

std::string text_of(const InDirection& direction) {
  const std::string where = direction.at_point
                                ? fmt::format("the way to {}", text_mm(direction.point))
                                : fmt::format("direction {}", text_unit(direction.along));
  if (direction.angle.upper == 0.0)
    return fmt::format("{} {}", text_axis(direction.axis),
                       direction.at_point ? "pointing at " + text_mm(direction.point)
                                          : "along " + text_unit(direction.along));
  Band angle = direction.angle;
  if (angle.lower <= 0.0) angle.lower = -std::numeric_limits<double>::infinity();
  return fmt::format("{} at {} to {}", text_axis(direction.axis), text_band(angle, Unit::deg),
                     where);
}

std::string text_of(const AtDistance& distance) {
  return fmt::format("{} from {}", text_band(distance.range, Unit::mm), text_mm(distance.point));
}

std::string text_along(const std::array<Band, 3>& along) {
  std::string out;
  for (std::size_t k = 0; k < 3; ++k)
    if (!along[k].is_free())
      out +=
          fmt::format("{}{} {}", out.empty() ? "" : ", ", "xyz"[k], text_band(along[k], Unit::mm));
  return out.empty() ? "everywhere" : out;
}

std::string text_of(const InRoom& room) {
  return fmt::format("{}within {} of {}", room.whole_link ? "all of it " : "",
                     text_along(room.along), text_mm(room.at.position));
}

std::string text_of(const InSight& sight) {
  std::string out = fmt::format(
      "seeing {}{}, up to {} off the middle of its view", text_mm(sight.points.front()),
      sight.points.size() > 1 ? fmt::format(" and {} more", sight.points.size() - 1) : "",
      text_angle(sight.cone));
  if (!sight.range.is_free()) out += ", from " + text_band(sight.range, Unit::mm);
  if (!sight.normal.isZero(0.0))
    out += ", " + text_angle(sight.incidence) + " off its normal at most";
  return out + (sight.unblocked ? "" : ", whatever is between");
}

std::string text_of(const JointBands& bands) {
  std::string out;
  for (const JointBands::One& one : bands.joints)
    out += fmt::format("{}{} {}", out.empty() ? "" : ", ", one.joint,
                       text_band(one.value, one.slides ? Unit::mm : Unit::deg));
  return out;
}

[[noreturn]] void refuse(const Requirement& requirement, const std::string& what,
                         const std::string& advice = {}) {
  throw InputError(fmt::format("requirement '{}': {}", requirement.name, what), advice);
}

void check_band(const Requirement& requirement, const Band& band, const char* what) {
  if (std::isnan(band.lower) || std::isnan(band.upper))
    refuse(requirement, fmt::format("{} is not a number", what));
  if (band.lower > band.upper)
    refuse(requirement, fmt::format("{} has its ends the wrong way round", what),
           "write the lower value first");
}

void check_bands(const Requirement& requirement, const std::array<Band, 3>& along) {
  for (const Band& band : along) check_band(requirement, band, "a band along an axis");
}

void check_direction(const Requirement& requirement, const Vector3& direction, const char* what) {
  if (!direction.allFinite() || std::abs(direction.norm() - 1.0) > 1e-6)
    refuse(requirement, fmt::format("{} must have length 1", what), "divide it by its length");
}

void check_finite(const Requirement& requirement, const Vector3& point) {
  if (!point.allFinite()) refuse(requirement, "a point has a value that is not finite");
}

void check_pose(const Requirement& requirement, const Pose& pose) {
  if (!pose.position.allFinite() || !pose.rotation.allFinite())
    refuse(requirement, "the pose has a value that is not finite");
  if ((pose.rotation * pose.rotation.transpose() - Matrix3::Identity()).cwiseAbs().maxCoeff() >
      1e-6)
    refuse(requirement, "the pose's rotation is not one: its axes are not at right angles",
           "make it with rotation_from_rpy() or nearest_rotation()");
}

void check(const Requirement& requirement, const AtPlace& place) {
  check_pose(requirement, place.at);
  check_bands(requirement, place.along);
  check_band(requirement, place.standoff, "the standoff");
  check_band(requirement, place.turn, "the turn");
  check_direction(requirement, place.axis, "the axis");
  if (!(place.tilt >= 0.0)) refuse(requirement, "a tilt must be zero or more");
  if (place.tilt == kAnyTilt && !place.turn.is_free() && !place.turn.is_exact())
    refuse(requirement, "any tilt is allowed, but the turn is not free",
           "leave the turn free, too, or give the tilt a limit");
  const bool exact = std::all_of(place.along.begin(), place.along.end(), [](const Band& band) {
    return band.is_exact() && band.lower == 0.0;
  });
  if (!place.standoff.is_exact() && !exact)
    refuse(requirement, "a standoff with two ends is given together with a band along an axis",
           "give the standoff one value, or leave the place exact");
}

void check(const Requirement& requirement, const InDirection& direction) {
  check_direction(requirement, direction.axis, "the axis");
  check_direction(requirement, direction.along, "the direction");
  check_finite(requirement, direction.point);
  check_band(requirement, direction.angle, "the angle");
  if (direction.angle.upper < 0.0 || direction.angle.lower > kPi)
    refuse(requirement, "the angle between two directions is between 0 and 180 deg");
}

void check(const Requirement& requirement, const AtDistance& distance) {
  check_finite(requirement, distance.point);
  check_band(requirement, distance.range, "the range");
  if (distance.range.upper < 0.0) refuse(requirement, "no distance is below zero");
}

void check(const Requirement& requirement, const InRoom& room) {
  check_pose(requirement, room.at);
  check_bands(requirement, room.along);
}

void check(const Requirement& requirement, const InSight& sight) {
  if (sight.points.empty() || sight.points.size() > 4)
    refuse(requirement, fmt::format("expected 1 to 4 points, found {}", sight.points.size()));
  for (const Vector3& point : sight.points) check_finite(requirement, point);
  if (!sight.normal.isZero(0.0)) check_direction(requirement, sight.normal, "the normal");
  check_band(requirement, sight.range, "the range");
  if (!(sight.cone > 0.0)) refuse(requirement, "the cone of view must be above zero");
  if (!(sight.incidence >= 0.0)) refuse(requirement, "the incidence must be zero or more");
}

void check(const Requirement& requirement, const JointBands& bands) {
  if (bands.joints.empty()) refuse(requirement, "no joint is named");
  for (const JointBands::One& one : bands.joints)
    check_band(requirement, one.value, one.joint.c_str());
}

}  // namespace

bool AtPlace::is_full() const {
  return std::all_of(along.begin(), along.end(),
                     [](const Band& band) { return band.is_exact(); }) &&
         standoff.is_exact() && turn.is_exact() && tilt == 0.0;
}

Pose AtPlace::frame_pose() const {
  const Matrix3 rotation = at.rotation * rotation_about(axis, turn.is_free() ? 0.0 : turn.lower);
  const Vector3 offset(along[0].lower, along[1].lower, along[2].lower);
  return {rotation, at * offset - standoff.lower * (rotation * axis)};
}

std::string_view Requirement::kind() const {
  static constexpr std::array<std::string_view, 6> kKinds{"place", "direction", "distance",
                                                          "room",  "sight",     "joints"};
  return kKinds[holds.index()];
}

std::string Requirement::text() const {
  const std::string whose = of.empty() || kind() == "joints" ? "" : of + " ";
  std::string out = whose + std::visit([](const auto& one) { return text_of(one); }, holds);
  for (const std::string& open : leaves_open()) out += ", " + open;
  return out;
}

std::vector<std::string> Requirement::leaves_open() const {
  std::vector<std::string> out;
  const AtPlace* place = std::get_if<AtPlace>(&holds);
  if (place == nullptr) return out;
  for (std::size_t k = 0; k < 3; ++k) {
    const Band& band = place->along[k];
    if (band.is_free()) {
      out.push_back(fmt::format("free along {}", "xyz"[k]));
    } else if (!band.is_exact()) {
      out.push_back(fmt::format("{} off by {}", "xyz"[k], text_band(band, Unit::mm)));
    }
  }
  if (!place->standoff.is_exact())
    out.push_back(fmt::format("{} short of it", text_band(place->standoff, Unit::mm)));
  if (place->tilt == kAnyTilt) {
    out.emplace_back("in any orientation");
    return out;
  }
  if (place->turn.is_free()) {
    out.push_back("free about " + text_axis(place->axis));
  } else if (!place->turn.is_exact()) {
    out.push_back(fmt::format("turned {} about {}", text_band(place->turn, Unit::deg),
                              text_axis(place->axis)));
  }
  if (place->tilt > 0.0) out.push_back(fmt::format("leaning up to {}", text_angle(place->tilt)));
  return out;
}

void check_requirement(const Requirement& requirement) {
  if (!(requirement.position_tolerance > 0.0) || !(requirement.angle_tolerance > 0.0) ||
      !std::isfinite(requirement.position_tolerance) || !std::isfinite(requirement.angle_tolerance))
    throw InputError(
        fmt::format("a tolerance must be above zero, found {} mm and {} deg",
                    to_mm(requirement.position_tolerance), to_deg(requirement.angle_tolerance)),
        "leave it out for the default of 0.001 mm and 0.00006 deg");
  std::visit([&](const auto& one) { check(requirement, one); }, requirement.holds);
}

void ErrorRows::add(double error, const Vector3& by_velocity, const Vector3& by_turn,
                    bool is_angle) {
  if (count < kMost)
    all[static_cast<std::size_t>(count++)] = {error, by_velocity, by_turn, is_angle};
}

double ErrorRows::position() const {
  double sum = 0.0;
  for (const ErrorRow& row : *this) sum += row.is_angle ? 0.0 : row.error * row.error;
  return std::sqrt(sum);
}

double ErrorRows::angle() const {
  double sum = 0.0;
  for (const ErrorRow& row : *this) sum += row.is_angle ? row.error * row.error : 0.0;
  return std::sqrt(sum);
}

void error_rows(const Requirement& requirement, const Pose& frame, const Link& link,
                const Pose& frame_in_link, ErrorRows& out) {
  out.count = 0;
  std::visit(
      [&](const auto& one) {
        using Kind = std::decay_t<decltype(one)>;
        if constexpr (std::is_same_v<Kind, InRoom>) {
          if (one.whole_link) return link_rows(one, frame, link, frame_in_link, out);
        }
        if constexpr (!std::is_same_v<Kind, JointBands>) rows_of(one, frame, out);
      },
      requirement.holds);
}

}  // namespace er
