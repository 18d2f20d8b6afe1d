#include "elbowroom/collision/curve_sweep.hpp"

#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/random.hpp"
#include "elbowroom/base/spline.hpp"
#include "support/cells.hpp"
#include "support/clutter.hpp"

using namespace er;
using namespace er::test;

namespace {

JointCurve random_curve(RandomStream& random, const Arm& arm, double spread) {
  std::vector<SplineKnot> knots;
  const Posture begin = random_posture(random, arm);
  for (int i = 0; i < 3; ++i)
    knots.push_back({begin + spread * (random_posture(random, arm) - begin)});
  return spline_through(knots, {0.7, 1.1}, SplineDegree::quintic, SplineEnds::natural);
}

}  // namespace

TEST_CASE(
    "a curve that is proved free is free at every sample, and what blocks one is where it says") {
  RandomStream random(51);
  int free = 0, blocked = 0;
  for (const Clutter clutter : {Clutter::posts, Clutter::mixed}) {
    const CellQuery query(clutter_cell(clutter), "");
    SweepMemory memory(query);
    for (int i = 0; i < 60; ++i) {
      const JointCurve curve = random_curve(random, query.arm(), i % 2 == 0 ? 0.05 : 0.3);
      const CurveSweep sweep = sweep_curve(query, curve, kClearance, memory);
      double nearest = 1.0, before = 1.0;
      for (int k = 0; k <= 300; ++k) {
        const double t = curve.duration() * k / 300;
        const double d = query.nearest(curve.at(t).position).distance;
        nearest = std::min(nearest, d);
        if (t < sweep.at - 1e-4) before = std::min(before, d);
      }
      if (sweep.free) {
        ++free;
        REQUIRE(nearest >= kClearance);
      } else {
        ++blocked;
        // Nothing before it is too near, and there something is.
        REQUIRE(before >= kClearance - 1e-9);
        REQUIRE(query.nearest(curve.at(sweep.at).position).distance < kClearance + 1e-4);
      }
    }
  }
  CHECK(free > 10);
  CHECK(blocked > 20);
}

TEST_CASE("a curve over a thin plate is blocked, and one that swings out and back again") {
  Cell cell = clutter_cell(Clutter::posts);
  const CellQuery query(cell, "");
  SweepMemory memory(query);
  // Out and back to where it began: its ends are the same, and no straight line leads anywhere.
  const Posture home = Posture::Zero(7);
  REQUIRE(query.is_free(home, kClearance));
  CurvePiece piece{1.0, {}};
  for (int k = 0; k < 7; ++k) piece.joints.push_back({0.0, 0.0, 0.0, 0.0, 0.0, 0.0});
  piece.joints[1] = {0.0, 8.8, -8.8,
                     0.0, 0.0, 0.0};  // to 2.2 rad, which is into the floor, and back
  const CurveSweep sweep = sweep_curve(query, JointCurve({piece}), kClearance, memory);
  CHECK_FALSE(sweep.free);
  CHECK(sweep.at > 0.0);
  CHECK(sweep.at < 0.5);
  piece.joints[1] = {0.0, 0.2, -0.2, 0.0, 0.0, 0.0};
  CHECK(sweep_curve(query, JointCurve({piece}), kClearance, memory).free);
  piece.joints[2][1] = std::nan("");
  CHECK_THROWS_WITH(sweep_curve(query, JointCurve({piece}), kClearance, memory),
                    Catch::Contains("no finite number"));
  piece.joints[2][1] = 0.0;
  // Standing still.
  piece.joints[1] = {};
  CHECK(sweep_curve(query, JointCurve({piece}), kClearance, memory).free);
}
