#include "elbowroom/pace/state_move.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <new>
#include <type_traits>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

using AxisMove = std::variant<JerkLimited, AccelerationLimited>;

// Room for one that is not filled with zeros first, which would take as long as solving it does.
union AxisMoveSlot {
  AxisMoveSlot() {}  // NOLINT: nothing is there yet
  AxisMove move;
};
static_assert(std::is_trivially_destructible_v<AxisMove>);

AxisState axis_of(const JointState& state, int k) {
  const AxisState axis{state.position[k], state.velocity[k], state.acceleration[k]};
  if (!std::isfinite(axis.position) || !std::isfinite(axis.velocity) ||
      !std::isfinite(axis.acceleration))
    throw InputError("a state has a value that is no finite number");
  return axis;
}

AxisMove move_of(const AxisState& from, const AxisState& to, const AxisLimits& limits) {
  if (std::isfinite(limits.jerk)) return JerkLimited(from, to, limits);
  return AccelerationLimited(from, to, limits);
}

void check_sizes(const JointState& from, const JointState& to, std::size_t joints) {
  for (const Posture* part : {&from.position, &from.velocity, &from.acceleration, &to.position,
                              &to.velocity, &to.acceleration})
    if (static_cast<std::size_t>(part->size()) != joints)
      throw InputError(
          fmt::format("states and limits speak of different numbers of joints: {} and {}",
                      part->size(), joints));
}

double shortest(const AxisMove& move) {
  return std::visit([](const auto& m) { return m.shortest(); }, move);
}
double possible_from(const AxisMove& move, double time) {
  return std::visit([time](const auto& m) { return m.possible_from(time); }, move);
}

// A point in time at which a joint begins another piece.
std::vector<double> switches_of(const StateMove& move) {
  std::vector<double> times{0.0, move.duration()};
  for (int k = 0; k < move.dof(); ++k) {
    double time = 0.0;
    for (int i = 0; i < move.joint(k).count(); ++i)
      times.push_back(time += move.joint(k).piece(i).duration);
  }
  std::sort(times.begin(), times.end());
  return times;
}

}  // namespace

StateMove::StateMove(const JointState& from, const JointState& to,
                     const std::vector<AxisLimits>& limits, const StateMoveOptions& options)
    : dof_(static_cast<int>(limits.size())) {
  check_sizes(from, to, limits.size());
  if (limits.size() > static_cast<std::size_t>(kMaxJoints))
    throw InputError(fmt::format("at most {} joints move together", kMaxJoints));
  if (!(options.at_least >= 0.0) || !std::isfinite(options.at_least))
    throw InputError(fmt::format("a move cannot take {:g} s", options.at_least));
  std::array<AxisMoveSlot, kMaxJoints> moves;
  const auto move = [&](int k) -> const AxisMove& {
    return moves[static_cast<std::size_t>(k)].move;
  };
  duration_ = options.at_least;
  for (int k = 0; k < dof_; ++k) {
    try {
      new (&moves[static_cast<std::size_t>(k)].move)
          AxisMove(move_of(axis_of(from, k), axis_of(to, k), limits[static_cast<std::size_t>(k)]));
    } catch (const InputError& error) {
      throw InputError(fmt::format("joint {}: {}", k + 1, error.what()));
    }
    if (shortest(move(k)) > duration_) {
      duration_ = shortest(move(k));
      slowest_ = k;
    }
  }
  // A joint that cannot wait makes it longer for all, until every one of them can do it.
  for (int k = 0, agreed = 0; agreed < dof_; k = (k + 1) % dof_) {
    const double next = possible_from(move(k), duration_);
    agreed = next > duration_ ? 1 : agreed + 1;
    if (next > duration_) slowest_ = k;
    duration_ = next;
  }
  for (int k = 0; k < dof_; ++k) {
    const bool waits = !options.together && to.velocity[k] == 0.0 && to.acceleration[k] == 0.0;
    const double time = waits ? shortest(move(k)) : duration_;
    profiles_[static_cast<std::size_t>(k)] =
        std::visit([time](const auto& m) { return m.profile(time); }, move(k));
  }
}

void StateMove::at(double time, JointState& out) const {
  for (Posture* part : {&out.position, &out.velocity, &out.acceleration, &out.jerk})
    part->resize(dof_);
  for (int k = 0; k < dof_; ++k) {
    const AxisState state = joint(k).at(time, out.jerk[k]);
    out.position[k] = state.position;
    out.velocity[k] = state.velocity;
    out.acceleration[k] = state.acceleration;
  }
}

JointCurve StateMove::motion() const {
  const std::vector<double> times = switches_of(*this);
  std::vector<CurvePiece> pieces;
  double begin = 0.0;
  for (const double end : times) {
    // Switches that differ by rounding are one.
    if (end - begin <= 1e-12 * duration_) continue;
    CurvePiece piece{end - begin, {}};
    for (int k = 0; k < dof_; ++k) {
      double jerk = 0.0;
      // Looked up in the middle, so that the piece is the one that holds between, and led back.
      const double half = 0.5 * (end - begin);
      const AxisState middle = joint(k).at(begin + half, jerk);
      const AxisState start = advanced(middle, jerk, -half);
      piece.joints.push_back(
          {start.position, start.velocity, 0.5 * start.acceleration, jerk / 6.0, 0.0, 0.0});
    }
    pieces.push_back(std::move(piece));
    begin = end;
  }
  if (pieces.empty()) throw InputError("the move begins where it ends");
  return JointCurve(std::move(pieces));
}

std::vector<AxisLimits> axis_limits(const Limits& limits, double speed) {
  std::vector<AxisLimits> out;
  for (Eigen::Index k = 0; k < limits.velocity.size(); ++k)
    out.push_back(
        symmetric_limits(speed * limits.velocity[k], limits.acceleration[k], limits.jerk[k]));
  return out;
}

}  // namespace er
