#include "elbowroom/kinematics/frame_walk.hpp"

#include <array>
#include <cstddef>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/kinematics/frame_walk.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/base/four-inl.hpp"

#ifndef ELBOWROOM_KINEMATICS_STEP_VALUES
#define ELBOWROOM_KINEMATICS_STEP_VALUES
namespace er {
// Of each step of a walk, or of each link that moves, in one posture.
struct StepValues {
  std::array<double, kMaxMovingLinks> sine;  // of its turn
  std::array<double, kMaxMovingLinks> cosine;
  std::array<double, kMaxMovingLinks> slide;  // m
};
}  // namespace er
#endif

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

struct WalkingFrame {
  Four x;  // the columns of its rotation
  Four y;
  Four z;
  Four position;

  HWY_INLINE explicit WalkingFrame(const Pose& pose)
      : x(Four::of(pose.rotation.data())),  // and the next column's first: left out at the end
        y(Four::of(pose.rotation.data() + 3)),
        z(Four::of(Vector3(pose.rotation.col(2)))),
        position(Four::of(pose.position)) {}

  HWY_INLINE void take(const WalkStep& step, double sine, double cosine, double slide) {
    const Four turned_x = cosine * x + sine * y;
    const Four turned_y = cosine * y - sine * x;
    position = position + (step.onward[0] * turned_x + step.onward[1] * turned_y +
                           (step.onward[2] + slide) * z);
    x = turned_x;
    y = step.tilt_cosine * turned_y + step.tilt_sine * z;
    z = step.tilt_cosine * z - step.tilt_sine * turned_y;
  }

  // A vector of this frame, in the world.
  [[nodiscard]] HWY_INLINE Four seen(const double* v) const {
    return v[0] * x + v[1] * y + v[2] * z;
  }
  // On by a pose: its rotation by columns, and its position.
  HWY_INLINE void take(const double* rotation, const double* by) {
    position = position + seen(by);
    const Four new_x = seen(rotation);
    const Four new_y = seen(rotation + 3);
    z = seen(rotation + 6);
    x = new_x;
    y = new_y;
  }
  HWY_INLINE void take(const Pose& by) { take(by.rotation.data(), by.position.data()); }

  // Twelve numbers in a row: the fourth of a column is overwritten by the next one.
  HWY_INLINE void write(Pose& out) const {
    static_assert(offsetof(Pose, position) == 9 * sizeof(double));
    auto* const to = reinterpret_cast<double*>(&out);
    x.write(to);
    y.write(to + 3);
    z.write(to + 6);
    position.write_three(to + 9);
  }
};

// The columns of a Jacobian as they come together: a joint and those that follow it share one.
class GrowingColumns {
 public:
  HWY_INLINE explicit GrowingColumns(int count) : count_(count) {
    for (int i = 0; i < count_; ++i) {
      Four::of(kNothing).write(halves_[2 * i]);
      Four::of(kNothing).write(halves_[2 * i + 1]);
    }
  }
  // A joint that turns, or slides, `ratio` for one of its column's unit.
  HWY_INLINE void add_turn(int column, double ratio, const Four& axis, const Four& to_tip) {
    const Four turn = ratio * axis;
    add(turn.cross(to_tip), halves_[2 * column]);
    add(turn, halves_[2 * column + 1]);
  }
  HWY_INLINE void add_slide(int column, double ratio, const Four& axis) {
    add(ratio * axis, halves_[2 * column]);
  }
  // Each half is written with one number too many, which the next half overwrites; not so the last.
  HWY_INLINE void write(double* out) const {
    if (count_ == 0) return;
    const int last = 2 * count_ - 1;
    for (int i = 0; i < last; ++i) Four::of(halves_[i]).write(out + 3 * i);
    Four::of(halves_[last]).write_three(out + 3 * last);
  }

 private:
  static constexpr double kNothing[4] = {};
  static HWY_INLINE void add(const Four& v, double* to) { (Four::of(to) + v).write(to); }

  int count_;
  double halves_[2 * kMaxJoints][4];  // of each column its velocity and its turning
};

Pose walk_in_lanes(const Pose& base, const ChainWalk& walk, const Pose& end,
                   const StepValues& values, const JacobianColumns& jacobian) {
  Four axis[kMaxMovingLinks];   // of each step, in the world
  Four point[kMaxMovingLinks];  // m, on that axis
  WalkingFrame frame(base);
  frame.take(walk.start);
  const std::size_t count = walk.steps.size();
  for (std::size_t i = 0; i < count; ++i) {
    axis[i] = frame.z;
    point[i] = frame.position;
    frame.take(walk.steps[i], values.sine[i], values.cosine[i], values.slide[i]);
  }
  frame.take(walk.end);
  frame.take(end);
  if (jacobian.out != nullptr) {
    GrowingColumns columns(jacobian.columns);
    for (std::size_t i = 0; i < count; ++i) {
      const WalkStep& step = walk.steps[i];
      if (step.turns())
        columns.add_turn(step.entry, step.turn_ratio, axis[i], frame.position - point[i]);
      else
        columns.add_slide(step.entry, step.slide_ratio, axis[i]);
    }
    columns.write(jacobian.out);
  }
  Pose out;
  frame.write(out);
  return out;
}

// By columns, a link's rotation in its parent's frame.
struct LocalRotation {
  double columns[12];

  HWY_INLINE void turn(const LinkMotion& motion, double sine, double cosine) {
    for (int column = 0; column < 9; column += 3) {
      const Four fixed = Four::of(motion.fixed.data() + column);
      const Four by_cosine = Four::of(motion.by_cosine.data() + column);
      const Four by_sine = Four::of(motion.by_sine.data() + column);
      (fixed + (cosine * by_cosine + sine * by_sine)).write(columns + column);
    }
  }
};

void place_in_lanes(const Pose& base, std::span<const LinkMotion> motions, const StepValues& values,
                    std::span<Pose> out) {
  // First what waits for no other link.
  LocalRotation turns[kMaxMovingLinks];
  std::size_t turning = 0;
  for (const LinkMotion& motion : motions) {
    if (motion.kind != JointKind::revolute) continue;
    turns[turning].turn(motion, values.sine[turning], values.cosine[turning]);
    ++turning;
  }
  int at = -1;
  std::size_t turned = 0;
  std::size_t slid = 0;
  WalkingFrame frame(base);
  for (std::size_t i = 0; i < motions.size(); ++i) {
    const LinkMotion& motion = motions[i];
    if (motion.parent != at)
      frame = WalkingFrame(motion.parent < 0 ? base : out[static_cast<std::size_t>(motion.parent)]);
    if (motion.kind == JointKind::revolute) {
      frame.take(turns[turned++].columns, motion.at.data());
    } else if (motion.kind == JointKind::prismatic) {
      const Vector3 by = motion.at + values.slide[slid++] * motion.along;
      frame.take(motion.fixed.data(), by.data());
    } else {
      frame.take(motion.fixed.data(), motion.at.data());
    }
    at = static_cast<int>(i);
    frame.write(out[i]);
  }
}

void jacobian_in_lanes(std::span<const LinkMotion> motions, std::span<const int> way,
                       std::span<const Pose> links, const Vector3& tip,
                       const JacobianColumns& jacobian) {
  GrowingColumns columns(jacobian.columns);
  for (const int l : way) {
    const LinkMotion& motion = motions[static_cast<std::size_t>(l)];
    if (motion.entry < 0) continue;
    // In single numbers: loads of what was just written otherwise would wait for it.
    const Pose& pose = links[static_cast<std::size_t>(l)];
    const Four axis = Four::of(product(pose.rotation, motion.axis));
    if (motion.kind == JointKind::revolute)
      columns.add_turn(motion.entry, motion.ratio, axis, Four::of(tip - pose.position));
    else
      columns.add_slide(motion.entry, motion.ratio, axis);
  }
  columns.write(jacobian.out);
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
#include "elbowroom/base/sines.hpp"

namespace er {
namespace {
HWY_EXPORT(walk_in_lanes);
HWY_EXPORT(place_in_lanes);
HWY_EXPORT(jacobian_in_lanes);
}  // namespace

Pose walk_to_frame(const Pose& base, const ChainWalk& walk, const Pose& end,
                   const PostureRef& posture, const JacobianColumns& jacobian) {
  StepValues values;
  std::array<double, kMaxMovingLinks> turn;
  const std::size_t count = walk.steps.size();
  for (std::size_t i = 0; i < count; ++i) {
    const WalkStep& step = walk.steps[i];
    const double value = posture[step.entry];
    turn[i] = step.turn_ratio * value + step.turn_offset;
    values.slide[i] = step.slide_ratio * value;
  }
  sines_and_cosines(turn.data(), static_cast<int>(count), values.sine.data(), values.cosine.data());
  return HWY_DYNAMIC_DISPATCH(walk_in_lanes)(base, walk, end, values, jacobian);
}

void place_links(const Pose& base, std::span<const LinkMotion> motions, const PostureRef& posture,
                 std::span<Pose> out) {
  StepValues values;
  std::array<double, kMaxMovingLinks> turn;
  std::size_t turning = 0;
  std::size_t sliding = 0;
  for (const LinkMotion& motion : motions) {
    if (motion.kind == JointKind::fixed) continue;
    const double value = motion.ratio * posture[motion.entry] + motion.offset;
    if (motion.kind == JointKind::revolute)
      turn[turning++] = value;
    else
      values.slide[sliding++] = value;
  }
  sines_and_cosines(turn.data(), static_cast<int>(turning), values.sine.data(),
                    values.cosine.data());
  HWY_DYNAMIC_DISPATCH(place_in_lanes)(base, motions, values, out);
}

void placed_jacobian(std::span<const LinkMotion> motions, std::span<const int> way,
                     std::span<const Pose> links, const Vector3& tip,
                     const JacobianColumns& jacobian) {
  HWY_DYNAMIC_DISPATCH(jacobian_in_lanes)(motions, way, links, tip, jacobian);
}

}  // namespace er
#endif
