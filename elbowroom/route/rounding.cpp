#include "elbowroom/route/rounding.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/collision/curve_sweep.hpp"

namespace er {
namespace {

// The curve is this share of its cut, times the change of direction, from the corner at most.
constexpr double kDepth = 3.0 / 16.0;
// A corner is moved so many times the depth, or the curve would lie on what the corner lay on.
constexpr double kOutward = 1.1;
// Cuts are halved so often before a corner is left as it is.
constexpr int kHalvings = 8;
// Waypoints that are nearer to each other than this are the same.
constexpr double kSame = 1e-9;
// Directions that differ by less are the same.
constexpr double kStraightOn = 1e-9;
// Cuts shorter than this (joint travel) are no use.
constexpr double kShortestCut = 1e-4;

// A straight line, its parameter the joint travel.
CurvePiece line(const Posture& from, const Posture& to) {
  const double length = (to - from).norm();
  CurvePiece piece{length, {}};
  for (Eigen::Index k = 0; k < from.size(); ++k)
    piece.joints.push_back(
        {from[k], length > 0.0 ? (to[k] - from[k]) / length : 0.0, 0.0, 0.0, 0.0, 0.0});
  return piece;
}

// Puts a path together: a corner that is not cut ends a stretch.
class Stretches {
 public:
  void add(CurvePiece piece, const RoundedPath::Lines& lines) {
    pieces_.push_back(std::move(piece));
    lines_.push_back(lines);
  }
  void corner(Corner corner) {
    if (corner.cut == 0.0) end_stretch();
    path_.corners.push_back(std::move(corner));
  }
  RoundedPath finish() {
    end_stretch();
    return std::move(path_);
  }

 private:
  void end_stretch() {
    if (pieces_.empty()) return;
    path_.stretches.emplace_back(std::move(pieces_));
    path_.lines.push_back(std::move(lines_));
    pieces_.clear();
    lines_.clear();
  }

  RoundedPath path_;
  std::vector<CurvePiece> pieces_;
  std::vector<RoundedPath::Lines> lines_;
};

class Rounding {
 public:
  Rounding(const CellQuery& query, const std::vector<Posture>& waypoints,
           const RoundingOptions& options)
      : query_(query), options_(options), memory_(query) {
    for (std::size_t i = 0; i < waypoints.size(); ++i) add_point(waypoints[i], i);
    if (points_.size() < 2) throw InputError("a path needs two different waypoints");
    cuts_.assign(points_.size(), 0.0);
    moved_.assign(points_.size(), false);
    tool_lever_ = options.link >= 0 ? lever_of_point(query.arm(), options.link, options.tip)
                                    : Posture::Zero(query.arm().dof());
  }

  RoundedPath path() {
    // From the first corner to the last, each against what became of the one before.
    for (std::size_t i = 1; i + 1 < points_.size(); ++i) round(i);
    Stretches out;
    for (std::size_t i = 1; i < points_.size(); ++i) {
      const CurvePiece to = line(start_of_line_to(i), points_[i] - cuts_[i] * direction(i - 1));
      if (to.duration > 1e-12) out.add(to, {numbers_[i - 1] + 1, numbers_[i]});
      if (i + 1 == points_.size()) break;
      out.corner({numbers_[i], cuts_[i], moved_[i], deviation(i)});
      if (cuts_[i] > 0.0) out.add(blend(i), {numbers_[i - 1] + 1, numbers_[i + 1]});
    }
    return out.finish();
  }

 private:
  // Points that are the one before, or on the straight line on from it, are no corners.
  void add_point(const Posture& point, std::size_t number) {
    if (!points_.empty() && (point - points_.back()).norm() <= kSame) return;
    const std::size_t n = points_.size();
    if (n >= 2 && ((point - points_[n - 1]).normalized() - direction(n - 2)).norm() < kStraightOn) {
      points_.pop_back();
      numbers_.pop_back();
    }
    points_.push_back(point);
    numbers_.push_back(number);
  }

  [[nodiscard]] Posture direction(std::size_t i) const {
    return (points_[i + 1] - points_[i]).normalized();
  }
  [[nodiscard]] double length(std::size_t i) const { return (points_[i + 1] - points_[i]).norm(); }
  [[nodiscard]] Posture turn(std::size_t i) const { return direction(i) - direction(i - 1); }
  [[nodiscard]] Posture deviation(std::size_t i) const {
    return kDepth * cuts_[i] * turn(i).cwiseAbs();
  }

  // By how much the deviation of a cut is within the bounds: 1 is just so.
  [[nodiscard]] double share_of_bounds(const Posture& off) const {
    double share = 0.0;
    for (int k = 0; k < query_.arm().dof(); ++k) {
      const bool slides = query_.arm().moving_joint(k).kind == JointKind::prismatic;
      share = std::max(share, off[k] / (slides ? options_.bounds.length : options_.bounds.angle));
    }
    return std::max(share, tool_lever_.dot(off) / options_.bounds.length);
  }

  // A corner moved outward needs room on both lines; half of each is left to its neighbours.
  [[nodiscard]] double longest_cut(std::size_t i) const {
    const bool is_last = i + 2 == points_.size();
    const double room =
        0.98 * std::min(length(i - 1) - cuts_[i - 1], (is_last ? 1.0 : 0.5) * length(i));
    const double share = share_of_bounds(kOutward * kDepth * turn(i).cwiseAbs());
    return share > 0.0 ? std::min(room, 1.0 / share) : room;
  }

  void round(std::size_t i) {
    const Posture as_it_stands = points_[i];
    const Posture outward = -turn(i);
    double cut = longest_cut(i);
    for (int k = 0; k <= kHalvings && cut > kShortestCut; ++k, cut *= 0.5) {
      points_[i] = as_it_stands + kOutward * kDepth * cut * outward;
      if (within_ranges(points_[i]) && fits(i, cut) && is_free(i, cut)) {
        cuts_[i] = cut;
        moved_[i] = true;
        return;
      }
      points_[i] = as_it_stands;
      if (is_free(i, cut)) {
        cuts_[i] = cut;
        return;
      }
    }
    points_[i] = as_it_stands;
  }

  [[nodiscard]] bool within_ranges(const Posture& q) const {
    return query_.arm().limit_breach(q).empty();
  }

  // After it moved, a corner turns by other directions: bounds and room hold for those.
  [[nodiscard]] bool fits(std::size_t i, double cut) const {
    if (share_of_bounds(kDepth * cut * turn(i).cwiseAbs()) > 1.0 + 1e-9) return false;
    // The corner before was cut along the line as it was; where it has been moved, that line
    // turned about its far end.
    return cut < length(i) && cut + cuts_[i - 1] < length(i - 1);
  }

  // The line to the curve, the curve, and the line on to the next waypoint. Where the corner moved,
  // the curve at the corner before changed with it.
  bool is_free(std::size_t i, double cut) {
    cuts_[i] = cut;
    const bool cut_before = cuts_[i - 1] > 0.0;
    std::vector<CurvePiece> pieces;
    if (cut_before) {
      pieces.push_back(
          line(start_of_line_to(i - 1), points_[i - 1] - cuts_[i - 1] * direction(i - 2)));
      pieces.push_back(blend(i - 1));
    }
    pieces.push_back(line(start_of_line_to(i), points_[i] - cut * direction(i - 1)));
    pieces.push_back(blend(i));
    pieces.push_back(line(points_[i] + cut * direction(i), points_[i + 1]));
    pieces.erase(std::remove_if(pieces.begin(), pieces.end(),
                                [](const CurvePiece& piece) { return piece.duration < 1e-12; }),
                 pieces.end());
    const bool free =
        (!cut_before || share_of_bounds(deviation(i - 1)) <= 1.0 + 1e-6) &&
        sweep_curve(query_, JointCurve(std::move(pieces)), options_.clearance, memory_).free;
    cuts_[i] = 0.0;
    return free;
  }

  [[nodiscard]] Posture start_of_line_to(std::size_t i) const {
    return cuts_[i - 1] > 0.0 ? Posture(points_[i - 1] + cuts_[i - 1] * direction(i - 1))
                              : points_[i - 1];
  }

  // From a point on the line to the corner, at x = 0, to one on the line from it, at x = 2 cut: the
  // direction changes by the share 3 y^2 - 2 y^3 of y = x / (2 cut).
  [[nodiscard]] CurvePiece blend(std::size_t i) const {
    const double cut = cuts_[i];
    const Posture begin = points_[i] - cut * direction(i - 1);
    const Posture along = direction(i - 1);
    const Posture change = turn(i);
    const double w = 2.0 * cut;
    CurvePiece piece{w, {}};
    for (Eigen::Index k = 0; k < begin.size(); ++k)
      piece.joints.push_back(
          {begin[k], along[k], 0.0, change[k] / (w * w), -0.5 * change[k] / (w * w * w), 0.0});
    return piece;
  }

  const CellQuery& query_;
  const RoundingOptions& options_;
  SweepMemory memory_;
  std::vector<Posture> points_;
  std::vector<std::size_t> numbers_;
  std::vector<double> cuts_;
  std::vector<bool> moved_;
  Posture tool_lever_;
};

}  // namespace

RoundedPath straight_path(const std::vector<Posture>& waypoints) {
  Stretches out;
  Posture direction;
  std::size_t before = 0;
  for (std::size_t i = 1; i < waypoints.size(); ++i) {
    const Posture way = waypoints[i] - waypoints[before];
    if (way.norm() <= kSame) continue;
    const Posture now = way.normalized();
    if (direction.size() > 0 && (now - direction).norm() >= kStraightOn)
      out.corner({before, 0.0, false, Posture::Zero(way.size())});
    out.add(line(waypoints[before], waypoints[i]), {before + 1, i});
    direction = now;
    before = i;
  }
  return out.finish();
}

RoundedPath round_corners(const CellQuery& query, const std::vector<Posture>& waypoints,
                          const RoundingOptions& options) {
  const CornerBounds& bounds = options.bounds;
  if (!(bounds.angle > 0.0) || !(bounds.length > 0.0))
    throw InputError("how far a rounded corner may be off is above zero",
                     "leave it out to stop at corners");
  if (!std::isfinite(bounds.angle) && !std::isfinite(bounds.length))
    throw InputError("nothing says how far a rounded corner may be off");
  check_clearance(options.clearance);
  return Rounding(query, waypoints, options).path();
}

}  // namespace er
