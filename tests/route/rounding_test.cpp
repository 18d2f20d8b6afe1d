#include "elbowroom/route/rounding.hpp"

#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/route/route.hpp"
#include "support/cells.hpp"
#include "support/clutter.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

struct Case {
  CellQuery query;
  std::vector<Posture> waypoints;
};

std::vector<Case> routes_with_corners(Clutter clutter, int count) {
  std::vector<Case> out;
  const CellQuery query(clutter_cell(clutter), "");
  for (const RouteQuestion& question : clutter_questions(query, clutter, count, kClearance)) {
    const auto route = find_route(query, question.start, question.goals,
                                  {.clearance = kClearance, .least_within = 0.0});
    if (route && route->waypoints.size() > 2) out.push_back({query, route->waypoints});
  }
  return out;
}

// The nearest point of the straight lines, joint by joint: the largest difference of any joint.
double off_lines(const Posture& q, const std::vector<Posture>& waypoints) {
  double least = 1e9;
  for (std::size_t i = 1; i < waypoints.size(); ++i)
    for (int k = 0; k <= 400; ++k) {
      const Posture on = waypoints[i - 1] + k / 400.0 * (waypoints[i] - waypoints[i - 1]);
      least = std::min(least, (q - on).cwiseAbs().maxCoeff());
    }
  return least;
}

}  // namespace

TEST_CASE("round corners: smooth up to curvature, free, within the bound, from end to end") {
  int rounded = 0, moved = 0;
  for (const Clutter clutter : {Clutter::rack, Clutter::window})
    for (const Case& c : routes_with_corners(clutter, 4)) {
      constexpr double kAngle = 0.1;
      const RoundedPath path = round_corners(
          c.query, c.waypoints, {.clearance = kClearance, .bounds = {.angle = kAngle}});
      CHECK(path.corners.size() + 2 == c.waypoints.size());
      CHECK((path.stretches.front().at(0.0).position - c.waypoints.front()).norm() < 1e-12);
      const JointCurve& last = path.stretches.back();
      CHECK((last.at(last.duration()).position - c.waypoints.back()).norm() < 1e-9);
      for (const Corner& corner : path.corners) {
        rounded += corner.cut > 0.0 ? 1 : 0;
        moved += corner.moved ? 1 : 0;
        CHECK(corner.off.maxCoeff() <= kAngle * (1 + 1e-6));
      }
      for (const JointCurve& stretch : path.stretches) {
        for (std::size_t i = 0; i + 1 < stretch.pieces().size(); ++i)
          for (std::size_t k = 0; k < 7; ++k)
            for (int order = 0; order < 3; ++order)
              CHECK(value_at(stretch.pieces()[i].joints[k], stretch.pieces()[i].duration, order) ==
                    Approx(value_at(stretch.pieces()[i + 1].joints[k], 0.0, order)).margin(1e-7));
        for (int i = 0; i <= 100; ++i) {
          const Posture q = stretch.at(stretch.duration() * i / 100).position;
          CHECK(c.query.nearest(q).distance >= kClearance);
          CHECK(off_lines(q, c.waypoints) <= kAngle * 1.001 + 2e-3);
        }
      }
    }
  CHECK(rounded >= 6);
  CHECK(moved >= 3);
}

TEST_CASE("round corners: the tip of the tool stays as near to its old way as asked") {
  const CellQuery query(clutter_cell(Clutter::posts), "");
  const Arm& arm = query.arm();
  const Tool tool = arm.end_tool();
  const std::vector<Posture> waypoints{values({0, 0, 0, 0.3, 0, 0, 0}),
                                       values({0.3, 0.1, 0, 0.5, 0, 0.2, 0}),
                                       values({0.3, -0.2, 0.2, 0.9, 0, 0.2, 0})};
  constexpr double kOff = 0.004;
  const RoundedPath path = round_corners(query, waypoints,
                                         {.clearance = 0.0,
                                          .bounds = {.length = kOff},
                                          .link = tool.link_index,
                                          .tip = tool.tip.position});
  REQUIRE(path.stretches.size() == 1);
  double most = 0.0;
  for (int i = 0; i <= 400; ++i) {
    const Posture q = path.stretches[0].at(path.stretches[0].duration() * i / 400).position;
    double least = 1e9;
    for (std::size_t k = 1; k < 3; ++k)
      for (int m = 0; m <= 400; ++m) {
        const Posture on = waypoints[k - 1] + m / 400.0 * (waypoints[k] - waypoints[k - 1]);
        least = std::min(
            least, (tool_pose(arm, tool, q).position - tool_pose(arm, tool, on).position).norm());
      }
    most = std::max(most, least);
  }
  CHECK(most <= kOff + 1e-4);
  CHECK(most > 0.1 * kOff);
}

TEST_CASE("round corners: what cannot be rounded is a stop, and nonsense is refused") {
  const CellQuery query(clutter_cell(Clutter::posts), "");
  const std::vector<Posture> waypoints{
      values({0, 0, 0, 0.3, 0, 0, 0}), values({0.3, 0.1, 0, 0.5, 0, 0.2, 0}),
      values({0.3, 0.1, 0, 0.5, 0, 0.2, 0}), values({0.3, -0.2, 0.2, 0.9, 0, 0.2, 0})};
  const RoundedPath tight =
      round_corners(query, waypoints, {.clearance = 0.0, .bounds = {.angle = 1e-7}});
  CHECK(tight.stretches.size() == 2);
  REQUIRE(tight.corners.size() == 1);
  CHECK(tight.corners[0].cut == 0.0);
  CHECK((tight.stretches[1].at(0.0).position - waypoints[1]).norm() < 1e-12);
  // A waypoint on a straight line is no corner.
  const RoundedPath straight =
      round_corners(query, {waypoints[0], 0.5 * (waypoints[0] + waypoints[1]), waypoints[1]},
                    {.clearance = 0.0, .bounds = {.angle = 0.1}});
  CHECK(straight.corners.empty());
  CHECK(straight.stretches.size() == 1);
  // Nor does it become one when the corner after it is moved.
  const Posture middle = 0.5 * (waypoints[0] + waypoints[1]);
  const RoundedPath past = round_corners(query, {waypoints[0], middle, waypoints[1], waypoints[3]},
                                         {.clearance = 0.0, .bounds = {.angle = 0.1}});
  CHECK(past.stretches.size() == 1);
  REQUIRE(past.corners.size() == 1);
  CHECK(past.corners[0].waypoint == 2);
  CHECK(straight_path(waypoints).stretches.size() == 2);
  CHECK_THROWS_WITH(round_corners(query, waypoints, {}), Contains("nothing says how far"));
  CHECK_THROWS_WITH(round_corners(query, waypoints, {.bounds = {.angle = 0.0}}),
                    Contains("is above zero"));
  CHECK_THROWS_WITH(round_corners(query, {waypoints[0], waypoints[0]}, {.bounds = {.angle = 0.1}}),
                    Contains("two different waypoints"));
}
