// Paths that a tool's tip is to follow: a straight line, an arc, a turn about an axis, a trace
// through poses. The tool turns evenly along lines and arcs.
#pragma once

#include <cmath>
#include <memory>
#include <string>
#include <variant>
#include <vector>

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/base/twist.hpp"
#include "elbowroom/kinematics/pose_path.hpp"

namespace er {

/// From one pose to another. Its parameter is the way of the tip in m; of a turn in place, the
/// angle in rad.
class ToolLine {
 public:
  /// Throws InputError where the two are the same.
  ToolLine(const Pose& from, const Pose& to);
  [[nodiscard]] Pose at(double parameter) const;
  [[nodiscard]] double end() const { return in_place() ? turn() : length(); }
  [[nodiscard]] double length() const { return way_.velocity.norm(); }
  [[nodiscard]] double turn() const { return way_.turning.norm(); }

 private:
  [[nodiscard]] bool in_place() const { return length() < 1e-9; }

  Pose from_;
  Twist way_;  // all of it
};

/// Part of a circle from one pose through a point to another. Its parameter is the way of the tip
/// in m.
class ToolArc {
 public:
  /// Throws InputError where the three points lie on a line, or two are the same.
  ToolArc(const Pose& from, const Vector3& through, const Pose& to);
  [[nodiscard]] Pose at(double parameter) const;
  [[nodiscard]] double end() const { return radius_ * angle_; }
  [[nodiscard]] double length() const { return end(); }
  [[nodiscard]] double turn() const { return turn_.norm(); }
  [[nodiscard]] double radius() const { return radius_; }

 private:
  Pose from_;
  Vector3 centre_;
  Vector3 axis_;
  double radius_ = 0.0;
  double angle_ = 0.0;  // all of it, rad
  Vector3 turn_;        // of the tool
};

/// Round an axis, the tool turning with it or keeping its orientation: circles, and turns in place.
/// Its parameter is the way of the tip in m; of a turn in place, the angle in rad.
class ToolTurn {
 public:
  /// By `angle` (rad, either way, any number of turns) about the line through `point` along `axis`.
  /// Throws InputError for an axis of no length, no angle, and a circle of no radius.
  ToolTurn(const Pose& from, const Vector3& point, const Vector3& axis, double angle,
           bool tool_turns);
  [[nodiscard]] Pose at(double parameter) const;
  [[nodiscard]] double end() const { return in_place() ? std::abs(angle_) : length(); }
  [[nodiscard]] double length() const { return radius_ * std::abs(angle_); }
  [[nodiscard]] double turn() const { return tool_turns_ ? std::abs(angle_) : 0.0; }
  [[nodiscard]] double radius() const { return radius_; }

 private:
  [[nodiscard]] bool in_place() const { return radius_ < 1e-9; }

  Pose from_;
  Vector3 point_;
  Vector3 axis_;
  double angle_ = 0.0;
  bool tool_turns_ = true;
  double radius_ = 0.0;
};

/// A smooth way through poses. Its parameter is the way of the tip in m; turns count 10 mm a radian
/// across it, so that it goes on where the tool turns in place.
class ToolTrace {
 public:
  /// Throws InputError for fewer than two poses, or two the same one after the other.
  explicit ToolTrace(const std::vector<Pose>& poses);
  [[nodiscard]] Pose at(double parameter) const;
  [[nodiscard]] double end() const { return ends_.back(); }
  [[nodiscard]] double length() const { return length_; }
  [[nodiscard]] double turn() const { return turn_; }

 private:
  [[nodiscard]] double speed(double time) const;  // of the parameter, along the spline
  [[nodiscard]] double covered(double from, double to) const;

  PosePath path_;
  std::vector<double> ends_;  // of even cells of the spline: the parameter there
  double length_ = 0.0;
  double turn_ = 0.0;
};

class ToolPath;

/// A path along which the tool may be turned beside what the path says: about its own z, and
/// leaning.
class ToolFreed {
 public:
  /// `offsets`: over the path's parameter, in the tool's axes: what z leans by about x and y, and
  /// the turn about z after that, rad.
  ToolFreed(const ToolPath& path, JointCurve offsets);
  [[nodiscard]] Pose at(double parameter) const;
  [[nodiscard]] double end() const;
  [[nodiscard]] double length() const;
  [[nodiscard]] double turn() const;
  [[nodiscard]] std::string_view kind() const;

 private:
  std::shared_ptr<const ToolPath> path_;
  JointCurve offsets_;
};

/// Leaning by (x, y), then turned about z.
Matrix3 rotation_offset(double lean_x, double lean_y, double turn);

/// Any of them.
class ToolPath {
 public:
  ToolPath(ToolLine line) : path_(std::move(line)) {}     // NOLINT: meant to be implicit
  ToolPath(ToolArc arc) : path_(std::move(arc)) {}        // NOLINT
  ToolPath(ToolTurn turn) : path_(std::move(turn)) {}     // NOLINT
  ToolPath(ToolTrace trace) : path_(std::move(trace)) {}  // NOLINT
  ToolPath(ToolFreed freed) : path_(std::move(freed)) {}  // NOLINT

  /// The pose at a parameter in [0, end()].
  [[nodiscard]] Pose at(double parameter) const;
  [[nodiscard]] double end() const;             ///< m; of a turn in place, rad
  [[nodiscard]] double length() const;          ///< of the tip's way, m
  [[nodiscard]] double turn() const;            ///< of the tool from first to last, rad
  [[nodiscard]] std::string_view kind() const;  ///< "straight line", "arc", "turn" or "trace"

  struct Deviation {
    double beside = 0.0;     ///< m
    double turned = 0.0;     ///< rad, from the pose there
    double parameter = 0.0;  ///< of the nearest point
  };
  /// How far a pose is off, near a parameter.
  [[nodiscard]] Deviation deviation_of(const Pose& pose, double near) const;

 private:
  std::variant<ToolLine, ToolArc, ToolTurn, ToolTrace, ToolFreed> path_;
};

}  // namespace er
