#include "elbowroom/reach/wrist_branches.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/reach/wrist_branches.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/reach/lane_turns-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

struct ArmTurns {
  Turn turn[3];
  PackMask valid;
  Pack free_joint;
};

// Turns about axes 2 and 3 keep the height along them, so the first turn has to bring it about; the
// third gives the distance from axis 2, and the second what is left.
HWY_INLINE ArmTurns elbow_turns(const ParallelElbow& elbow, const Vector3& goal,
                                PackMask other_shoulder, PackMask other_elbow) {
  const PackVector a = pack(elbow.axis[0]);
  const PackVector b = pack(elbow.axis[1]);
  const PackVector c = pack(elbow.axis[2]);
  const PackVector b_at = pack(elbow.at[1]);
  const PackVector c_at = pack(elbow.at[2]);
  // The goal is turned back by the first angle.
  const PackVector p = pack(Vector3(goal - elbow.at[0]));
  const Pack along = dot(a, p) * dot(a, b);
  const Pack by_cosine = dot(b, p) - along;
  const Pack by_sine = dot(b, cross(a, p));
  const Pack size = hn::Sqrt(square(by_cosine) + square(by_sine));
  const Pack inverse = pack(1.0) / choose(size < pack(1e-12), pack(1.0), size);
  const OneOfTwoTurns first =
      turn_with(by_cosine, by_sine, size, inverse, pack(elbow.height) - along, other_shoulder);
  const PackVector there = turned(a, first.turn, p) + pack(elbow.at[0]);
  const PackVector from_b = there - b_at;
  const Pack radius2 = dot(from_b, from_b) - square(dot(b, from_b));
  const OneOfTwoTurns third = turn_to_distance(elbow.bend, radius2, other_elbow);
  const PackVector x = turned(c, third.turn, pack(Vector3(elbow.point - elbow.at[2]))) + c_at;
  ArmTurns out;
  out.turn[0] = back(first.turn);
  out.turn[1] = turn_onto(b, x - b_at, from_b);  // at full stretch the two are not quite as long
  out.turn[2] = third.turn;
  out.valid = hn::And(first.valid, third.valid);
  out.free_joint =
      choose(size < pack(kHalfOfDigits), pack(0.0),
             choose(radius2 < pack(kHalfOfDigits * kHalfOfDigits), pack(1.0), pack(-1.0)));
  return out;
}

HWY_INLINE void finish(const Vector3 (&axes)[3], const ArmTurns& arm, const WristAxes& wrist,
                       const Pose& moved, PackMask other_wrist, int at, WristBranches& out) {
  // The wrist's turn is what the arm leaves of the whole.
  const auto before_arm = [&](const Vector3& v) HWY_ATTR {
    return turned(pack(axes[2]), back(arm.turn[2]),
                  turned(pack(axes[1]), back(arm.turn[1]),
                         turned(pack(axes[0]), back(arm.turn[0]), pack(v))));
  };
  const PackVector first = before_arm(product(moved.rotation, Vector3(wrist.end.col(0))));
  const PackVector second = before_arm(product(moved.rotation, Vector3(wrist.end.col(1))));
  const PackVector columns[3] = {first, second, cross(first, second)};
  WristAsked asked;
  for (int i = 0; i < 3; ++i)
    for (int j = 0; j < 3; ++j) asked.row[i][j] = dot(pack(Vector3(wrist.base.col(i))), columns[j]);
  const HandOfWrist hand = hand_of_wrist<false>(wrist, asked);
  const ThreeAngles turns = angles_of_wrist<false>(wrist, asked, hand, other_wrist);
  for (int j = 0; j < 3; ++j) store(angle_of(arm.turn[j]), out.value[j] + at);
  store(turns.first, out.value[3] + at);
  store(turns.second, out.value[4] + at);
  store(turns.third, out.value[5] + at);
  store(choose(hn::And(hand.any, arm.free_joint < pack(0.0)), pack(3.0), arm.free_joint),
        out.free_joint + at);
  const Pack valid =
      choose(hand.within, choose(is_posture(hand, other_wrist), pack(1.0), pack(0.0)), pack(-1.0));
  store(choose(arm.valid, valid, pack(0.0)), out.valid + at);
}

// The lanes in which a bit of the lane's number is set.
HWY_INLINE PackMask lanes_with(int at, const double (&bit)[kLanes]) {
  return load(bit + at) > pack(0.5);
}
constexpr double kBit0[kLanes] = {0, 1, 0, 1, 0, 1, 0, 1};
constexpr double kBit1[kLanes] = {0, 0, 1, 1, 0, 0, 1, 1};
constexpr double kBit2[kLanes] = {0, 0, 0, 0, 1, 1, 1, 1};

void branches_by_elbow(const ParallelElbow& elbow, const WristAxes& wrist, const Pose& moved,
                       WristBranches& out) {
  const Vector3 axes[3] = {elbow.axis[0], elbow.axis[1], elbow.axis[2]};
  const Vector3 goal = moved * elbow.point;
  for (int at = 0; at < kLanes; at += kPackSize)
    finish(axes, elbow_turns(elbow, goal, lanes_with(at, kBit2), lanes_with(at, kBit1)), wrist,
           moved, lanes_with(at, kBit0), at, out);
}

void branches_by_ways(const ThreeScrews& screws, const ThreeJoints& ways, const WristAxes& wrist,
                      const Pose& moved, WristBranches& out) {
  const Vector3 axes[3] = {screws[0].axis, screws[1].axis, screws[2].axis};
  double angle[3][kLanes] = {};  // none of a joint that slides
  double valid[kLanes] = {};
  double free_joint[kLanes] = {};
  for (int lane = 0; lane < 2 * ways.count; ++lane) {
    const ThreeJoints::Way& way = ways.ways[static_cast<std::size_t>(lane / 2)];
    for (std::size_t j = 0; j < 3; ++j) angle[j][lane] = screws[j].turns ? way.value[j] : 0.0;
    valid[lane] = 1.0;
    free_joint[lane] = way.free;
  }
  for (int at = 0; at < kLanes; at += kPackSize) {
    ArmTurns arm;
    for (int j = 0; j < 3; ++j) {
      const SineCosine both = sine_cosine(load(angle[j] + at));
      arm.turn[j] = {both.cosine, both.sine};
    }
    arm.valid = load(valid + at) > pack(0.5);
    arm.free_joint = load(free_joint + at);
    finish(axes, arm, wrist, moved, lanes_with(at, kBit0), at, out);
  }
  for (int lane = 0; lane < 2 * ways.count; ++lane)
    for (std::size_t j = 0; j < 3; ++j)
      if (!screws[j].turns)
        out.value[j][lane] = ways.ways[static_cast<std::size_t>(lane / 2)].value[j];
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
#include "elbowroom/reach/subproblems.hpp"

namespace er {
namespace {
HWY_EXPORT(branches_by_elbow);
HWY_EXPORT(branches_by_ways);
}  // namespace

ParallelElbow::ParallelElbow(const ThreeScrews& axes, const Vector3& wrist_centre)
    : axis{axes[0].axis, axes[1].axis, axes[2].axis},
      at{axes[0].point, axes[1].point, axes[2].point},
      point(wrist_centre),
      height(axes[1].axis.dot(wrist_centre - axes[0].point)),
      bend(axes[2].axis, across(axis[1], point - at[2]), across(axis[1], at[1] - at[2])) {}

void wrist_branches(const ParallelElbow& elbow, const WristAxes& wrist, const Pose& moved,
                    WristBranches& out) {
  HWY_DYNAMIC_DISPATCH(branches_by_elbow)(elbow, wrist, moved, out);
}

void wrist_branches(const ThreeScrews& arm, const ThreeJoints& ways, const WristAxes& wrist,
                    const Pose& moved, WristBranches& out) {
  HWY_DYNAMIC_DISPATCH(branches_by_ways)(arm, ways, wrist, moved, out);
}

}  // namespace er
#endif
