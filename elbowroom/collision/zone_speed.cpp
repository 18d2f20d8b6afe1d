#include "elbowroom/collision/zone_speed.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/approach.hpp"

namespace er {
namespace {

// How far above the truth a share may be, of the cap.
constexpr double kTightCurve = 0.01;
constexpr double kTightLine = 1e-4;
constexpr int kMostHalvings = 17;
// Of a piece; shorter intervals are taken as they are.
constexpr double kShortestInterval = 1.0 / (1 << kMostHalvings);

struct Interval {
  double middle;
  double half;
};

// Largest velocity and acceleration of every joint over a piece of the curve.
struct PieceBounds {
  Posture velocity;
  Posture acceleration;
};

PieceBounds bounds_of(const CurvePiece& piece) {
  return {largest_over(piece, 1), largest_over(piece, 2)};
}

// Joints along a piece of a curve.
class AlongPiece {
 public:
  explicit AlongPiece(const CurvePiece& piece) : piece_(piece), bounds_(bounds_of(piece)) {}
  [[nodiscard]] double duration() const { return piece_.duration; }
  [[nodiscard]] const PieceBounds& bounds() const { return bounds_; }
  void at(double time, Posture& position, Posture& velocity) const {
    const auto dof = static_cast<Eigen::Index>(piece_.joints.size());
    position.resize(dof);
    velocity.resize(dof);
    for (Eigen::Index k = 0; k < dof; ++k) {
      const Quintic& joint = piece_.joints[static_cast<std::size_t>(k)];
      position[k] = value_at(joint, time);
      velocity[k] = value_at(joint, time, 1);
    }
  }

 private:
  const CurvePiece& piece_;
  PieceBounds bounds_;
};

// Joints that go on at constant velocity.
class AlongLine {
 public:
  AlongLine(const PostureRef& from, const PostureRef& velocity, double duration)
      : from_(from),
        velocity_(velocity),
        duration_(duration),
        bounds_{velocity_.cwiseAbs(), Posture::Zero(from.size())} {}
  [[nodiscard]] double duration() const { return duration_; }
  [[nodiscard]] const PieceBounds& bounds() const { return bounds_; }
  void at(double time, Posture& position, Posture& velocity) const {
    position = from_ + time * velocity_;
    velocity = velocity_;
  }

 private:
  Posture from_;
  Posture velocity_;
  double duration_;
  PieceBounds bounds_;
};

class ZoneWatcher {
 public:
  ZoneWatcher(const CellQuery& query, double tight)
      : query_(query), tight_(tight), turns_(turns_of(query.arm())) {}

  template <class Way>
  void look_at(const Way& way) {
    for (const MovingPart& part : query_.pairs().moving)
      for (const StandingPart& zone : query_.pairs().slow)
        if (!part.lever.isZero(0.0)) look_at(way, part, zone);
  }

  [[nodiscard]] const ZoneSpeed& fastest() const { return fastest_; }

 private:
  template <class Way>
  void look_at(const Way& way, const MovingPart& part, const StandingPart& zone) {
    // Depth first: as many intervals wait as there are halvings, and one.
    std::array<Interval, kMostHalvings + 2> open;
    std::size_t count = 0;
    open[count++] = {0.5 * way.duration(), 0.5 * way.duration()};
    const PieceBounds& bounds = way.bounds();
    while (count > 0) {
      const Interval here = open[--count];
      way.at(here.middle, position_, velocity_);
      // The largest velocities within this interval.
      const Posture most =
          (velocity_.cwiseAbs() + here.half * bounds.acceleration).cwiseMin(bounds.velocity);
      const Pose pose = frame_jacobian(query_.arm(), part.link, part.at, position_, jacobian_);
      const double closing = here.half * part.lever.dot(most) + kMotionMargin;
      if (further_apart_than(zone.margin + closing, part.shape, pose, zone.shape, zone.pose))
        continue;
      // No point of the bounding sphere is faster just now, and none changes by more than the
      // drift.
      const Eigen::Matrix<double, 6, 1> twist = jacobian_ * velocity_;
      const double now = twist.head<3>().norm() + twist.tail<3>().norm() * part.radius;
      const double drift = here.half * (part.lever.dot(bounds.acceleration) +
                                        2.0 * turns_.dot(most) * part.lever.dot(most));
      const double share = (now + drift) / zone.speed;
      if (share <= std::max(1.0, fastest_.share) || drift <= tight_ * zone.speed ||
          here.half < kShortestInterval * way.duration()) {
        if (share > fastest_.share) fastest_ = {share, part.body, zone.body};
        continue;
      }
      const double half = 0.5 * here.half;
      open[count++] = {here.middle - half, half};
      open[count++] = {here.middle + half, half};
    }
  }

  const CellQuery& query_;
  double tight_;
  Posture turns_;  // how much turning of links each joint makes, per unit
  Posture position_;
  Posture velocity_;
  Jacobian jacobian_;
  ZoneSpeed fastest_;
};

}  // namespace

ZoneSpeed fastest_in_zones(const CellQuery& query, const JointCurve& curve) {
  if (query.pairs().slow.empty()) return {};
  ZoneWatcher watcher(query, kTightCurve);
  for (const CurvePiece& piece : curve.pieces()) watcher.look_at(AlongPiece(piece));
  return watcher.fastest();
}

ZoneSpeed fastest_in_zones(const CellQuery& query, const PostureRef& from,
                           const PostureRef& velocity, double duration) {
  if (query.pairs().slow.empty()) return {};
  ZoneWatcher watcher(query, kTightLine);
  watcher.look_at(AlongLine(from, velocity, duration));
  return watcher.fastest();
}

std::string describe(const CellQuery& query, const ZoneSpeed& speed) {
  const auto& slow = query.pairs().slow;
  const auto zone = std::find_if(slow.begin(), slow.end(),
                                 [&](const StandingPart& part) { return part.body == speed.zone; });
  return fmt::format("{} in zone {}, where {}/s is the most", query.name(speed.body),
                     query.name(speed.zone), text_length(zone->speed));
}

}  // namespace er
