// Proofs about whole moves: a straight joint line from one posture to another, not samples of it.
//
// At the middle of an interval the distance of each pair of parts is known; over the interval no
// point of a part can come nearer by more than (joint travel) x (lever). Where the distance is more
// than that bound plus the clearance, the pair is proved clear of each other for the whole
// interval; where not, it may be proved to second order (approach.hpp), as of what slides along
// something; where not either, some of the interval is proved, about its middle, and what is left
// on both sides is looked at again, for those pairs only. No step size, nothing jumped. Eight
// intervals at a time are looked at with balls that cover the parts (cover_scan.hpp); exact shapes
// are only asked where the balls come too near, and begin with the direction in which the same pair
// was nearest a moment before. (In the spirit of F. Schwarzer, M. Saha and J.-C. Latombe, "Adaptive
// dynamic collision checking", 2005.)
#pragma once

#include <vector>

#include "elbowroom/collision/approach.hpp"
#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/collision/cover_scan.hpp"
#include "elbowroom/collision/seen_normals.hpp"

namespace er {

struct SweepOptions {
  /// Every pair must stay further apart than this, metres.
  double clearance = 0.0;
  /// How far each joint may stray from the straight line during the move, radians or metres; empty
  /// means not at all. The proof then holds for every motion within that tube.
  Posture tube = {};
  /// Pairs of exact shapes, and eights of intervals, looked at before the sweep gives up; a line
  /// that it gives up on counts as not free. For loops whose time is bounded; otherwise leave it.
  long most_checks = std::numeric_limits<long>::max();
  /// How deep the pair that blocks the line overlaps takes a while to find out; without it, 0.
  bool measure_overlap = true;
};

/// What a sweep found.
struct Sweep {
  bool free = false;
  bool gave_up = false;  ///< not free for `most_checks` alone; `blocking` is the nearest there
  double at = 0.0;       ///< when not free: how far along the move (0 to 1) the pair is too near
  Nearest blocking;      ///< when not free: the pair, at that point
  long checks = 0;       ///< pairs of exact shapes, and eights of intervals, looked at
};

/// Working memory for sweeps; one per thread, reused from call to call. After the first few calls
/// a sweep allocates nothing.
class SweepMemory {
 public:
  explicit SweepMemory(const CellQuery& query);
  /// What is still to be looked at: so many from so far on in `open_parts` and `open_pairs`.
  struct OpenItems {
    std::size_t first_part = 0;
    std::size_t parts = 0;
    std::size_t first_pair = 0;
    std::size_t pairs = 0;
  };
  struct Interval {
    double middle;
    double half;
    std::size_t items;  ///< which of `items`
  };
  struct OpenInterval {
    Interval interval;
    double proved = 0.0;  ///< the share of it, about the middle, that needs no other look
  };
  PartPoses parts;
  std::vector<Twist> twists;  ///< of the links, in the middle of the interval
  Posture turns;              ///< per joint
  CoverScan scan;
  SeenNormals normals;
  std::vector<Interval> queue;
  std::vector<OpenInterval> open;  ///< of those that were looked at last
  std::vector<OpenItems> items;    ///< first all there are
  std::vector<int> open_parts;     ///< the same
  std::vector<int> open_pairs;
};

/// Proves the straight joint line free, or finds where it is not. One that ends nowhere (NaN,
/// infinite) is not free. A pair that stays within a tenth
/// of a micrometre of the clearance cannot be proved and counts as not free.
Sweep sweep_line(const CellQuery& query, const PostureRef& from, const PostureRef& to,
                 const SweepOptions& options, SweepMemory& memory);

}  // namespace er
