#include "elbowroom/collision/sweep.hpp"

#include <algorithm>
#include <numeric>

#include "elbowroom/collision/elements.hpp"
#include "elbowroom/collision/inside.hpp"

namespace er {
namespace {

constexpr double kWorthProving = 0.12;  // m; first intervals in which balls may move more are split
constexpr double kUnprovable = 1e-7;    // m; bounds on motion below this are not split further
constexpr double kPrecision = 1e-3;     // of a distance, in shares of how much nearer things come
constexpr double kSurely = 0.999;       // of what is proved, for rounding
constexpr int kMostElements = 16;       // of meshes and clouds, over an interval that is coarse:
constexpr double kCoarse = 0.002;       // m; where things may come nearer by more than this

// One sweep's fixed data.
struct Question {
  const CellQuery& query;
  const CheckedPairs& pairs;
  const PostureRef& from;
  Posture step;    // to - from
  Posture travel;  // |step|
  const Posture& tube;
  const Posture& turns;  // of links, per unit of each joint
  double clearance;
  bool measure_overlap;

  Question(const CellQuery& asked, const PostureRef& begin, const PostureRef& end,
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

  // How much nearer a pair with this lever can come within `half` of the middle of an interval.
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

enum class Outcome { clear, open, blocked };  // each takes precedence over those before

// The middle of an interval: where everything is then and how it moves, once that is asked for.
class Middle {
 public:
  Middle(const Question& question, double at, double half, SweepMemory& memory)
      : q_(question), at_(at), half_(half), memory_(memory) {}
  [[nodiscard]] const Question& question() const { return q_; }
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
  [[nodiscard]] const Twist& twist(int link) {
    if (!has_twists_) link_twists(q_.query.arm(), memory_.parts, q_.step, memory_.twists);
    has_twists_ = true;
    return memory_.twists[static_cast<std::size_t>(link)];
  }

 private:
  const Question& q_;
  double at_;
  double half_;
  SweepMemory& memory_;
  bool is_placed_ = false;
  bool has_twists_ = false;
  double proved_ = 1.0;
};

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
  ShapesCheck(Middle& middle, const Moved& a, const Moved& b, int shared, const Posture& lever,
              double margin, Sweep& out)
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

  Outcome run() {
    if (!is_convex(a_.shape) || !is_convex(b_.shape)) return by_elements();
    return of_cores(CoreShape(a_.shape, a_.pose), CoreShape(b_.shape, b_.pose),
                    middle_.normals().of(a_.item, b_.item));
  }

 private:
  // `normal`: of a moment before, or zero; then that of now.
  Outcome of_cores(const CoreShape& a, const CoreShape& b, Vector3& normal) {
    ++out_.checks;
    const bool is_known = !normal.isZero(0.0);
    if (is_known && left_after(a, b, normal, middle_.half()) - bend_ > 0.0) return Outcome::clear;
    // Who wants to know how far it is to what blocks wants it exactly.
    const double precision = q_.measure_overlap ? 0.0 : kPrecision * travel_;
    const Separation s = distance_within(keep_ + travel_, a, b, q_.measure_overlap,
                                         {.precision = precision, .normal = normal});
    if (s.lower_bound > keep_ + travel_) return Outcome::clear;
    normal = s.normal;
    const double ends = left_after(a, b, normal, middle_.half()) - bend_;
    if (ends > 0.0) return Outcome::clear;
    const Outcome outcome = judge(Nearest::of(s, a_.body, b_.body, margin_));
    if (outcome == Outcome::blocked) return outcome;
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
  Outcome judge(const Nearest& nearest) {
    const bool is_open = nearest.distance > q_.clearance + tube_bound_ && travel_ > kUnprovable;
    if (!is_open || nearest.distance < out_.blocking.distance) out_.blocking = nearest;
    return is_open ? Outcome::open : Outcome::blocked;
  }

  // Once it stays open, only what is too near already can change that. Where very many come near,
  // it is cheaper to look at less of the way; but not for ever, or what slides along a fine mesh
  // would not be seen to.
  Outcome by_elements() {
    const Elements of_a(a_.shape, a_.pose);
    const Elements of_b(b_.shape, b_.pose);
    Outcome outcome = Outcome::clear;
    int looked_at = 0;
    const auto reach = [&] { return outcome == Outcome::clear ? keep_ + travel_ : keep_; };
    const auto visit = [&](int i, int k) {
      Vector3 normal = Vector3::Zero();
      outcome = std::max(outcome, of_cores(of_a.core(i), of_b.core(k), normal));
      if (++looked_at > kMostElements && outcome == Outcome::clear && travel_ > kCoarse)
        outcome = Outcome::open;
      return outcome != Outcome::blocked;
    };
    NearElements(of_a, of_b, reach, visit).run();
    // What was not looked at any more may be nearer than what was.
    if (outcome == Outcome::open) middle_.only_proved(0.0);
    return outcome;
  }

  Middle& middle_;
  const Question& q_;
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

Outcome check_part(Middle& middle, int part, Sweep& out) {
  const Question& q = middle.question();
  const MovingPart& moving = q.pairs.moving[static_cast<std::size_t>(part)];
  const Pose& pose = middle.parts().pose(part);
  const double gap = q.clearance + q.bound(moving.lever, middle.half());
  Outcome outcome = Outcome::clear;
  q.pairs.standing_tree.for_each_near(
      middle.parts().box(part), [&] { return gap; },
      [&](int item) {
        const StandingPart& other = q.pairs.standing[static_cast<std::size_t>(item)];
        if (q.pairs.meant[static_cast<std::size_t>(part)][static_cast<std::size_t>(other.body)])
          return true;
        const int number = static_cast<int>(q.pairs.moving.size()) + item;
        const Moved a{moving.shape, pose, moving.link, moving.body, part};
        const Moved b{other.shape, other.pose, -1, other.body, number};
        const Outcome here = ShapesCheck(middle, a, b, -1, moving.lever, other.margin, out).run();
        outcome = std::max(outcome, here);
        return outcome != Outcome::blocked;
      });
  return outcome;
}

Outcome check_self(Middle& middle, const SelfPair& pair, Sweep& out) {
  const Question& q = middle.question();
  const PartPoses& parts = middle.parts();
  const double gap = q.clearance + q.bound(pair.lever, middle.half());
  if (parts.box(pair.first).gap_to(parts.box(pair.second)) > gap) return Outcome::clear;
  const auto moved = [&](int part) -> Moved {
    const MovingPart& one = q.pairs.moving[static_cast<std::size_t>(part)];
    return {one.shape, parts.pose(part), one.link, one.body, part};
  };
  const Moved a = moved(pair.first);
  const Moved b = moved(pair.second);
  return ShapesCheck(middle, a, b, pair.shared, pair.lever, 0.0, out).run();
}

// What a scan left open of one interval: exact shapes where the balls are too near in the middle.
// False when something is too near.
bool look_closer(const Question& q, std::size_t index, unsigned lane, SweepMemory& memory,
                 Sweep& out) {
  const SweepMemory::Interval interval = memory.queue[index];
  const CoverScan& scan = memory.scan;
  Middle middle(q, interval.middle, interval.half, memory);
  const std::size_t parts_begin = memory.open_parts.size();
  const std::size_t pairs_begin = memory.open_pairs.size();
  // False when it is blocked.
  const auto settle = [&](const CoverScan::Open& open, std::vector<int>& still, std::size_t item,
                          auto exact) {
    Outcome outcome = Outcome::clear;
    if (((open.half_way >> lane) & 1U) != 0) {
      middle.only_proved(scan.proved[lane]);
      outcome = Outcome::open;
    }
    if (((open.exact >> lane) & 1U) != 0) outcome = exact(item);
    if (outcome == Outcome::open) still.push_back(static_cast<int>(item));
    if (outcome == Outcome::blocked) out.at = interval.middle;
    return outcome != Outcome::blocked;
  };
  for (std::size_t part = 0; part < scan.open_parts.size(); ++part)
    if (!settle(scan.open_parts[part], memory.open_parts, part,
                [&](std::size_t p) { return check_part(middle, static_cast<int>(p), out); }))
      return false;
  for (std::size_t pair = 0; pair < scan.open_pairs.size(); ++pair)
    if (!settle(scan.open_pairs[pair], memory.open_pairs, pair,
                [&](std::size_t p) { return check_self(middle, q.pairs.self[p], out); }))
      return false;
  const std::size_t part_count = memory.open_parts.size() - parts_begin;
  const std::size_t pair_count = memory.open_pairs.size() - pairs_begin;
  if (part_count + pair_count == 0) return true;
  memory.open.push_back(
      {{interval.middle, interval.half, memory.items.size()}, kSurely * middle.proved()});
  memory.items.push_back({parts_begin, part_count, pairs_begin, pair_count});
  return true;
}

// What is left of the intervals that are open, on both sides of what is proved of them, is what
// comes next; in more pieces than one on each side where there is room beside each other.
void cut_open(SweepMemory& memory) {
  if (memory.open.empty()) return;
  std::size_t cuts = 2;
  while (2 * cuts * memory.open.size() <= CoverScan::kIntervals) cuts *= 2;
  for (const SweepMemory::OpenInterval& open : memory.open) {
    const auto [middle, half, items] = open.interval;
    const double part = half * (1.0 - open.proved) / static_cast<double>(cuts);
    for (std::size_t i = 0; i < cuts / 2; ++i) {
      const double from_end = static_cast<double>(2 * i + 1) * part;
      memory.queue.push_back({middle - half + from_end, part, items});
      memory.queue.push_back({middle + half - from_end, part, items});
    }
  }
  memory.open.clear();
}

// Looks at up to eight intervals, from `first` on in the queue, with the arm's covers.
void scan_intervals(const Question& q, std::size_t first, std::size_t count, SweepMemory& memory) {
  CoverScan& scan = memory.scan;
  // Everything is open in all the intervals that a line is cut into first.
  const bool at_first = memory.queue[first + count - 1].items == 0;
  std::fill(scan.parts.begin(), scan.parts.end(), std::uint8_t(at_first ? 0xff : 0));
  std::fill(scan.pairs.begin(), scan.pairs.end(), std::uint8_t(at_first ? 0xff : 0));
  for (std::size_t lane = 0; lane < CoverScan::kIntervals; ++lane) {
    const SweepMemory::Interval& interval = memory.queue[first + std::min(lane, count - 1)];
    for (Eigen::Index e = 0; e < q.from.size(); ++e)
      scan.middle[static_cast<std::size_t>(e)][lane] = q.from[e] + interval.middle * q.step[e];
    scan.half[lane] = static_cast<float>(interval.half);
    if (lane >= count || at_first) continue;
    const auto bit = static_cast<std::uint8_t>(1U << lane);
    const SweepMemory::OpenItems& items = memory.items[interval.items];
    for (std::size_t n = 0; n < items.parts; ++n)
      scan.parts[static_cast<std::size_t>(memory.open_parts[items.first_part + n])] |= bit;
    for (std::size_t n = 0; n < items.pairs; ++n)
      scan.pairs[static_cast<std::size_t>(memory.open_pairs[items.first_pair + n])] |= bit;
  }
  er::scan(q.query.covers(), q.pairs, scan);
}

// What blocks a line by the balls inside parts alone.
void settle_blocked(const Question& q, std::size_t first, SweepMemory& memory, Sweep& out) {
  const CoverScan::Blocked& found = memory.scan.first_blocked;
  out.at = memory.queue[first + static_cast<std::size_t>(found.lane)].middle;
  if (q.measure_overlap) memory.parts.place_at(q.query, q.from + out.at * q.step);
  const auto settle = [&](int part, const Shape& shape, const Pose& pose, int body, double margin) {
    const MovingPart& moving = q.pairs.moving[static_cast<std::size_t>(part)];
    const Separation apart = q.measure_overlap
                                 ? distance(moving.shape, memory.parts.pose(part), shape, pose)
                                 : Separation{};
    out.blocking = Nearest::of(apart, moving.body, body, margin);
  };
  if (found.standing >= 0) {
    const StandingPart& other = q.pairs.standing[static_cast<std::size_t>(found.standing)];
    settle(found.item, other.shape, other.pose, other.body, other.margin);
  } else {
    const SelfPair& pair = q.pairs.self[static_cast<std::size_t>(found.item)];
    const MovingPart& other = q.pairs.moving[static_cast<std::size_t>(pair.second)];
    settle(pair.first, other.shape, memory.parts.pose(pair.second), other.body, 0.0);
  }
}

// No surface is in the way: so nothing is inside anything solid anywhere, if it is not at first.
bool begins_outside(const Question& q, SweepMemory& memory, Sweep& out) {
  if (!q.pairs.has_solids) return true;
  memory.parts.place_at(q.query, q.from);
  const std::optional<Nearest> inside = find_inside(q.query, memory.parts);
  if (inside) out.blocking = *inside;
  return !inside;
}

}  // namespace

SweepMemory::SweepMemory(const CellQuery& query)
    : parts(query),
      turns(turns_of(query.arm())),
      scan(query.covers(), query.pairs()),
      items{{0, query.pairs().moving.size(), 0, query.pairs().self.size()}},
      open_parts(query.pairs().moving.size()),
      open_pairs(query.pairs().self.size()) {
  std::iota(open_parts.begin(), open_parts.end(), 0);
  std::iota(open_pairs.begin(), open_pairs.end(), 0);
}

Sweep sweep_line(const CellQuery& query, const PostureRef& from, const PostureRef& to,
                 const SweepOptions& options, SweepMemory& memory) {
  const CheckedPairs& pairs = query.pairs();
  const Question q(query, from, to, options, memory.turns);
  Sweep out;
  if (!can_be_placed(from) || !can_be_placed(to)) return out;
  if (query.nearest_to_fixed().distance <= q.clearance) {
    out.blocking = query.nearest_to_fixed();
    return out;
  }
  memory.scan.clearance = rounded_up_to_float(q.clearance);
  memory.scan.set_tube(query.covers(), options.tube);
  memory.normals.forget();
  memory.items.resize(1);
  memory.open_parts.resize(pairs.moving.size());
  memory.open_pairs.resize(pairs.self.size());
  memory.open.clear();
  const auto even_intervals = [&](std::size_t count, double share) {
    memory.queue.resize(count);
    const double length = 1.0 / static_cast<double>(count);
    for (std::size_t i = 0; i < count; ++i)
      memory.queue[i] = {(static_cast<double>(i) + 0.5) * length, share * 0.5 * length, 0};
  };
  // Over the eighths of a long line, everything might come near everything: only look whether
  // it is blocked at eight places, and go on with shorter intervals.
  std::size_t eights = 1;
  const double most_travel = query.covers().ball_levers.most.dot(q.travel);
  while (most_travel > kWorthProving * 16.0 * static_cast<double>(eights) && eights < 64)
    eights *= 2;
  if (eights > 1) {
    even_intervals(CoverScan::kIntervals, 0.0);
    ++out.checks;
    scan_intervals(q, 0, CoverScan::kIntervals, memory);
    if (memory.scan.blocked != 0) {
      settle_blocked(q, 0, memory, out);
      return out;
    }
  }
  memory.scan.set_line(query.covers(), q.step);
  even_intervals(eights * CoverScan::kIntervals, 1.0);

  // Breadth first: coarse intervals everywhere before fine ones anywhere, so that a line that is
  // blocked is found out early.
  for (std::size_t next = 0; next < memory.queue.size();) {
    const std::size_t count =
        std::min(memory.queue.size() - next, std::size_t{CoverScan::kIntervals});
    ++out.checks;
    if (out.checks > options.most_checks) {
      out.gave_up = true;
      out.at = memory.queue[next].middle;
      out.blocking = query.nearest(from + out.at * q.step, memory.parts);
      return out;
    }
    scan_intervals(q, next, count, memory);
    if (memory.scan.blocked != 0) {
      settle_blocked(q, next, memory, out);
      return out;
    }
    for (unsigned lane = 0; lane < count; ++lane)
      if (((memory.scan.open >> lane) & 1U) != 0 && !look_closer(q, next + lane, lane, memory, out))
        return out;
    next += count;
    if (next == memory.queue.size()) cut_open(memory);
  }
  out.free = begins_outside(q, memory, out);
  return out;
}

}  // namespace er
