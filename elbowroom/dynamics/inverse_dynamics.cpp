#include "elbowroom/dynamics/inverse_dynamics.hpp"

#include <cmath>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/dynamics/inverse_dynamics.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/dynamics/newton_euler-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

void inverse_alone(const MovingBodies& arm, double gravity, const double* position,
                   const double* velocity, const double* acceleration, double* effort) {
  BodyState<double> states[kMaxMovingLinks];
  const auto& joints = arm.tree.joints;
  const int count = static_cast<int>(joints.size());
  double angle[kMaxMovingLinks];
  double sine[kMaxMovingLinks];
  double cosine[kMaxMovingLinks];
  for (std::size_t j = 0; j < joints.size(); ++j)
    angle[j] = joints[j].turn_ratio * position[joints[j].entry] + joints[j].turn_offset;
  for (int i = 0; i < count; i += kPackSize) {
    const PackMask here = lanes_within(i, count);
    const SineCosine both = sine_cosine(load(here, angle + i));
    store(both.sine, here, sine + i);
    store(both.cosine, here, cosine + i);
  }
  for (std::size_t j = 0; j < joints.size(); ++j) {
    states[j].turn = {sine[j], cosine[j]};
    states[j].slide = joints[j].slide_ratio * position[joints[j].entry];
  }
  newton_euler<MotionPart::all>(arm, gravity, velocity, acceleration, states, effort);
}

// Values of several postures, joint by joint: those of one joint lie next to each other.
struct LaneRows {
  int rows = 0;
  [[nodiscard]] HWY_INLINE Pack get(const double* from, std::size_t joint, int at) const {
    return load(lanes_within(at, rows), from + joint * static_cast<std::size_t>(rows) + at);
  }
  HWY_INLINE void get(const double* from, std::size_t joints, int at, Pack* out) const {
    for (std::size_t k = 0; k < joints; ++k) out[k] = get(from, k, at);
  }
  HWY_INLINE void put(const Pack* values, std::size_t joints, int at, double* to) const {
    for (std::size_t k = 0; k < joints; ++k)
      store(values[k], lanes_within(at, rows), to + k * static_cast<std::size_t>(rows) + at);
  }
};

HWY_INLINE void place_joints(const MovingBodies& arm, const LaneRows& rows, const double* position,
                             int at, BodyState<Pack>* states) {
  const auto& joints = arm.tree.joints;
  for (std::size_t j = 0; j < joints.size(); ++j) {
    const LaneTree::Joint& joint = joints[j];
    const Pack q = rows.get(position, static_cast<std::size_t>(joint.entry), at);
    if (joint.slide_ratio != 0.0) {
      states[j].slide = pack(joint.slide_ratio) * q;
      continue;
    }
    const SineCosine both = sine_cosine(pack(joint.turn_ratio) * q + pack(joint.turn_offset));
    states[j].turn = {both.sine, both.cosine};
  }
}

void inverse_in_lanes(const MovingBodies& arm, double gravity, int count, const double* position,
                      const double* velocity, const double* acceleration, double* effort) {
  BodyState<Pack> states[kMaxMovingLinks];
  Pack v[kMaxJoints];
  Pack a[kMaxJoints];
  Pack found[kMaxJoints];
  const auto dof = static_cast<std::size_t>(arm.damping.size());
  const LaneRows rows{count};
  for (int at = 0; at < count; at += kPackSize) {
    rows.get(velocity, dof, at, v);
    rows.get(acceleration, dof, at, a);
    place_joints(arm, rows, position, at, states);
    newton_euler<MotionPart::all>(arm, gravity, v, a, states, found);
    rows.put(found, dof, at, effort);
  }
}

// One after the other for the same places of the joints.
void parts_in_lanes(const MovingBodies& arm, double gravity, int count, const double* position,
                    const double* slope, const double* curvature, double* held, double* by_square,
                    double* by_growth) {
  BodyState<Pack> states[kMaxMovingLinks];
  Pack first[kMaxJoints];
  Pack second[kMaxJoints];
  Pack found[kMaxJoints];
  const auto dof = static_cast<std::size_t>(arm.damping.size());
  const LaneRows rows{count};
  for (int at = 0; at < count; at += kPackSize) {
    rows.get(slope, dof, at, first);
    rows.get(curvature, dof, at, second);
    place_joints(arm, rows, position, at, states);
    newton_euler<MotionPart::held>(arm, gravity, first, second, states, found);
    rows.put(found, dof, at, held);
    newton_euler<MotionPart::all>(arm, 0.0, first, second, states, found);
    rows.put(found, dof, at, by_square);
    if (by_growth == nullptr) continue;
    newton_euler<MotionPart::from_rest>(arm, 0.0, first, first, states, found);
    rows.put(found, dof, at, by_growth);
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
#include <fmt/format.h>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/dynamics/gravity.hpp"

namespace er {
namespace {
HWY_EXPORT(inverse_alone);
HWY_EXPORT(inverse_in_lanes);
HWY_EXPORT(parts_in_lanes);

double rubbing(double rate, double damping, double friction) {
  return damping * rate + (rate != 0.0 ? std::copysign(friction, rate) : 0.0);
}

}  // namespace

ArmDynamics::ArmDynamics(const Arm& arm, const DynamicsOptions& options)
    : bodies_(moving_bodies(arm, options.payload)),
      with_friction_(options.friction),
      gravity_(options.gravity) {}

Posture ArmDynamics::inverse(const PostureRef& position, const PostureRef& velocity,
                             const PostureRef& acceleration) const {
  Posture effort(position.size());
  HWY_DYNAMIC_DISPATCH(inverse_alone)
  (bodies_, gravity_, position.data(), velocity.data(), acceleration.data(), effort.data());
  if (with_friction_)
    for (Eigen::Index k = 0; k < effort.size(); ++k)
      effort[k] += rubbing(velocity[k], bodies_.damping[k], bodies_.friction[k]);
  return effort;
}

void ArmDynamics::inverse(const PostureRows& position, const PostureRows& velocity,
                          const PostureRows& acceleration, PostureRows& effort) const {
  HWY_DYNAMIC_DISPATCH(inverse_in_lanes)
  (bodies_, gravity_, static_cast<int>(position.rows()), position.data(), velocity.data(),
   acceleration.data(), effort.data());
  if (!with_friction_) return;
  for (Eigen::Index k = 0; k < effort.cols(); ++k) {
    if (bodies_.damping[k] == 0.0 && bodies_.friction[k] == 0.0) continue;
    for (Eigen::Index i = 0; i < effort.rows(); ++i)
      effort(i, k) += rubbing(velocity(i, k), bodies_.damping[k], bodies_.friction[k]);
  }
}

void ArmDynamics::along(const PostureRows& position, const PostureRows& slope,
                        const PostureRows& curvature, PostureRows& held, PostureRows& by_square,
                        PostureRows* by_growth) const {
  for (PostureRows* rows : {&held, &by_square, by_growth})
    if (rows != nullptr) rows->resize(position.rows(), position.cols());
  HWY_DYNAMIC_DISPATCH(parts_in_lanes)
  (bodies_, gravity_, static_cast<int>(position.rows()), position.data(), slope.data(),
   curvature.data(), held.data(), by_square.data(),
   by_growth != nullptr ? by_growth->data() : nullptr);
}

MassMatrix ArmDynamics::mass_matrix(const PostureRef& position) const {
  const auto dof = position.size();
  const Posture still = Posture::Zero(dof);
  Posture unit = still;
  MassMatrix out(dof, dof);
  for (Eigen::Index k = 0; k < dof; ++k) {
    unit[k] = 1.0;
    HWY_DYNAMIC_DISPATCH(inverse_alone)
    (bodies_, 0.0, position.data(), still.data(), unit.data(), out.col(k).data());
    unit[k] = 0.0;
  }
  return out;
}

Posture inverse_dynamics(const Arm& arm, const PostureRef& position, const PostureRef& velocity,
                         const PostureRef& acceleration, const DynamicsOptions& options) {
  return ArmDynamics(arm, options).inverse(position, velocity, acceleration);
}

void require_masses(const Arm& arm) {
  const int link = link_without_mass(arm);
  if (link < 0) return;
  throw InputError(fmt::format("link '{}' of arm '{}' states no mass, and torques need it",
                               arm.links()[static_cast<std::size_t>(link)].name, arm.name()),
                   "state it: mass: 4.2 kg, or a density");
}

}  // namespace er
#endif
