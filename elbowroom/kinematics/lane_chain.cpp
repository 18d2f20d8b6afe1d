#include "elbowroom/kinematics/lane_chain.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/kinematics/lane_chain.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/kinematics/lane_walk-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

void jacobians_of_lanes(const LaneChain& chain, const double (*values)[kLanes],
                        LaneJacobians& out) {
  const auto put = [&](const PackVector& v, std::array<double, kLanes>* to, int at) HWY_ATTR {
    store(v.x, to[0].data() + at);
    store(v.y, to[1].data() + at);
    store(v.z, to[2].data() + at);
  };
  for (int at = 0; at < kLanes; at += kPackSize) {
    Pack q[LaneChain::kMostJoints];
    for (int j = 0; j < chain.joints; ++j) q[j] = load(values[j] + at);
    LaneWalk walk;
    walk_lanes(chain, q, walk);
    PackColumn columns[LaneChain::kMostJoints];
    columns_of(chain, walk, columns);
    put(walk.tip.x, out.pose.data(), at);
    put(walk.tip.y, out.pose.data() + 3, at);
    put(walk.tip.z, out.pose.data() + 6, at);
    put(walk.tip.position, out.pose.data() + 9, at);
    for (int j = 0; j < chain.joints; ++j) {
      auto& column = out.column[static_cast<std::size_t>(j)];
      put(columns[j].velocity, column.data(), at);
      put(columns[j].turning, column.data() + 3, at);
    }
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(jacobians_of_lanes);
}  // namespace

std::optional<LaneChain> lane_chain(const Arm& arm, int link, const Pose& frame_in_link) {
  return lane_chain(arm.walk_to(link), arm.mount(), frame_in_link);
}

std::optional<LaneChain> lane_chain(const ChainWalk& walk, const Pose& mount,
                                    const Pose& frame_in_link) {
  if (walk.steps.size() > LaneChain::kMostJoints) return std::nullopt;
  LaneChain out;
  out.start = mount * walk.start;
  out.end = walk.end * frame_in_link;
  for (const WalkStep& step : walk.steps) {
    int joint = 0;
    while (joint < out.joints && out.entry[static_cast<std::size_t>(joint)] != step.entry) ++joint;
    if (joint == out.joints) out.entry[static_cast<std::size_t>(out.joints++)] = step.entry;
    out.step[static_cast<std::size_t>(out.steps++)] = {
        joint,       step.turn_ratio,  step.turn_offset, step.slide_ratio,
        step.onward, step.tilt_cosine, step.tilt_sine};
  }
  return out;
}

void lane_jacobians(const LaneChain& chain, const double (*values)[LaneJacobians::kPostures],
                    LaneJacobians& out) {
  HWY_DYNAMIC_DISPATCH(jacobians_of_lanes)(chain, values, out);
}

}  // namespace er
#endif
