#include "elbowroom/pace/state_move.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <new>
#include <type_traits>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/pace/rest_ramps.hpp"

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

// Whether all joints that move go from rest to rest, within limits that are the same both ways and
// limit jerk: those are solved side by side.
bool rests_at_both_ends(const JointState& from, const JointState& to,
                        const std::vector<AxisLimits>& limits) {
  const auto rates = from.velocity.array().abs() + from.acceleration.array().abs() +
                     to.velocity.array().abs() + to.acceleration.array().abs();
  if (rates.sum() != 0.0) return false;
  // What is wrong with numbers is said where one joint is looked at after the other.
  return std::all_of(limits.begin(), limits.end(),
                     [](const AxisLimits& own) {
                       const bool symmetric = own.velocity_low == -own.velocity_high &&
                                              own.acceleration_low == -own.acceleration_high;
                       return symmetric && own.velocity_high > 0.0 && own.acceleration_high > 0.0 &&
                              own.jerk > 0.0 && std::isfinite(own.jerk);
                     }) &&
         std::isfinite((to.position - from.position).sum());
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
  duration_ = options.at_least;
  if (rests_at_both_ends(from, to, limits))
    solve_rests(from, to, limits, options.together);
  else
    solve_any(from, to, limits, options.together);
}

StateMove::StateMove(const StateMove& other) { *this = other; }  // NOLINT: profiles are not set

StateMove& StateMove::operator=(const StateMove& other) {
  if (this == &other) return *this;
  dof_ = other.dof_;
  slowest_ = other.slowest_;
  duration_ = other.duration_;
  for (int k = 0; k < dof_; ++k)
    new (&profiles_[static_cast<std::size_t>(k)].profile) AxisProfile(other.joint(k));
  return *this;
}

void StateMove::solve_rests(const JointState& from, const JointState& to,
                            const std::vector<AxisLimits>& limits, bool together) {
  constexpr auto kGroups = static_cast<std::size_t>(kMaxJoints / kRestWays);
  std::array<RestWays, kGroups> groups;  // of the joints that move, in order
  std::array<int, kMaxJoints> joints;    // NOLINT: not initialised
  std::size_t groups_in_use = 0;
  for (int k = 0; k < dof_; ++k) {
    const auto joint = static_cast<std::size_t>(k);
    new (&profiles_[joint].profile) AxisProfile({from.position[k], 0.0, 0.0});
    const double distance = to.position[k] - from.position[k];
    if (distance == 0.0) continue;
    if (groups_in_use == 0 || groups[groups_in_use - 1].count == kRestWays) ++groups_in_use;
    RestWays& ways = groups[groups_in_use - 1];
    const auto i = static_cast<std::size_t>(ways.count++);
    joints[(groups_in_use - 1) * kRestWays + i] = k;
    ways.start[i] = from.position[k];
    ways.distance[i] = distance;
    ways.velocity[i] = limits[joint].velocity_high;
    ways.acceleration[i] = limits[joint].acceleration_high;
    ways.jerk[i] = limits[joint].jerk;
  }
  RestRamps ramps;
  const auto add = [&](std::size_t group) {
    for (int i = 0; i < groups[group].count; ++i) {
      const int k = joints[group * kRestWays + static_cast<std::size_t>(i)];
      add_ramps(ramps, i, profiles_[static_cast<std::size_t>(k)].profile);
    }
  };
  for (std::size_t group = 0; group < groups_in_use; ++group) {
    RestWays& ways = groups[group];
    if (together) {
      set_least_times(ways);
    } else {
      quickest_ramps(ways, ramps);
      add(group);
    }
    for (std::size_t i = 0; i < static_cast<std::size_t>(ways.count); ++i) {
      if (ways.time[i] <= duration_) continue;
      duration_ = ways.time[i];
      slowest_ = joints[group * kRestWays + i];
    }
  }
  if (!together) return;
  for (std::size_t group = 0; group < groups_in_use; ++group) {
    groups[group].time.fill(duration_);
    rest_ramps(groups[group], ramps);
    add(group);
  }
  for (int k = 0; k < dof_; ++k)
    if (joint(k).count() == 0) profiles_[static_cast<std::size_t>(k)].profile.add(duration_, 0.0);
}

void StateMove::solve_any(const JointState& from, const JointState& to,
                          const std::vector<AxisLimits>& limits, bool together) {
  std::array<AxisMoveSlot, kMaxJoints> moves;
  const auto move = [&](int k) -> const AxisMove& {
    return moves[static_cast<std::size_t>(k)].move;
  };
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
    const bool waits = !together && to.velocity[k] == 0.0 && to.acceleration[k] == 0.0;
    const double time = waits ? shortest(move(k)) : duration_;
    new (&profiles_[static_cast<std::size_t>(k)].profile)
        AxisProfile(std::visit([time](const auto& m) { return m.profile(time); }, move(k)));
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
  for (Eigen::Index k = 0; k < limits.velocity.size(); ++k) {
    const WayLimits velocity = limits.velocity_of(k);
    const WayLimits acceleration = limits.acceleration_of(k);
    out.push_back({speed * velocity.low, speed * velocity.high, acceleration.low, acceleration.high,
                   limits.jerk[k]});
  }
  return out;
}

}  // namespace er
