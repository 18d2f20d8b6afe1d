#include "elbowroom/collision/zone_speed.hpp"

#include <Eigen/Geometry>
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
      : query_(query),
        links_(query.arm().links().size()),
        turns_(Posture::Zero(query.arm().dof())) {
    for (const Link& link : query.arm().links())
      if (link.posture_index >= 0 && link.joint.kind == JointKind::revolute)
        turns_[link.posture_index] += std::abs(link.posture_ratio);
  }

  void look_at(const CurvePiece& piece) {
    const PieceBounds bounds = bounds_of(piece);
    for (std::size_t m = 0; m < query_.pairs().moving.size(); ++m)
      for (const StandingPart& zone : query_.pairs().slow) look_at(piece, bounds, m, zone);
  }

  [[nodiscard]] const ZoneSpeed& fastest() const { return fastest_; }

 private:
  void look_at(const CurvePiece& piece, const PieceBounds& bounds, std::size_t index,
               const StandingPart& zone) {
    const MovingPart& part = query_.pairs().moving[index];
    if (part.lever.isZero(0.0)) return;
    const double cap = cap_of(zone);
    std::vector<Interval> open{{0.5 * piece.duration, 0.5 * piece.duration}};
    while (!open.empty()) {
      const Interval here = open.back();
      open.pop_back();
      place_at(piece, here.middle);
      // The largest velocities within this interval.
      const Posture most =
          (velocity_.cwiseAbs() + here.half * bounds.acceleration).cwiseMin(bounds.velocity);
      const Pose pose = links_[static_cast<std::size_t>(part.link)] * part.at;
      const double closing = here.half * part.lever.dot(most) + kMargin;
      if (further_apart_than(zone.margin + closing, part.shape, pose, zone.shape, zone.pose))
        continue;
      const double drift = here.half * (part.lever.dot(bounds.acceleration) +
                                        2.0 * turns_.dot(most) * part.lever.dot(most));
      const double share = (speed_of(part, pose) + drift) / cap;
      if (share <= std::max(1.0, fastest_.share) || drift <= kTight * cap ||
          here.half < kShortest * piece.duration) {
        if (share > fastest_.share) fastest_ = {share, part.body, zone.body};
        continue;
      }
      const double half = 0.5 * here.half;
      open.push_back({here.middle - half, half});
      open.push_back({here.middle + half, half});
    }
  }

  [[nodiscard]] double cap_of(const StandingPart& zone) const {
    for (const Zone& one : query_.cell().zones())
      if (one.name == query_.name(zone.body)) return one.speed;
    return std::numeric_limits<double>::infinity();
  }

  void place_at(const CurvePiece& piece, double time) {
    const auto dof = static_cast<Eigen::Index>(piece.joints.size());
    position_.resize(dof);
    velocity_.resize(dof);
    for (Eigen::Index k = 0; k < dof; ++k) {
      const Quintic& joint = piece.joints[static_cast<std::size_t>(k)];
      position_[k] = value_at(joint, time);
      velocity_[k] = value_at(joint, time, 1);
    }
    link_poses(query_.arm(), position_, links_);
  }

  // The most that any point of the part's bounding sphere moves just now, m/s.
  [[nodiscard]] double speed_of(const MovingPart& part, const Pose& pose) const {
    Vector3 linear = Vector3::Zero();
    Vector3 angular = Vector3::Zero();
    for (int l = part.link; l >= 0;) {
      const Link& link = query_.arm().links()[static_cast<std::size_t>(l)];
      if (link.posture_index >= 0) {
        const Pose& at = links_[static_cast<std::size_t>(l)];
        const Vector3 rate =
            link.posture_ratio * velocity_[link.posture_index] * (at.rotation * link.joint.axis);
        if (link.joint.kind == JointKind::revolute) {
          angular += rate;
          linear += rate.cross(pose.position - at.position);
        } else {
          linear += rate;
        }
      }
      l = link.parent_index;
    }
    return linear.norm() + angular.norm() * part.radius;
  }

  const CellQuery& query_;
  std::vector<Pose> links_;
  Posture turns_;  // how much turning of links each joint makes, per unit
  Posture position_;
  Posture velocity_;
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
