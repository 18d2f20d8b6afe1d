// One interval of a line that is swept, looked at with exact shapes: whether a part, or a pair of
// parts, is clear throughout; and if that is open, in which share of it about the middle. See
// sweep.hpp.
#pragma once

#include <algorithm>

#include "elbowroom/collision/sweep.hpp"

namespace er {

/// One sweep's fixed data.
struct SweepQuestion {
  const CellQuery& query;
  const CheckedPairs& pairs;
  const PostureRef& from;
  Posture step;    // to - from
  Posture travel;  // |step|
  const Posture& tube;
  const Posture& turns;  // of links, per unit of each joint
  double clearance;
  bool measure_overlap;

  SweepQuestion(const CellQuery& asked, const PostureRef& begin, const PostureRef& end,
                const SweepOptions& options, const Posture& turns_of_joints)
      : query(asked),
        pairs(asked.pairs()),
        from(begin),
        step(end - begin),
        travel(step.cwiseAbs()),
        tube(options.tube),
        turns(turns_of_joints),
        clearance(options.clearance),
        measure_overlap(options.measure_overlap) {}

  /// How much nearer a pair with this lever can come within `half` of the middle of an interval.
  [[nodiscard]] double bound(const Posture& lever, double half) const {
    return half * lever.dot(travel) + strays(lever) + kMotionMargin;
  }
  [[nodiscard]] double strays(const Posture& lever) const {
    return tube.size() == 0 ? 0.0 : lever.dot(tube);
  }
  [[nodiscard]] double bend(const Posture& lever, double half) const {
    return bend_within(lever, turns, travel, half);
  }
};

/// Each takes precedence over those before.
enum class PairOutcome { clear, open, blocked };

/// The middle of an interval: where everything is then and how it moves, once that is asked for.
class IntervalMiddle {
 public:
  IntervalMiddle(const SweepQuestion& question, double at, double half, SweepMemory& memory)
      : q_(question), at_(at), half_(half), memory_(memory) {}
  [[nodiscard]] const SweepQuestion& question() const { return q_; }
  [[nodiscard]] double half() const { return half_; }
  [[nodiscard]] SeenNormals& normals() { return memory_.normals; }
  /// The share of the interval, about the middle, in which all that stays open is clear.
  [[nodiscard]] double proved() const { return proved_; }
  void only_proved(double share) { proved_ = std::min(proved_, std::max(share, 0.0)); }
  [[nodiscard]] const PartPoses& parts() {
    if (!is_placed_) memory_.parts.place_at(q_.query, q_.from + at_ * q_.step);
    is_placed_ = true;
    return memory_.parts;
  }
  /// Once parts are placed.
  [[nodiscard]] const Twist& twist(int link) {
    if (!has_twists_) link_twists(q_.query.arm(), memory_.parts, q_.step, memory_.twists);
    has_twists_ = true;
    return memory_.twists[static_cast<std::size_t>(link)];
  }

 private:
  const SweepQuestion& q_;
  double at_;
  double half_;
  SweepMemory& memory_;
  bool is_placed_ = false;
  bool has_twists_ = false;
  double proved_ = 1.0;
};

/// A part and all that stands near it, or a self pair. What stays open says how much is proved
/// (IntervalMiddle::only_proved); what blocks, and how much was looked at, goes into `out`.
PairOutcome check_part(IntervalMiddle& middle, int part, Sweep& out);
PairOutcome check_self(IntervalMiddle& middle, const SelfPair& pair, Sweep& out);

}  // namespace er
