// One joint by itself: its state, its limits, and motions of constant jerk, piece by piece.
#pragma once

#include <algorithm>
#include <array>
#include <cassert>
#include <limits>
#include <string>

namespace er {

/// Radians or metres, and per second to the power 1 and 2.
struct AxisState {
  double position = 0.0;
  double velocity = 0.0;
  double acceleration = 0.0;
};

/// Lower limits are below zero, upper ones above; the jerk limit holds both ways. An infinite jerk
/// limit lets accelerations jump; velocity limits may be infinite, too.
struct AxisLimits {
  double velocity_low = -std::numeric_limits<double>::infinity();
  double velocity_high = std::numeric_limits<double>::infinity();
  double acceleration_low = 0.0;
  double acceleration_high = 0.0;
  double jerk = std::numeric_limits<double>::infinity();
};

/// The same limit both ways.
AxisLimits symmetric_limits(double velocity, double acceleration, double jerk);

/// InputError unless limits of velocity and acceleration are below and above zero.
void check_limits(const AxisLimits& limits);

/// "" when a motion can end in `to` and keep the limits, or which it breaks: "its velocity of 3 is
/// above the limit of 2". An acceleration counts with the velocity that it came from.
std::string target_breach(const AxisState& to, const AxisLimits& limits);
/// InputError where there is a breach.
void check_target(const AxisState& to, const AxisLimits& limits);

struct AxisPiece {
  double duration = 0.0;
  double jerk = 0.0;
  AxisState start = {};
};

/// After so long at constant jerk.
inline AxisState advanced(const AxisState& state, double jerk, double time) {
  return {state.position + time * (state.velocity +
                                   time * (0.5 * state.acceleration + (1.0 / 6.0) * (time * jerk))),
          state.velocity + time * (state.acceleration + 0.5 * (time * jerk)),
          state.acceleration + time * jerk};
}

/// Pieces one after another, without a gap. Allocates nothing.
class AxisProfile {
 public:
  static constexpr int kMostPieces = 24;

  AxisProfile() = default;
  explicit AxisProfile(const AxisState& start) : end_(start) {}
  // Copies what there is of the pieces and no more.
  AxisProfile(const AxisProfile& other)
      : count_(other.count_), duration_(other.duration_), end_(other.end_) {
    std::copy_n(other.pieces_.begin(), count_, pieces_.begin());
  }
  AxisProfile& operator=(const AxisProfile& other) {
    count_ = other.count_;
    duration_ = other.duration_;
    end_ = other.end_;
    std::copy_n(other.pieces_.begin(), count_, pieces_.begin());
    return *this;
  }

  /// Goes on from the end. Pieces of no length are left out.
  void add(double duration, double jerk) {
    if (duration > 0.0)
      add_known<1>([&](std::size_t) -> KnownPiece {
        return {duration, jerk, advanced(end_, jerk, duration)};
      });
  }
  /// Of which it is known already where it leads.
  struct KnownPiece {
    double duration;  ///< not below zero
    double jerk;
    AxisState end;
  };
  /// The same for `kCount` pieces, told by their number. Those of no length are written anyway, and
  /// over by the next: quicker than to guess which they are.
  template <int kCount, class PieceAt>
  void add_known(const PieceAt& piece_at) {
    assert(count_ + kCount <= kMostPieces);
    int count = count_;
    double duration = duration_;
    AxisState end = end_;
    for (std::size_t i = 0; i < kCount; ++i) {
      const KnownPiece piece = piece_at(i);
      pieces_[static_cast<std::size_t>(count)] = {piece.duration, piece.jerk, end.position,
                                                  end.velocity, end.acceleration};
      count += piece.duration > 0.0 ? 1 : 0;
      duration += piece.duration;
      end = piece.end;
    }
    count_ = count;
    duration_ = duration;
    end_ = end;
  }
  /// Lets acceleration jump before that; for motions without a jerk limit.
  void add_with_acceleration(double duration, double acceleration);

  [[nodiscard]] int count() const { return count_; }
  [[nodiscard]] AxisPiece piece(int index) const;
  [[nodiscard]] double duration() const { return duration_; }
  [[nodiscard]] const AxisState& end() const { return end_; }
  /// Held at the ends outside [0, duration].
  [[nodiscard]] AxisState at(double time) const;
  /// The jerk there, too: 0 at rest at the ends.
  AxisState at(double time, double& jerk) const;

 private:
  // Of each piece: duration, jerk, and position, velocity and acceleration at its start. Not set
  // before there is one: that would take as long as finding them does.
  std::array<std::array<double, 5>, kMostPieces> pieces_;  // NOLINT: not initialised
  int count_ = 0;
  double duration_ = 0.0;
  AxisState end_ = {};
};

}  // namespace er
