#include "elbowroom/pace/grid_torques.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/pace/grid_torques.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include <algorithm>

#include "elbowroom/base/lanes-inl.hpp"
#include "elbowroom/pace/motor_use.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

// How far a function can be above and below the straight line between its values at two points of a
// grid, from those and one more on either side. Second differences at the two points say how it
// bends; what they differ by, it may bend more.
struct LaneBend {
  Pack above;
  Pack below;
};

class LaneBends {
 public:
  HWY_INLINE LaneBends(Pack length_before, Pack length, Pack length_after)
      : over_before_(length / length_before),
        over_after_(length / length_after),
        eighth_before_(pack(0.25) * length / (length + length_before)),
        eighth_after_(pack(0.25) * length / (length + length_after)) {
    const Pack one = pack(1.0);
    most_ = pack(6.0) *
            largest((over_before_ + one) * eighth_before_, (over_after_ + one) * eighth_after_);
  }

  // At most that, of values up to 1.
  [[nodiscard]] HWY_INLINE Pack most() const { return most_; }

  [[nodiscard]] HWY_INLINE LaneBend of(const Pack* values) const {
    const Pack rise = values[2] - values[1];
    const Pack first = (rise - over_before_ * (values[1] - values[0])) * eighth_before_;
    const Pack second = (over_after_ * (values[3] - values[2]) - rise) * eighth_after_;
    const Pack more = hn::Abs(second - first);
    return {largest(more - least(first, second), pack(0.0)),
            largest(more + largest(first, second), pack(0.0))};
  }

 private:
  Pack over_before_;
  Pack over_after_;
  Pack eighth_before_;
  Pack eighth_after_;
  Pack most_;
};

// The least share of y^2 in (0, 1] at which `still` + y^2 (`torque` - still) is `most`, where the
// torque is more; 0 where holding still is.
HWY_INLINE Pack share_up_to(Pack still, Pack torque, Pack most) {
  const PackMask beyond = torque > most;
  const Pack share = (most - still) / choose(beyond, torque - still, pack(1.0));
  return choose(still > most, pack(0.0), choose(beyond, share, pack(1.0)));
}

// For each interval but the first and the last, at most the y^2 up to which torques are seen to
// keep their limits inside of it, where the motion takes 1 / y times as long.
void shares_of_speed_in_lanes(const PacedGrid& paced, const PathEfforts& efforts,
                              const Posture& most, double* shares) {
  const int last = static_cast<int>(paced.duration.size()) - 1;
  for (int at = 1; at < last; at += kPackSize) {
    const PackMask here = lanes_within(at, last);
    const auto length_at = [&](int i) HWY_ATTR {
      return choose(here, load(here, paced.grid.lengths.data() + i), pack(1.0));
    };
    const Pack before = length_at(at - 1);
    const Pack after = length_at(at + 1);
    const LaneBends bends(before, length_at(at), after);
    const Pack far = pack(1.0) + bends.most();
    const Pack u = load(here, paced.growth.data() + at);
    Pack x[4];  // on the line that it is on within the interval
    x[1] = square(load(here, paced.speed.data() + at));
    x[2] = square(load(here, paced.speed.data() + at + 1));
    x[0] = x[1] - pack(2.0) * u * before;
    x[3] = x[2] + pack(2.0) * u * after;
    Pack share = pack(1.0);
    for (Eigen::Index k = 0; k < most.size(); ++k) {
      Pack still[4];
      Pack torque[4];
      Pack size = pack(0.0);
      for (int i = 0; i < 4; ++i) {
        const int point = at + i - 1;
        still[i] = load(here, efforts.still.col(k).data() + point);
        torque[i] = still[i] + load(here, efforts.by_square.col(k).data() + point) * x[i] +
                    load(here, efforts.by_growth.col(k).data() + point) * u;
        size = largest(size, largest(hn::Abs(still[i]), hn::Abs(torque[i])));
      }
      if (none(size * far > pack(most[k]))) continue;  // nowhere near
      const LaneBend held = bends.of(still);
      const LaneBend moving = bends.of(torque);
      const Pack high = pack(most[k]) - largest(held.above, moving.above);
      const Pack low = pack(most[k]) - largest(held.below, moving.below);
      const Pack highest = largest(largest(still[1], still[2]), largest(torque[1], torque[2]));
      const Pack lowest = least(least(still[1], still[2]), least(torque[1], torque[2]));
      if (none(hn::Or(highest > high, lowest < hn::Neg(low)))) continue;
      for (int i = 1; i <= 2; ++i) {
        share = least(share, share_up_to(still[i], torque[i], high));
        share = least(share, share_up_to(hn::Neg(still[i]), hn::Neg(torque[i]), low));
      }
    }
    store(share, here, shares + at);
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(shares_of_speed_in_lanes);

}  // namespace

Verdict<double> stretch_for_torque(const PacedGrid& paced, const PathEfforts& efforts,
                                   const Arm& arm, const PathTorques& torques, double stretch) {
  // With damping, which does not grow as the rest does, all are looked at.
  std::vector<double> shares(paced.duration.size(), 0.0);
  if (efforts.by_rate.size() == 0)
    HWY_DYNAMIC_DISPATCH(shares_of_speed_in_lanes)(paced, efforts, torques.most, shares.data());
  // The worst first: what it really is leaves few others in question.
  const auto worst = std::min_element(shares.begin() + 1, shares.end() - 1) - shares.begin();
  std::vector<CurvePiece> pieces;
  for (const bool first : {true, false}) {
    for (std::size_t i = 0; i < shares.size(); ++i)
      if (shares[i] * stretch * stretch < 1.0 && first == (i == static_cast<std::size_t>(worst)))
        add_grid_pieces(paced, i, i + 1, 1.0, pieces);
    if (pieces.empty()) continue;
    const auto of_these = stretch_for_torque(Motion(std::move(pieces)), arm, torques.most,
                                             torques.dynamics, TorqueMoments::between_ends);
    if (!of_these) return of_these.reason();
    stretch = std::max(stretch, *of_these);
    pieces.clear();
  }
  return stretch;
}

}  // namespace er
#endif
