#include "elbowroom/model/chain_walk.hpp"

#include <cmath>
#include <numbers>

namespace er {
namespace {

Matrix3 about_z(double angle) { return rotation_about(Vector3::UnitZ(), angle); }
Matrix3 about_x(double angle) { return rotation_about(Vector3::UnitX(), angle); }

// What rounding leaves of zero, in metres and in sines, is made zero again: kernels leave it out.
double without_rounding(double v) { return std::abs(v) < 1e-15 ? 0.0 : v; }

// A rotation as turns about z, x and z again. The last is taken from what is left when the first
// two are undone, so that all three together are exact where the tilt is nearly none.
struct TurnTiltTurn {
  double turn = 0.0;
  double tilt = 0.0;
  double last = 0.0;
};
TurnTiltTurn turn_tilt_turn(const Matrix3& r) {
  const double sine = std::hypot(r(0, 2), r(1, 2));
  TurnTiltTurn out;
  if (sine > 1e-15) {
    out.turn = std::atan2(r(0, 2), -r(1, 2));
    out.tilt = std::atan2(sine, r(2, 2));
  } else {
    out.tilt = r(2, 2) > 0.0 ? 0.0 : std::numbers::pi;
  }
  const Matrix3 left = about_x(-out.tilt) * about_z(-out.turn) * r;
  out.last = std::atan2(left(1, 0), left(0, 0));
  return out;
}

}  // namespace

void ChainWalk::append(const Vector3& axis, const Moves& moves) {
  const Pose axis_up{rotation_with_z(axis), Vector3::Zero()};
  const Pose to_axis = end * axis_up;
  WalkStep step{.entry = moves.entry};
  if (steps.empty()) {
    start = to_axis;
  } else {
    WalkStep& before = steps.back();
    const TurnTiltTurn parts = turn_tilt_turn(to_axis.rotation);
    before.turn_offset += parts.turn;
    const Vector3 onward = about_z(-parts.turn) * (before.onward + to_axis.position);
    for (int i = 0; i < 3; ++i) before.onward[i] = without_rounding(onward[i]);
    before.tilt_cosine = without_rounding(std::cos(parts.tilt));
    before.tilt_sine = without_rounding(std::sin(parts.tilt));
    step.turn_offset = parts.last;
  }
  if (moves.turns) {
    step.turn_ratio = moves.ratio;
    step.turn_offset += moves.offset;
  } else {
    step.slide_ratio = moves.ratio;
    step.onward = {0.0, 0.0, moves.offset};
  }
  steps.push_back(step);
  end = axis_up.inverse();
}

}  // namespace er
