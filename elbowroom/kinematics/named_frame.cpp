#include "elbowroom/kinematics/named_frame.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <array>
#include <cmath>
#include <numbers>
#include <optional>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/model/core_shape.hpp"

namespace er {
namespace {

const Body* find_body(const Cell& cell, std::string_view name) {
  for (const auto* bodies : {&cell.fixtures(), &cell.pieces()})
    for (const Body& body : *bodies)
      if (body.name == name) return &body;
  return nullptr;
}

std::vector<std::string> body_names(const Cell& cell) {
  std::vector<std::string> names;
  for (const auto* bodies : {&cell.fixtures(), &cell.pieces()})
    for (const Body& body : *bodies) names.push_back(body.name);
  return names;
}

std::optional<Pose> find_tool_of_another(const Cell& cell, const Arm& arm, std::string_view name) {
  for (const Arm& other : cell.arms()) {
    if (other.name() == arm.name()) continue;
    for (const Tool& tool : other.tools())
      if (other.name() + "." + tool.name == name)
        return tool_pose(other, tool, other.home_or_zero());
  }
  return std::nullopt;
}

// The furthest that parts reach along a direction, in their own frame.
double extent(const std::vector<Part>& parts, const Vector3& direction) {
  double most = -std::numeric_limits<double>::infinity();
  for (const Part& part : parts) {
    if (!part.collides) continue;
    most = std::max(most, CoreShape(part.shape, part.at).furthest(direction));
  }
  return most;
}

// A side of parts: its middle, z out of it, x and y along two axes of the parts, and half its size.
struct Face {
  Pose at;
  double half_x;
  double half_y;
};
Face face_of(const std::vector<Part>& parts, Side side, const std::string& whose) {
  static const std::array<Vector3, 6> kOut{Vector3::UnitZ(),  -Vector3::UnitZ(), Vector3::UnitX(),
                                           -Vector3::UnitX(), Vector3::UnitY(),  -Vector3::UnitY()};
  const Vector3 out = kOut[static_cast<std::size_t>(side)];
  const double height = extent(parts, out);
  if (!std::isfinite(height))
    throw InputError(height > 0.0 ? fmt::format("'{}' has no end on that side", whose)
                                  : fmt::format("'{}' has no shapes, so it has no sides", whose));
  const Vector3 x = std::abs(out.x()) > 0.5 ? Vector3::UnitY() : Vector3::UnitX();
  const Vector3 y = out.cross(x);
  Face face;
  face.at.rotation << x, y, out;
  const auto middle = [&](const Vector3& axis) {
    const double ahead = extent(parts, axis);
    const double behind = extent(parts, -axis);
    // What has no end has no middle: its own origin stands for it.
    return std::isfinite(ahead) && std::isfinite(behind) ? 0.5 * (ahead - behind) : 0.0;
  };
  face.at.position = height * out + middle(x) * x + middle(y) * y;
  face.half_x = 0.5 * (extent(parts, x) + extent(parts, -x));
  face.half_y = 0.5 * (extent(parts, y) + extent(parts, -y));
  return face;
}

// The furthest from the middle of a face that anything is, seen along its normal.
double round_about(const std::vector<Part>& parts, const Face& face) {
  constexpr int kWays = 32;
  double most = 0.0;
  for (int i = 0; i < kWays; ++i) {
    const double way = 2.0 * std::numbers::pi * i / kWays;
    const Vector3 direction = face.at.rotation * Vector3(std::cos(way), std::sin(way), 0.0);
    most = std::max(most, extent(parts, direction) - direction.dot(face.at.position));
  }
  return most / std::cos(std::numbers::pi / kWays);  // what may lie between two ways
}

}  // namespace

Pose named_frame(const Cell& cell, const Arm& arm, std::string_view name) {
  if (name.empty() || name == "world") return {};
  if (name == "base") return arm.mount();
  for (const Frame& frame : cell.frames())
    if (frame.name == name) return frame.at;
  if (const Body* body = find_body(cell, name)) return body->at;
  if (const auto pose = find_tool_of_another(cell, arm, name)) return *pose;
  std::vector<std::string> known{"world", "base"};
  for (const Frame& frame : cell.frames()) known.push_back(frame.name);
  for (std::string& body : body_names(cell)) known.push_back(std::move(body));
  for (const Arm& other : cell.arms())
    if (other.name() != arm.name())
      for (const Tool& tool : other.tools()) known.push_back(other.name() + "." + tool.name);
  throw unknown_name("frame", name, known);
}

Side side_named(std::string_view name) {
  static const std::vector<std::string> kNames{"top", "bottom", "front", "back", "left", "right"};
  for (std::size_t i = 0; i < kNames.size(); ++i)
    if (kNames[i] == name) return static_cast<Side>(i);
  throw unknown_name("side", name, kNames);
}

Requirement surfaces_meeting(const Cell& cell, const Arm& arm, std::string_view link, Side side,
                             std::string_view on, Side its) {
  const Body* body = find_body(cell, on);
  if (body == nullptr) throw unknown_name("fixture or piece", on, body_names(cell));
  const std::vector<Part>& own = arm.links()[static_cast<std::size_t>(arm.link_index(link))].parts;
  const Face lying = face_of(own, side, std::string(link));
  const Face under = face_of(body->parts, its, std::string(on));
  const double reach = round_about(own, lying);
  if (reach > under.half_x || reach > under.half_y)
    throw InputError(
        fmt::format("'{}' cannot lie within that side of '{}': it reaches {} from its middle, the "
                    "side is {} x {}",
                    link, on, text_length(reach), text_length(2.0 * under.half_x),
                    text_length(2.0 * under.half_y)),
        "give the place outright instead");
  // The two look at each other: the lying side's z is against the other's.
  AtPlace place;
  place.at = body->at * under.at;
  place.at.rotation.col(1) *= -1.0;
  place.at.rotation.col(2) *= -1.0;
  place.along = {Band{reach - under.half_x, under.half_x - reach},
                 Band{reach - under.half_y, under.half_y - reach}, Band{}};
  place.turn = Band::free();
  return {.of = std::string(link), .frame = lying.at, .holds = place, .may_touch = std::string(on)};
}

}  // namespace er
