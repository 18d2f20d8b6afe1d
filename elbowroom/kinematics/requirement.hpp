// Requirements: the single things that a target may ask of a frame of the arm, and how far a frame
// is from each of them.
#pragma once

#include <array>
#include <limits>
#include <string>
#include <variant>
#include <vector>

#include "elbowroom/base/band.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {

/// As an angle: any orientation will do.
inline constexpr double kAnyTilt = std::numeric_limits<double>::infinity();

/// The frame at a place, turned as the place is. What is not exact is banded or free.
struct AtPlace {
  Pose at = {};                     ///< in the world
  std::array<Band, 3> along = {};   ///< m: where the frame's origin may be along the place's axes
  Band standoff = {};               ///< m along `axis` that the frame stays short of the place
  Vector3 axis = Vector3::UnitZ();  ///< in the frame, unit: what turn and tilt are about
  Band turn = {};                   ///< rad about `axis`, out of the place's own orientation
  double tilt = 0.0;                ///< rad that `axis` may lean any way; kAnyTilt for all ways

  /// Nothing is left open.
  [[nodiscard]] bool is_full() const;
  /// Where the frame is to be, standoff and offsets counted in; unturned where its turn is free.
  [[nodiscard]] Pose frame_pose() const;
};

/// An axis of the frame and a direction, at an angle: the same way, level, pointing at a point.
struct InDirection {
  Vector3 axis = Vector3::UnitZ();   ///< in the frame, unit
  Vector3 along = Vector3::UnitZ();  ///< in the world, unit; not used with `at_point`
  bool at_point = false;             ///< the direction is that from the frame's origin to `point`
  Vector3 point = Vector3::Zero();   ///< in the world
  Band angle = {};                   ///< rad in [0, pi] between the two
};

/// The frame's origin so far from a point.
struct AtDistance {
  Vector3 point = Vector3::Zero();  ///< in the world
  Band range = {};                  ///< m
};

/// The frame's origin, or every shape of the link that it is on, inside a box; free sides are open.
struct InRoom {
  Pose at = {};                    ///< in the world
  std::array<Band, 3> along = {};  ///< m, along the axes of `at`
  bool whole_link = false;
};

/// A camera, whose z looks ahead, sees a point, or each corner of a patch.
struct InSight {
  std::vector<Vector3> points = {};  ///< in the world, 1 to 4
  Vector3 normal = Vector3::Zero();  ///< of the surface, world, unit; zero: seen from any side
  double cone = 0.35;                ///< rad from the camera's z to the edge of its view
  Band range = Band::free();         ///< m from camera to point
  double incidence = 0.0;            ///< rad between the normal and the line to the camera, at most
  bool unblocked = true;             ///< nothing may stand between; checked by reach()
};

/// Values that joints are to keep to, beside their own ranges: rad or m. The solver never leaves
/// them.
struct JointBands {
  struct One {
    std::string joint = {};
    Band value = {};
    bool slides = false;  ///< the joint slides: metres, not radians
  };
  std::vector<One> joints = {};
};

/// One thing that a target asks for.
struct Requirement {
  std::string name = {};
  std::string of = {};  ///< a tool's tip, or a link's frame; empty is the arm's first tool
  Pose frame = {};      ///< the frame in that; usually just the same
  std::variant<AtPlace, InDirection, AtDistance, InRoom, InSight, JointBands> holds = AtPlace{};
  std::string may_touch = {};  ///< a fixture or piece that the link may touch: surfaces that meet
  double position_tolerance = 1e-6;  ///< m
  double angle_tolerance = 1e-6;     ///< rad
  bool on = true;

  /// "place", "direction", "distance", "room", "sight" or "joints".
  [[nodiscard]] std::string_view kind() const;
  /// What it holds, in a line: "grip at [400, 0, 700] mm, rpy [180, 0, 0] deg, free about its z".
  [[nodiscard]] std::string text() const;
  /// What it leaves open, in words; empty for a full pose.
  [[nodiscard]] std::vector<std::string> leaves_open() const;
};

/// Throws InputError about what cannot mean anything: NaN, a band upside down, an axis of no
/// length, a standoff band together with bands along the place's axes.
void check_requirement(const Requirement& requirement);

/// One error of a frame, m or rad, zero where the requirement is met, and how it grows with the
/// velocity and the turning of the frame (world axes): d error / dt = by_velocity . v + by_turn .
/// w.
struct ErrorRow {
  double error = 0.0;
  Vector3 by_velocity = Vector3::Zero();
  Vector3 by_turn = Vector3::Zero();
  bool is_angle = false;
};

/// The rows of one requirement. Lives on the stack.
struct ErrorRows {
  static constexpr int kMost = 16;
  std::array<ErrorRow, kMost> all;
  int count = 0;

  void add(double error, const Vector3& by_velocity, const Vector3& by_turn, bool is_angle);
  [[nodiscard]] const ErrorRow* begin() const { return all.data(); }
  [[nodiscard]] const ErrorRow* end() const { return all.data() + count; }
  [[nodiscard]] double position() const;  ///< m, of all rows that are lengths together
  [[nodiscard]] double angle() const;     ///< rad
};

/// The errors of a requirement for the pose of its frame in the world; rows of bands that are kept
/// are left out. `link` is the link that the frame is on (for its shapes), `frame_in_link` the
/// frame's pose there. Joint bands have no rows. Allocates nothing.
void error_rows(const Requirement& requirement, const Pose& frame, const Link& link,
                const Pose& frame_in_link, ErrorRows& out);

}  // namespace er
