#include "elbowroom/collision/least_clearance.hpp"

#include <algorithm>
#include <cmath>
#include <queue>

namespace er {
namespace {

// For paths that touch something, too.
LeastClearance by_branch_and_bound(const CellQuery& query, const std::vector<Posture>& postures,
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
    return most_closing(query.pairs(), (postures[line + 1] - postures[line]).cwiseAbs());
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
    open.push({here.distance - half * rate[line] - kMotionMargin, line, middle, half});
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

// For paths that are free: what can be proved of each line and what cannot close in on the least.
class FreePath {
 public:
  FreePath(const CellQuery& query, const std::vector<Posture>& postures, double accuracy)
      : query_(query), postures_(postures), accuracy_(accuracy), memory_(query) {}

  // False when something comes so near, or touches, that this way does not tell.
  bool find(LeastClearance& out) {
    const std::size_t lines = postures_.size() - 1;
    for (std::size_t line = 0; line < lines; line += 1 + lines / kFirstLooks) look(line, 0.5);
    double lower = std::numeric_limits<double>::infinity();
    for (std::size_t line = 0; line < lines; ++line) {
      double proved = 0.0;
      // Above this nothing can be proved, or is of no interest: another line comes nearer.
      double ceiling = std::min(best_.nearest.distance, kFar);
      if (!(ceiling > accuracy_)) return false;
      for (double aim = ceiling - accuracy_; ceiling - proved > 1.001 * accuracy_;
           aim = 0.5 * (proved + ceiling)) {
        if (keeps(line, aim)) {
          proved = aim;
          continue;
        }
        ceiling = std::min(aim, best_.nearest.distance);
        if (!(ceiling > accuracy_)) return false;
      }
      lower = std::min(lower, proved);
    }
    best_.lower = std::isinf(best_.nearest.distance) ? best_.nearest.distance : lower;
    out = best_;
    return true;
  }

 private:
  static constexpr std::size_t kFirstLooks = 16;  // spread over the lines
  static constexpr double kFar = 10.0;            // m; where nothing was seen to meet at all

  void look(std::size_t line, double at) {
    const Posture q = at == 0.0
                          ? postures_[line]
                          : Posture(postures_[line] + at * (postures_[line + 1] - postures_[line]));
    const Nearest here = query_.nearest(q, memory_.parts);
    if (here.distance >= best_.nearest.distance) return;
    best_.nearest = here;
    best_.at = static_cast<double>(line) + at;
  }

  bool keeps(std::size_t line, double clearance) {
    const Sweep sweep = sweep_line(query_, postures_[line], postures_[line + 1],
                                   {.clearance = clearance, .measure_overlap = false}, memory_);
    if (!sweep.free) look(line, sweep.at);
    return sweep.free;
  }

  const CellQuery& query_;
  const std::vector<Posture>& postures_;
  double accuracy_;
  SweepMemory memory_;
  LeastClearance best_;
};

}  // namespace

LeastClearance least_clearance(const CellQuery& query, const std::vector<Posture>& postures,
                               double accuracy) {
  LeastClearance out;
  if (postures.size() > 1 && FreePath(query, postures, accuracy).find(out)) return out;
  return by_branch_and_bound(query, postures, accuracy);
}

}  // namespace er
