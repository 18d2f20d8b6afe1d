#include "elbowroom/collision/frame_speed.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/approach.hpp"
#include "elbowroom/collision/checked_pairs.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/kinematics/target_on_arm.hpp"

namespace er {
namespace {

constexpr double kTightSpeed = 1e-3;  // how far above the truth a share may be, of the limit
constexpr int kMostSpeedHalvings = 24;

// Where the point goes along one piece of a curve.
class PointOnPiece {
 public:
  PointOnPiece(const Arm& arm, const ArmPoint& point, const Posture& lever, const Posture& turns)
      : arm_(arm), point_(point), lever_(lever), turns_(turns) {}

  void look_at(const CurvePiece& piece, double start, double limit, FastestFrame& out) {
    const Posture velocity = largest_over(piece, 1);
    const Posture acceleration = largest_over(piece, 2);
    if (lever_.dot(velocity) <= out.share * limit) return;
    struct Interval {
      double middle;
      double half;
    };
    // Depth first: as many intervals wait as there are halvings, and one.
    std::array<Interval, kMostSpeedHalvings + 2> open;
    std::size_t count = 0;
    open[count++] = {0.5 * piece.duration, 0.5 * piece.duration};
    const double shortest = std::ldexp(piece.duration, -kMostSpeedHalvings);
    while (count > 0) {
      const Interval here = open[--count];
      state_in(piece, here.middle, state_);
      // The largest velocities within this interval, and by how much the point's can change: joints
      // by their acceleration, and each turning what those beyond it do.
      const Posture most =
          (state_.velocity.cwiseAbs() + here.half * acceleration).cwiseMin(velocity);
      const double drift =
          here.half * (lever_.dot(acceleration) + 2.0 * turns_.dot(most) * lever_.dot(most));
      frame_jacobian(arm_, point_.link, Pose::at(point_.at), state_.position, jacobian_);
      const double now = (jacobian_.topRows<3>() * state_.velocity).norm();
      const double share = (now + drift) / limit;
      if (share <= out.share) continue;
      if (drift <= kTightSpeed * limit || here.half < shortest) {
        out = {share, start + here.middle};
        continue;
      }
      const double half = 0.5 * here.half;
      open[count++] = {here.middle + half, half};
      open[count++] = {here.middle - half, half};
    }
  }

 private:
  const Arm& arm_;
  const ArmPoint& point_;
  const Posture& lever_;
  const Posture& turns_;
  JointState state_;
  Jacobian jacobian_;
};

}  // namespace

std::string FrameSpeed::text() const {
  return fmt::format("{}{} at {}/s at most", name.empty() ? "" : fmt::format("rule '{}': ", name),
                     of.empty() ? "the tool" : of, text_length(most));
}

bool has_frame(const Arm& arm, const FrameSpeed& rule) {
  const auto is_it = [&](const auto& one) { return one.name == rule.of; };
  if (rule.of.empty()) return !arm.tools().empty();
  return std::any_of(arm.tools().begin(), arm.tools().end(), is_it) ||
         std::any_of(arm.links().begin(), arm.links().end(), is_it);
}

ArmPoint point_of(const Arm& arm, const FrameSpeed& rule) {
  const Target target = Target{}.require({.of = rule.of, .holds = AtPlace{}});
  const TargetOnArm bound(arm, target);
  return {bound[0].link, bound[0].frame * rule.at};
}

void check_frame_speed(const Arm& arm, const FrameSpeed& rule) {
  if (!(rule.most > 0.0) || !std::isfinite(rule.most))
    throw InputError(fmt::format(
        "the speed of a frame is limited to more than zero, found {:g} m/s", rule.most));
  if (!rule.at.allFinite()) throw InputError("a point of a frame has a value that is no number");
  static_cast<void>(point_of(arm, rule));
}

FastestFrame fastest_of(const Arm& arm, const FrameSpeed& rule, const JointCurve& curve) {
  check_frame_speed(arm, rule);
  const ArmPoint point = point_of(arm, rule);
  const Posture lever = lever_of_point(arm, point.link, point.at);
  const Posture turns = turns_of(arm);
  PointOnPiece look(arm, point, lever, turns);
  FastestFrame out;
  double start = 0.0;
  for (const CurvePiece& piece : curve.pieces()) {
    look.look_at(piece, start, rule.most, out);
    start += piece.duration;
  }
  return out;
}

}  // namespace er
