#include "elbowroom/collision/sweep.hpp"

#include <algorithm>
#include <numeric>

#include "elbowroom/collision/elements.hpp"
#include "elbowroom/collision/inside.hpp"

namespace er {
namespace {

constexpr float kWorthProving = 0.12F;  // m; first intervals in which balls may move more are split
constexpr double kUnprovable = 1e-7;    // m; bounds on motion below this are not split further
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

// A pair that is not proved clear: too near already, or worth a finer look?
Outcome judge(const Nearest& nearest, double bound, const Question& q, double tube_bound,
              Sweep& out) {
  if (nearest.distance > q.clearance + tube_bound && bound - tube_bound > kUnprovable) {
    if (nearest.distance < out.blocking.distance) out.blocking = nearest;
    return Outcome::open;
  }
  out.blocking = nearest;
  return Outcome::blocked;
}

// The middle of an interval: where everything is then and how it moves, once that is asked for.
class Middle {
 public:
  Middle(const Question& question, double at, double half, SweepMemory& memory)
      : q_(question), at_(at), half_(half), memory_(memory) {}
  [[nodiscard]] const Question& question() const { return q_; }
  [[nodiscard]] double half() const { return half_; }
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
};

// A part of the arm, or what stands: where it is in the middle, and how it moves.
struct Moved {
  const Shape& shape;
  const Pose& pose;
  int link = -1;
  int body = 0;
};

// Two shapes by those of their elements that are near each other. `shared` is the link that carries
// both, as seen from which they move; none: the world.
Outcome check_shapes(Middle& middle, const Moved& a, const Moved& b, int shared,
                     const Posture& lever, double margin, Sweep& out) {
  const Question& q = middle.question();
  const double bound = q.bound(lever, middle.half());
  const double tube_bound = q.bound(lever, 0.0);
  const double gap = q.clearance + bound + margin;
  const double bend = q.bend(lever, middle.half());
  const bool is_coarse = bound - tube_bound > kCoarse;
  const auto twist_of = [&](int link) { return link < 0 ? Twist{} : middle.twist(link); };
  const auto check = [&](const CoreShape& core_a, const CoreShape& core_b) {
    ++out.checks;
    const Separation s = distance_within(gap, core_a, core_b, q.measure_overlap);
    if (s.lower_bound > gap) return Outcome::clear;
    const Twist shared_twist = twist_of(shared);
    const double ahead =
        least_ahead({core_a, twist_of(a.link) - shared_twist},
                    {core_b, twist_of(b.link) - shared_twist}, s.normal, middle.half());
    if (ahead - bend > q.clearance + margin + tube_bound) return Outcome::clear;
    return judge(Nearest::of(s, a.body, b.body, margin), bound, q, tube_bound, out);
  };
  if (is_convex(a.shape) && is_convex(b.shape))
    return check(CoreShape(a.shape, a.pose), CoreShape(b.shape, b.pose));
  const Elements of_a(a.shape, a.pose);
  const Elements of_b(b.shape, b.pose);
  Outcome outcome = Outcome::clear;
  // Once it stays open, only what is too near already can change that. Where very many come near,
  // it is cheaper to look at less of the way; but not for ever, or what slides along a fine mesh
  // would not be seen to.
  int looked_at = 0;
  const auto reach = [&] {
    return outcome == Outcome::clear ? gap : q.clearance + margin + tube_bound;
  };
  const auto visit = [&](int i, int k) {
    outcome = std::max(outcome, check(of_a.core(i), of_b.core(k)));
    if (++looked_at > kMostElements && outcome == Outcome::clear && is_coarse)
      outcome = Outcome::open;
    return outcome != Outcome::blocked;
  };
  NearElements(of_a, of_b, reach, visit).run();
  return outcome;
}

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
        const Outcome here = check_shapes(middle, {moving.shape, pose, moving.link, moving.body},
                                          {other.shape, other.pose, -1, other.body}, -1,
                                          moving.lever, other.margin, out);
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
  const MovingPart& a = q.pairs.moving[static_cast<std::size_t>(pair.first)];
  const MovingPart& b = q.pairs.moving[static_cast<std::size_t>(pair.second)];
  return check_shapes(middle, {a.shape, parts.pose(pair.first), a.link, a.body},
                      {b.shape, parts.pose(pair.second), b.link, b.body}, pair.shared, pair.lever,
                      0.0, out);
}

// What a scan left open of one interval: exact shapes where the balls are too near in the middle,
// and what stays open is handed to the two halves. False when something is too near.
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
    if (((open.half_way >> lane) & 1U) != 0) outcome = Outcome::open;
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
  const double half = 0.5 * interval.half;
  for (const double at : {interval.middle - half, interval.middle + half})
    memory.queue.push_back({at, half, parts_begin, part_count, pairs_begin, pair_count});
  return true;
}

// Looks at up to eight intervals, from `first` on in the queue, with the arm's covers.
void scan_intervals(const Question& q, std::size_t first, std::size_t count, SweepMemory& memory) {
  CoverScan& scan = memory.scan;
  // Everything is open in all the intervals that a line is cut into first.
  const bool at_first = memory.queue[first + count - 1].open_part_count == q.pairs.moving.size() &&
                        memory.queue[first + count - 1].first_open == 0;
  std::fill(scan.parts.begin(), scan.parts.end(), std::uint8_t(at_first ? 0xff : 0));
  std::fill(scan.pairs.begin(), scan.pairs.end(), std::uint8_t(at_first ? 0xff : 0));
  for (std::size_t lane = 0; lane < CoverScan::kIntervals; ++lane) {
    const SweepMemory::Interval& interval = memory.queue[first + std::min(lane, count - 1)];
    for (Eigen::Index e = 0; e < q.from.size(); ++e)
      scan.middle[static_cast<std::size_t>(e)][lane] = q.from[e] + interval.middle * q.step[e];
    scan.half[lane] = static_cast<float>(interval.half);
    if (lane >= count || at_first) continue;
    const auto bit = static_cast<std::uint8_t>(1U << lane);
    for (std::size_t n = 0; n < interval.open_part_count; ++n)
      scan.parts[static_cast<std::size_t>(memory.open_parts[interval.first_open + n])] |= bit;
    for (std::size_t n = 0; n < interval.open_pair_count; ++n)
      scan.pairs[static_cast<std::size_t>(memory.open_pairs[interval.first_open_pair + n])] |= bit;
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
  memory.scan.set_line(query.covers(), q.step, options.tube);
  memory.open_parts.resize(pairs.moving.size());
  memory.open_pairs.resize(pairs.self.size());
  const auto even_intervals = [&](std::size_t count, double share) {
    memory.queue.clear();
    for (std::size_t i = 0; i < count; ++i)
      memory.queue.push_back({(static_cast<double>(i) + 0.5) / static_cast<double>(count),
                              share * 0.5 / static_cast<double>(count), 0, pairs.moving.size(), 0,
                              pairs.self.size()});
  };
  // Over the eighths of a long line, everything might come near everything: only look whether
  // it is blocked at eight places, and go on with shorter intervals.
  std::size_t eights = 1;
  while (memory.scan.most_travel > kWorthProving * 16.0F * static_cast<float>(eights) &&
         eights < 64)
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
  }
  out.free = begins_outside(q, memory, out);
  return out;
}

}  // namespace er
