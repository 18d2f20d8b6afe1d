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
      : before_(length, length_before), after_(length, length_after) {}

  [[nodiscard]] HWY_INLINE LaneBend of(const Pack* values) const {
    const Pack rise = values[2] - values[1];
    const Pack first = (rise - before_.over * (values[1] - values[0])) * before_.eighth;
    const Pack second = (after_.over * (values[3] - values[2]) - rise) * after_.eighth;
    const Pack more = hn::Abs(second - first);
    return {largest(more - least(first, second), pack(0.0)),
            largest(more + largest(first, second), pack(0.0))};
  }

 private:
  // For the interval beside: how many times as long this one is, and what makes an eighth of a
  // second difference of this one's length.
  struct Beside {
    Pack over;
    Pack eighth;
    HWY_INLINE Beside(Pack length, Pack beside) {
      const Pack both = length + beside;
      const Pack over_product = length / (beside * both);
      over = both * over_product;
      eighth = pack(0.25) * beside * over_product;
    }
  };
  Beside before_;
  Beside after_;
};

// The least share of y^2 in (0, 1] at which `still` + y^2 (`torque` - still) is `most`, where the
// torque is more; 0 where holding still is.
HWY_INLINE Pack share_up_to(Pack still, Pack torque, Pack most) {
  const PackMask beyond = torque > most;
  const Pack share = (most - still) / choose(beyond, torque - still, pack(1.0));
  return choose(still > most, pack(0.0), choose(beyond, share, pack(1.0)));
}

// Whether a function may pass zero between the two points: where a joint turns round, its friction
// does.
HWY_INLINE PackMask may_pass_zero(const LaneBends& bends, const Pack* values) {
  const LaneBend bend = bends.of(values);
  const Pack high = largest(values[1], values[2]) + bend.above;
  const Pack low = least(values[1], values[2]) - bend.below;
  const Pack zero = pack(0.0);
  return hn::And(low < high, hn::And(low <= zero, high >= zero));
}

// For each interval but the first and the last, at most the y^2 up to which torques are seen to
// keep their limits inside of it, where the motion takes 1 / y times as long; 1 where they do at
// `enough`, and all slower.
void shares_of_speed_in_lanes(const PacedGrid& paced, const PathEfforts& efforts,
                              const Posture& most, const Posture& friction, double enough,
                              double* shares) {
  const int last = static_cast<int>(paced.duration.size()) - 1;
  for (int at = 1; at < last; at += kPackSize) {
    const PackMask here = lanes_within(at, last);
    const auto length_at = [&](int i) HWY_ATTR {
      return choose(here, load(here, paced.grid.lengths.data() + i), pack(1.0));
    };
    const Pack before = length_at(at - 1);
    const Pack after = length_at(at + 1);
    const LaneBends bends(before, length_at(at), after);
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
      for (int i = 0; i < 4; ++i) {
        const int point = at + i - 1;
        still[i] = load(here, efforts.still.col(k).data() + point);
        torque[i] = still[i] + load(here, efforts.by_square.col(k).data() + point) * x[i] +
                    load(here, efforts.by_growth.col(k).data() + point) * u;
      }
      if (friction[k] != 0.0) {
        Pack slope[4];
        for (int i = 0; i < 4; ++i)
          slope[i] = load(here, paced.grid.slope.col(k).data() + at + i - 1);
        share = choose(may_pass_zero(bends, slope), pack(0.0), share);
      }
      const LaneBend held = bends.of(still);
      const LaneBend moving = bends.of(torque);
      const Pack high = pack(most[k]) - largest(held.above, moving.above);
      const Pack low = largest(held.below, moving.below) - pack(most[k]);
      PackMask beyond = high < low;  // no room at all
      for (int i = 1; i <= 2; ++i) {
        const Pack slowed = still[i] + pack(enough) * (torque[i] - still[i]);
        beyond =
            hn::Or(beyond, hn::Or(largest(still[i], slowed) > high, least(still[i], slowed) < low));
      }
      if (none(beyond)) continue;
      for (int i = 1; i <= 2; ++i) {
        share = least(share, share_up_to(still[i], torque[i], high));
        share = least(share, share_up_to(hn::Neg(still[i]), hn::Neg(torque[i]), hn::Neg(low)));
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
                                   const Arm& arm, const ArmDynamics& dynamics, const Posture& most,
                                   double stretch) {
  // With damping, which does not grow as the rest does, all are looked at.
  std::vector<double> shares(paced.duration.size(), 0.0);
  if (efforts.by_rate.size() == 0) HWY_DYNAMIC_DISPATCH(shares_of_speed_in_lanes)
  (paced, efforts, most, dynamics.friction(), 1.0 / (stretch * stretch), shares.data());
  // The worst first: what it really is leaves few others in question.
  const auto worst = std::min_element(shares.begin() + 1, shares.end() - 1) - shares.begin();
  std::vector<CurvePiece> pieces;
  for (const bool first : {true, false}) {
    for (std::size_t i = 0; i < shares.size(); ++i)
      if (shares[i] * stretch * stretch < 1.0 && first == (i == static_cast<std::size_t>(worst)))
        add_grid_pieces(paced, i, i + 1, 1.0, pieces);
    if (pieces.empty()) continue;
    const auto of_these = stretch_for_torque(Motion(std::move(pieces)), arm, most, dynamics,
                                             TorqueMoments::between_ends);
    if (!of_these) return of_these.reason();
    stretch = std::max(stretch, *of_these);
    pieces.clear();
  }
  return stretch;
}

}  // namespace er
#endif
