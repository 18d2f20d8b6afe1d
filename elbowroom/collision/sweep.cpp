#include "elbowroom/collision/sweep.hpp"

#include <algorithm>
#include <queue>

namespace er {
namespace {

constexpr double kMargin = 1e-9;      // m; covers the rounding of poses and sums
constexpr double kUnprovable = 1e-7;  // m; bounds on motion below this are not split further

Nearest nearest_of(const Separation& s, int first, int second, double margin) {
  return {s.distance - margin, first, second, s.point_a, s.point_b};
}

// One sweep's fixed data.
struct Question {
  const CellQuery& query;
  const CheckedPairs& pairs;
  Posture from;
  Posture step;    // to - from
  Posture travel;  // |step|
  Posture tube;
  const Posture& turns;  // of links, per unit of each joint
  double clearance;

  // How much nearer a pair with this lever can come within `half` of the middle of an interval.
  [[nodiscard]] double bound(const Posture& lever, double half) const {
    return lever.dot(half * travel + tube) + kMargin;
  }
  [[nodiscard]] double bend(const Posture& lever, double half) const {
    return bend_within(lever, turns, travel, half);
  }
};

enum class Outcome { clear, open, blocked };

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

// The middle of an interval: where everything is then, and, once that is asked for, how it moves.
class Middle {
 public:
  Middle(const Question& question, double at, double half, SweepMemory& memory)
      : q_(question), half_(half), memory_(memory) {
    memory_.parts.place_at(q_.query, q_.from + at * q_.step);
  }
  [[nodiscard]] const Question& question() const { return q_; }
  [[nodiscard]] double half() const { return half_; }
  [[nodiscard]] const PartPoses& parts() const { return memory_.parts; }
  [[nodiscard]] const Twist& twist(int link) {
    if (!has_twists_) link_twists(q_.query.arm(), memory_.parts, q_.step, memory_.twists);
    has_twists_ = true;
    return memory_.twists[static_cast<std::size_t>(link)];
  }

 private:
  const Question& q_;
  double half_;
  SweepMemory& memory_;
  bool has_twists_ = false;
};

Outcome check_part(Middle& middle, int part, Sweep& out) {
  const Question& q = middle.question();
  const MovingPart& moving = q.pairs.moving[static_cast<std::size_t>(part)];
  const Pose& pose = middle.parts().pose(part);
  const double bound = q.bound(moving.lever, middle.half());
  const double tube_bound = q.bound(moving.lever, 0.0);
  const double gap = q.clearance + bound;
  Outcome outcome = Outcome::clear;
  q.pairs.standing_tree.for_each_near(
      middle.parts().box(part), [&] { return gap; },
      [&](int item) {
        const StandingPart& other = q.pairs.standing[static_cast<std::size_t>(item)];
        if (q.pairs.meant[static_cast<std::size_t>(part)][static_cast<std::size_t>(other.body)])
          return true;
        ++out.checks;
        if (further_apart_than(gap + other.margin, moving.shape, pose, other.shape, other.pose))
          return true;
        const Separation s = distance(moving.shape, pose, other.shape, other.pose);
        const double ahead = least_ahead({moving.shape, pose, middle.twist(moving.link)},
                                         {other.shape, other.pose}, s.normal, middle.half());
        if (ahead - q.bend(moving.lever, middle.half()) > q.clearance + other.margin + tube_bound)
          return true;
        outcome =
            judge(nearest_of(s, moving.body, other.body, other.margin), bound, q, tube_bound, out);
        return outcome != Outcome::blocked;
      });
  return outcome;
}

Outcome check_self(Middle& middle, const SelfPair& pair, Sweep& out) {
  const Question& q = middle.question();
  const PartPoses& parts = middle.parts();
  const double bound = q.bound(pair.lever, middle.half());
  const double tube_bound = q.bound(pair.lever, 0.0);
  const double gap = q.clearance + bound;
  if (parts.box(pair.first).gap_to(parts.box(pair.second)) > gap) return Outcome::clear;
  ++out.checks;
  const MovingPart& a = q.pairs.moving[static_cast<std::size_t>(pair.first)];
  const MovingPart& b = q.pairs.moving[static_cast<std::size_t>(pair.second)];
  const Pose& pose_a = parts.pose(pair.first);
  const Pose& pose_b = parts.pose(pair.second);
  if (further_apart_than(gap, a.shape, pose_a, b.shape, pose_b)) return Outcome::clear;
  const Separation s = distance(a.shape, pose_a, b.shape, pose_b);
  // As seen from the link that carries both.
  const Twist shared = middle.twist(pair.shared);
  const double ahead =
      least_ahead({a.shape, pose_a, middle.twist(a.link) - shared},
                  {b.shape, pose_b, middle.twist(b.link) - shared}, s.normal, middle.half());
  if (ahead - q.bend(pair.lever, middle.half()) > q.clearance + tube_bound) return Outcome::clear;
  return judge(nearest_of(s, a.body, b.body, 0.0), bound, q, tube_bound, out);
}

}  // namespace

Sweep sweep_line(const CellQuery& query, const PostureRef& from, const PostureRef& to,
                 const SweepOptions& options, SweepMemory& memory) {
  const CheckedPairs& pairs = query.pairs();
  const Question q{query,
                   pairs,
                   from,
                   to - from,
                   (to - from).cwiseAbs(),
                   options.tube.size() > 0 ? options.tube : Posture(Posture::Zero(from.size())),
                   memory.turns,
                   options.clearance};
  Sweep out;
  memory.queue.clear();
  memory.open_parts.clear();
  memory.open_pairs.clear();
  for (int i = 0; i < static_cast<int>(pairs.moving.size()); ++i) memory.open_parts.push_back(i);
  for (int i = 0; i < static_cast<int>(pairs.self.size()); ++i) memory.open_pairs.push_back(i);
  memory.queue.push_back({0.5, 0.5, 0, pairs.moving.size(), 0, pairs.self.size()});

  // Breadth first: coarse intervals everywhere before fine ones anywhere, so that a line that is
  // blocked is found out early.
  for (std::size_t next = 0; next < memory.queue.size(); ++next) {
    if (out.checks > options.most_checks) {
      out.gave_up = true;
      return out;
    }
    const SweepMemory::Interval interval = memory.queue[next];
    Middle middle(q, interval.middle, interval.half, memory);
    const std::size_t parts_begin = memory.open_parts.size();
    const std::size_t pairs_begin = memory.open_pairs.size();
    const auto settle = [&](Outcome outcome, std::vector<int>& open, int item) {
      if (outcome == Outcome::open) open.push_back(item);
      if (outcome == Outcome::blocked) out.at = interval.middle;
      return outcome != Outcome::blocked;
    };
    for (std::size_t n = 0; n < interval.open_part_count; ++n) {
      const int part = memory.open_parts[interval.first_open + n];
      const Outcome outcome = check_part(middle, part, out);
      if (!settle(outcome, memory.open_parts, part)) return out;
    }
    for (std::size_t n = 0; n < interval.open_pair_count; ++n) {
      const int pair = memory.open_pairs[interval.first_open_pair + n];
      const Outcome outcome = check_self(middle, pairs.self[static_cast<std::size_t>(pair)], out);
      if (!settle(outcome, memory.open_pairs, pair)) return out;
    }
    const std::size_t part_count = memory.open_parts.size() - parts_begin;
    const std::size_t pair_count = memory.open_pairs.size() - pairs_begin;
    if (part_count + pair_count == 0) continue;
    const double half = 0.5 * interval.half;
    for (const double at : {interval.middle - half, interval.middle + half})
      memory.queue.push_back({at, half, parts_begin, part_count, pairs_begin, pair_count});
  }
  out.free = true;
  return out;
}

LeastClearance least_clearance(const CellQuery& query, const std::vector<Posture>& postures,
                               double accuracy) {
  // Branch and bound: an interval whose middle is `d` apart and whose parts can come nearer by at
  // most `b` holds nothing below d - b. The interval with the lowest such floor is split next.
  struct Piece {
    double floor;
    std::size_t line;
    double middle;
    double half;
    bool operator<(const Piece& other) const { return floor > other.floor; }
  };
  LeastClearance best;
  PartPoses parts(query);
  std::priority_queue<Piece> open;
  const std::size_t lines = std::max<std::size_t>(1, postures.size() - 1);
  // The furthest that any pair can close in over one unit of a line: one number for all pairs.
  const auto closing = [&](std::size_t line) {
    if (postures.size() == 1) return 0.0;
    const Posture travel = (postures[line + 1] - postures[line]).cwiseAbs();
    double most = 0.0;
    for (const MovingPart& part : query.pairs().moving)
      most = std::max(most, part.lever.dot(travel));
    for (const SelfPair& pair : query.pairs().self) most = std::max(most, pair.lever.dot(travel));
    return most;
  };
  std::vector<double> rate(lines);
  for (std::size_t line = 0; line < lines; ++line) rate[line] = closing(line);
  const auto look = [&](std::size_t line, double middle, double half) {
    const Posture q =
        postures.size() == 1
            ? postures[0]
            : Posture(postures[line] + middle * (postures[line + 1] - postures[line]));
    const Nearest here = query.nearest(q, parts);
    if (here.distance < best.nearest.distance) {
      best.nearest = here;
      best.at = static_cast<double>(line) + middle;
    }
    open.push({here.distance - half * rate[line] - kMargin, line, middle, half});
  };
  for (std::size_t line = 0; line < lines; ++line) look(line, 0.5, 0.5);
  while (!open.empty()) {
    const Piece piece = open.top();
    best.lower = piece.floor;
    if (!(piece.floor < best.nearest.distance - accuracy)) break;
    open.pop();
    const double half = 0.5 * piece.half;
    look(piece.line, piece.middle - half, half);
    look(piece.line, piece.middle + half, half);
  }
  return best;
}

}  // namespace er
