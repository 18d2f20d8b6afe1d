#include "elbowroom/collision/interval_check.hpp"

#include <algorithm>

#include "elbowroom/collision/elements.hpp"

namespace er {
namespace {

constexpr double kUnprovable = 1e-7;  // m; bounds on motion below this are not split further
constexpr double kPrecision = 1e-3;   // of a distance, in shares of how much nearer things come
constexpr int kMostElements = 16;     // of meshes and clouds, over an interval that is coarse:
constexpr double kCoarse = 0.002;     // m; where things may come nearer by more than this

// A part of the arm, or what stands: where it is in the middle, and how it moves.
struct Moved {
  const Shape& shape;
  const Pose& pose;
  int link = -1;
  int body = 0;
  int item = 0;  // a number of its own
};

// Two shapes over an interval, by those of their elements that are near each other.
class ShapesCheck {
 public:
  // `shared` is the link that carries both, as seen from which they move; none: the world.
  ShapesCheck(IntervalMiddle& middle, const Moved& a, const Moved& b, int shared,
              const Posture& lever, double margin, Sweep& out)
      : middle_(middle),
        q_(middle.question()),
        a_(a),
        b_(b),
        shared_(shared),
        margin_(margin),
        tube_bound_(q_.bound(lever, 0.0)),
        travel_(q_.bound(lever, middle.half()) - tube_bound_),
        bend_(q_.bend(lever, middle.half())),
        keep_(q_.clearance + margin + tube_bound_),
        out_(out) {}

  PairOutcome run() {
    if (!is_convex(a_.shape) || !is_convex(b_.shape)) return by_elements();
    return of_cores(CoreShape(a_.shape, a_.pose), CoreShape(b_.shape, b_.pose),
                    middle_.normals().of(a_.item, b_.item));
  }

 private:
  // `normal`: of a moment before, or zero; then that of now.
  PairOutcome of_cores(const CoreShape& a, const CoreShape& b, Vector3& normal) {
    ++out_.checks;
    const bool is_known = !normal.isZero(0.0);
    if (is_known && left_after(a, b, normal, middle_.half()) - bend_ > 0.0)
      return PairOutcome::clear;
    // Who wants to know how far it is to what blocks wants it exactly.
    const double precision = q_.measure_overlap ? 0.0 : kPrecision * travel_;
    const Separation s = distance_within(keep_ + travel_, a, b, q_.measure_overlap,
                                         {.precision = precision, .normal = normal});
    if (s.lower_bound > keep_ + travel_) return PairOutcome::clear;
    normal = s.normal;
    const double ends = left_after(a, b, normal, middle_.half()) - bend_;
    if (ends > 0.0) return PairOutcome::clear;
    const PairOutcome outcome = judge(Nearest::of(s, a_.body, b_.body, margin_));
    if (outcome == PairOutcome::blocked) return outcome;
    // What is left is concave over the interval, so it is above the line between two values.
    const double now = left_after(a, b, normal, 0.0);
    middle_.only_proved(std::max((s.lower_bound - keep_) / travel_, now / (now - ends)));
    return outcome;
  }

  // What is left of the distance straight on, above what has to be kept; at any time within `half`.
  double left_after(const CoreShape& a, const CoreShape& b, const Vector3& normal, double half) {
    const Twist shared = twist_of(shared_);
    const Twist twist_a = twist_of(a_.link) - shared;
    const Twist twist_b = twist_of(b_.link) - shared;
    return least_ahead({a, twist_a}, {b, twist_b}, normal, half) - keep_;
  }
  Twist twist_of(int link) { return link < 0 ? Twist{} : middle_.twist(link); }

  // A pair that is not proved clear: too near already, or worth a finer look?
  PairOutcome judge(const Nearest& nearest) {
    const bool is_open = nearest.distance > q_.clearance + tube_bound_ && travel_ > kUnprovable;
    if (!is_open || nearest.distance < out_.blocking.distance) out_.blocking = nearest;
    return is_open ? PairOutcome::open : PairOutcome::blocked;
  }

  // Once it stays open, only what is too near already can change that. Where very many come near,
  // it is cheaper to look at less of the way; but not for ever, or what slides along a fine mesh
  // would not be seen to.
  PairOutcome by_elements() {
    const Elements of_a(a_.shape, a_.pose);
    const Elements of_b(b_.shape, b_.pose);
    PairOutcome outcome = PairOutcome::clear;
    int looked_at = 0;
    const auto reach = [&] { return outcome == PairOutcome::clear ? keep_ + travel_ : keep_; };
    const auto visit = [&](int i, int k) {
      Vector3 normal = Vector3::Zero();
      outcome = std::max(outcome, of_cores(of_a.core(i), of_b.core(k), normal));
      if (++looked_at > kMostElements && outcome == PairOutcome::clear && travel_ > kCoarse)
        outcome = PairOutcome::open;
      return outcome != PairOutcome::blocked;
    };
    NearElements(of_a, of_b, reach, visit).run();
    // What was not looked at any more may be nearer than what was.
    if (outcome == PairOutcome::open) middle_.only_proved(0.0);
    return outcome;
  }

  IntervalMiddle& middle_;
  const SweepQuestion& q_;
  const Moved& a_;
  const Moved& b_;
  int shared_;
  double margin_;
  double tube_bound_;
  double travel_;  // how much nearer they may come, by levers
  double bend_;    // beyond straight on
  double keep_;    // what the distance must be, were there no travel
  Sweep& out_;
};

}  // namespace

PairOutcome check_part(IntervalMiddle& middle, int part, Sweep& out) {
  const SweepQuestion& q = middle.question();
  const MovingPart& moving = q.pairs.moving[static_cast<std::size_t>(part)];
  const Pose& pose = middle.parts().pose(part);
  const double gap = q.clearance + q.bound(moving.lever, middle.half());
  PairOutcome outcome = PairOutcome::clear;
  q.pairs.standing_tree.for_each_near(
      middle.parts().box(part), [&] { return gap; },
      [&](int item) {
        const StandingPart& other = q.pairs.standing[static_cast<std::size_t>(item)];
        if (q.pairs.meant[static_cast<std::size_t>(part)][static_cast<std::size_t>(other.body)])
          return true;
        const int number = static_cast<int>(q.pairs.moving.size()) + item;
        const Moved a{moving.shape, pose, moving.link, moving.body, part};
        const Moved b{other.shape, other.pose, -1, other.body, number};
        const PairOutcome here =
            ShapesCheck(middle, a, b, -1, moving.lever, other.margin, out).run();
        outcome = std::max(outcome, here);
        return outcome != PairOutcome::blocked;
      });
  return outcome;
}

PairOutcome check_self(IntervalMiddle& middle, const SelfPair& pair, Sweep& out) {
  const SweepQuestion& q = middle.question();
  const PartPoses& parts = middle.parts();
  const double gap = q.clearance + q.bound(pair.lever, middle.half());
  if (parts.box(pair.first).gap_to(parts.box(pair.second)) > gap) return PairOutcome::clear;
  const auto moved = [&](int part) -> Moved {
    const MovingPart& one = q.pairs.moving[static_cast<std::size_t>(part)];
    return {one.shape, parts.pose(part), one.link, one.body, part};
  };
  const Moved a = moved(pair.first);
  const Moved b = moved(pair.second);
  return ShapesCheck(middle, a, b, pair.shared, pair.lever, 0.0, out).run();
}

}  // namespace er
