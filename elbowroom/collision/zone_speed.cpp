#include "elbowroom/collision/zone_speed.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

namespace er {
namespace {

constexpr double kMargin = 1e-9;    // m; covers the rounding of poses and sums
constexpr double kTight = 0.01;     // of the cap
constexpr double kShortest = 1e-5;  // of a piece; shorter intervals are taken as they are

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
  const auto dof = static_cast<Eigen::Index>(piece.joints.size());
  PieceBounds out{Posture::Zero(dof), Posture::Zero(dof)};
  for (Eigen::Index k = 0; k < dof; ++k) {
    const Quintic velocity = derivative_of(piece.joints[static_cast<std::size_t>(k)]);
    const Extremes v = extremes_of(velocity, piece.duration);
    const Extremes a = extremes_of(derivative_of(velocity), piece.duration);
    out.velocity[k] = std::max(v.high, -v.low);
    out.acceleration[k] = std::max(a.high, -a.low);
  }
  return out;
}

class ZoneWatcher {
 public:
  explicit ZoneWatcher(const CellQuery& query)
      : query_(query), turns_(Posture::Zero(query.arm().dof())) {
    for (const Link& link : query.arm().links())
      if (link.posture_index >= 0 && link.joint.kind == JointKind::revolute)
        turns_[link.posture_index] += std::abs(link.posture_ratio);
  }

  void look_at(const CurvePiece& piece) {
    const PieceBounds bounds = bounds_of(piece);
    for (const MovingPart& part : query_.pairs().moving)
      for (const StandingPart& zone : query_.pairs().slow)
        if (!part.lever.isZero(0.0)) look_at(piece, bounds, part, zone);
  }

  [[nodiscard]] const ZoneSpeed& fastest() const { return fastest_; }

 private:
  void look_at(const CurvePiece& piece, const PieceBounds& bounds, const MovingPart& part,
               const StandingPart& zone) {
    std::vector<Interval> open{{0.5 * piece.duration, 0.5 * piece.duration}};
    while (!open.empty()) {
      const Interval here = open.back();
      open.pop_back();
      state_at(piece, here.middle);
      // The largest velocities within this interval.
      const Posture most =
          (velocity_.cwiseAbs() + here.half * bounds.acceleration).cwiseMin(bounds.velocity);
      const Pose pose = frame_jacobian(query_.arm(), part.link, part.at, position_, jacobian_);
      const double closing = here.half * part.lever.dot(most) + kMargin;
      if (further_apart_than(zone.margin + closing, part.shape, pose, zone.shape, zone.pose))
        continue;
      // No point of the bounding sphere is faster just now, and none changes by more than the
      // drift.
      const Eigen::Matrix<double, 6, 1> twist = jacobian_ * velocity_;
      const double now = twist.head<3>().norm() + twist.tail<3>().norm() * part.radius;
      const double drift = here.half * (part.lever.dot(bounds.acceleration) +
                                        2.0 * turns_.dot(most) * part.lever.dot(most));
      const double share = (now + drift) / zone.speed;
      if (share <= std::max(1.0, fastest_.share) || drift <= kTight * zone.speed ||
          here.half < kShortest * piece.duration) {
        if (share > fastest_.share) fastest_ = {share, part.body, zone.body};
        continue;
      }
      const double half = 0.5 * here.half;
      open.push_back({here.middle - half, half});
      open.push_back({here.middle + half, half});
    }
  }

  void state_at(const CurvePiece& piece, double time) {
    const auto dof = static_cast<Eigen::Index>(piece.joints.size());
    position_.resize(dof);
    velocity_.resize(dof);
    for (Eigen::Index k = 0; k < dof; ++k) {
      const Quintic& joint = piece.joints[static_cast<std::size_t>(k)];
      position_[k] = value_at(joint, time);
      velocity_[k] = value_at(joint, time, 1);
    }
  }

  const CellQuery& query_;
  Posture turns_;  // how much turning of links each joint makes, per unit
  Posture position_;
  Posture velocity_;
  Jacobian jacobian_;
  ZoneSpeed fastest_;
};

}  // namespace

ZoneSpeed fastest_in_zones(const CellQuery& query, const JointCurve& curve) {
  ZoneWatcher watcher(query);
  if (query.pairs().slow.empty()) return {};
  for (const CurvePiece& piece : curve.pieces()) watcher.look_at(piece);
  return watcher.fastest();
}

}  // namespace er
