#include "elbowroom/collision/sweep.hpp"

#include <algorithm>
#include <numeric>

#include "elbowroom/base/float_rounding.hpp"
#include "elbowroom/collision/inside.hpp"
#include "elbowroom/collision/interval_check.hpp"

namespace er {
namespace {

constexpr double kWorthProving = 0.09;  // m; first intervals in which balls may move more are split
constexpr double kSurely = 0.999;       // of what is proved, for rounding

// What a scan left open of one interval: exact shapes where the balls are too near in the middle.
// False when something is too near.
bool look_closer(const SweepQuestion& q, std::size_t index, unsigned lane, SweepMemory& memory,
                 Sweep& out) {
  const SweepMemory::Interval interval = memory.queue[index];
  const CoverScan& scan = memory.scan;
  IntervalMiddle middle(q, interval.middle, interval.half, memory);
  const std::size_t parts_begin = memory.open_parts.size();
  const std::size_t pairs_begin = memory.open_pairs.size();
  // False when it is blocked.
  const auto settle = [&](const CoverScan::Open& open, std::vector<int>& still, std::size_t item,
                          auto exact) {
    PairOutcome outcome = PairOutcome::clear;
    if (((open.half_way >> lane) & 1U) != 0) {
      middle.only_proved(scan.proved[lane]);
      outcome = PairOutcome::open;
    }
    if (((open.exact >> lane) & 1U) != 0) outcome = exact(item);
    if (outcome == PairOutcome::open) still.push_back(static_cast<int>(item));
    if (outcome == PairOutcome::blocked) out.at = interval.middle;
    return outcome != PairOutcome::blocked;
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
void scan_intervals(const SweepQuestion& q, std::size_t first, std::size_t count,
                    CoverScan::Find find, SweepMemory& memory) {
  CoverScan& scan = memory.scan;
  // Everything is open in all the intervals that a line is cut into first.
  const bool at_first = memory.queue[first + count - 1].items == 0;
  std::fill(scan.parts.begin(), scan.parts.end(), std::uint8_t(at_first ? 0xff : 0));
  std::fill(scan.pairs.begin(), scan.pairs.end(), std::uint8_t(at_first ? 0xff : 0));
  std::array<double, CoverScan::kIntervals> middles = {};
  for (std::size_t lane = 0; lane < CoverScan::kIntervals; ++lane) {
    const SweepMemory::Interval& interval = memory.queue[first + std::min(lane, count - 1)];
    middles[lane] = interval.middle;
    scan.half[lane] = static_cast<float>(interval.half);
    if (lane >= count || at_first) continue;
    const auto bit = static_cast<std::uint8_t>(1U << lane);
    const SweepMemory::OpenItems& items = memory.items[interval.items];
    for (std::size_t n = 0; n < items.parts; ++n)
      scan.parts[static_cast<std::size_t>(memory.open_parts[items.first_part + n])] |= bit;
    for (std::size_t n = 0; n < items.pairs; ++n)
      scan.pairs[static_cast<std::size_t>(memory.open_pairs[items.first_pair + n])] |= bit;
  }
  for (Eigen::Index e = 0; e < q.from.size(); ++e)
    for (std::size_t lane = 0; lane < CoverScan::kIntervals; ++lane)
      scan.middle[static_cast<std::size_t>(e)][lane] = q.from[e] + middles[lane] * q.step[e];
  er::scan(q.query.covers(), q.pairs, scan, find);
}

// What blocks a line by the balls inside parts alone.
void settle_blocked(const SweepQuestion& q, std::size_t first, SweepMemory& memory, Sweep& out) {
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
bool begins_outside(const SweepQuestion& q, SweepMemory& memory, Sweep& out) {
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
  const SweepQuestion q(query, from, to, options, memory.turns);
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
  const auto even_intervals = [&](std::size_t count) {
    memory.queue.resize(count);
    const double length = 1.0 / static_cast<double>(count);
    for (std::size_t i = 0; i < count; ++i)
      memory.queue[i] = {(static_cast<double>(i) + 0.5) * length, 0.5 * length, 0};
  };
  // Over the eighths of a long line, everything might come near everything: only look whether
  // it is blocked at eight places, and go on with shorter intervals.
  std::size_t eights = 1;
  const double most_travel = query.covers().ball_levers.most.dot(q.travel);
  while (most_travel > kWorthProving * 16.0 * static_cast<double>(eights) && eights < 64)
    eights *= 2;
  if (eights > 1) {
    even_intervals(CoverScan::kIntervals);
    ++out.checks;
    scan_intervals(q, 0, CoverScan::kIntervals, CoverScan::Find::blocked_place, memory);
    if (memory.scan.blocked != 0) {
      settle_blocked(q, 0, memory, out);
      return out;
    }
  }
  memory.scan.set_line(query.covers(), q.step);
  even_intervals(eights * CoverScan::kIntervals);

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
    scan_intervals(q, next, count, CoverScan::Find::first_blocked, memory);
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
