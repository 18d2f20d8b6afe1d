#include "elbowroom/kinematics/frame_walk.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/kinematics/frame_walk.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/base/lanes-inl.hpp"

#ifndef ELBOWROOM_KINEMATICS_STEP_VALUES
#define ELBOWROOM_KINEMATICS_STEP_VALUES
namespace er {
// Of each step of a walk, in one posture.
struct StepValues {
  std::array<double, kMaxMovingLinks> sine;  // of its turn
  std::array<double, kMaxMovingLinks> cosine;
  std::array<double, kMaxMovingLinks> slide;  // m
};
}  // namespace er
#endif

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

// Four numbers in one vector, or several.
struct Four {
  using Tag4 = hn::CappedTag<double, 4>;
  static constexpr int kSize = static_cast<int>(hn::MaxLanes(Tag4()));
  static constexpr int kParts = 4 / kSize;
  hn::Vec<Tag4> part[kParts];

  static HWY_INLINE Four of(const double* from) {
    Four out;
    for (int i = 0; i < kParts; ++i) out.part[i] = hn::LoadU(Tag4(), from + i * kSize);
    return out;
  }
  static HWY_INLINE Four of(const Vector3& v) {
    const double padded[4] = {v[0], v[1], v[2], 0.0};
    return of(padded);
  }
  HWY_INLINE void write(double* to) const {
    for (int i = 0; i < kParts; ++i) hn::StoreU(part[i], Tag4(), to + i * kSize);
  }
};
HWY_INLINE Four operator+(const Four& a, const Four& b) {
  Four out;
  for (int i = 0; i < Four::kParts; ++i) out.part[i] = a.part[i] + b.part[i];
  return out;
}
HWY_INLINE Four operator-(const Four& a, const Four& b) {
  Four out;
  for (int i = 0; i < Four::kParts; ++i) out.part[i] = a.part[i] - b.part[i];
  return out;
}
HWY_INLINE Four operator*(double s, const Four& v) {
  Four out;
  const auto all = hn::Set(Four::Tag4(), s);
  for (int i = 0; i < Four::kParts; ++i) out.part[i] = all * v.part[i];
  return out;
}

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

  // On by a pose: its rotation by columns, and its position.
  HWY_INLINE void take(const double* rotation, const double* by) {
    const auto seen = [&](const double* v) HWY_ATTR { return v[0] * x + v[1] * y + v[2] * z; };
    position = position + seen(by);
    const Four new_x = seen(rotation);
    const Four new_y = seen(rotation + 3);
    z = seen(rotation + 6);
    x = new_x;
    y = new_y;
  }
  HWY_INLINE void take(const Pose& by) { take(by.rotation.data(), by.position.data()); }

  HWY_INLINE void write(Pose& out) const {
    double columns[4][4];
    x.write(columns[0]);
    y.write(columns[1]);
    z.write(columns[2]);
    position.write(columns[3]);
    for (int i = 0; i < 3; ++i) {
      for (int k = 0; k < 3; ++k) out.rotation(i, k) = columns[k][i];
      out.position[i] = columns[3][i];
    }
  }
};

void walk_in_lanes(const Pose& base, const ChainWalk& walk, const Pose& end,
                   const StepValues& values, FrameWalk& out) {
  WalkingFrame frame(base);
  frame.take(walk.start);
  for (std::size_t i = 0; i < walk.steps.size(); ++i) {
    frame.z.write(out.axis[i].data());
    frame.position.write(out.point[i].data());
    frame.take(walk.steps[i], values.sine[i], values.cosine[i], values.slide[i]);
  }
  frame.take(walk.end);
  frame.take(end);
  frame.write(out.frame);
}

void place_in_lanes(const Pose& base, std::span<const PlacedFrame> frames, std::size_t done,
                    std::span<Pose> out) {
  int at = -1;
  WalkingFrame frame(base);
  for (std::size_t i = 0; i < frames.size(); ++i) {
    const PlacedFrame& next = frames[i];
    if (next.parent != at)
      frame = WalkingFrame(next.parent < 0 ? base : out[static_cast<std::size_t>(next.parent)]);
    frame.take(next.rotation.data(), next.position.data());
    at = static_cast<int>(done + i);
    frame.write(out[done + i]);
  }
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
#include "elbowroom/base/sines.hpp"

namespace er {
namespace {
HWY_EXPORT(walk_in_lanes);
HWY_EXPORT(place_in_lanes);
}  // namespace

void walk_to_frame(const Pose& base, const ChainWalk& walk, const Pose& end,
                   const PostureRef& posture, FrameWalk& out) {
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
  HWY_DYNAMIC_DISPATCH(walk_in_lanes)(base, walk, end, values, out);
}

void place_frames(const Pose& base, std::span<const PlacedFrame> frames, std::size_t done,
                  std::span<Pose> out) {
  HWY_DYNAMIC_DISPATCH(place_in_lanes)(base, frames, done, out);
}

}  // namespace er
#endif
