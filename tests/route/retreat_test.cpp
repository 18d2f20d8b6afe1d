// The tool drawn back straight, and two trees that meet by it.
#include "elbowroom/route/retreat.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/base/random.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/route/route.hpp"
#include "elbowroom/route/two_trees.hpp"
#include "support/cells.hpp"
#include "support/clutter.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;

TEST_CASE("the tool is drawn back along its axis, or inward, within joint ranges") {
  const Arm arm = clutter_arm();
  const Tool& tool = arm.tools().front();
  RandomStream random(31);
  int drawn = 0;
  int straight = 0;
  for (int n = 0; n < 500; ++n) {
    const Posture from = random.between(arm.search_lower(), arm.search_upper());
    const Pose before = tool_pose(arm, tool, from);
    for (const Retreat way : {Retreat::along_tool, Retreat::inward}) {
      const auto back = drawn_back(arm, from, way);
      if (!back) continue;
      ++drawn;
      CHECK((back->array() >= arm.search_lower().array()).all());
      CHECK((back->array() <= arm.search_upper().array()).all());
      const Pose after = tool_pose(arm, tool, *back);
      // The first joint turns about the vertical through the mount.
      const Vector3 out(before.position.x(), before.position.y(), 0.0);
      const Vector3 direction =
          way == Retreat::inward ? Vector3(-out.normalized()) : Vector3(-before.rotation.col(2));
      CHECK((after.position - before.position - 0.1 * direction).norm() <= 0.03);
      const Matrix3 turn = before.rotation.transpose() * after.rotation;
      straight += rotation_vector(turn).norm() < 0.05 ? 1 : 0;
    }
  }
  CHECK(drawn > 500);
  CHECK(straight > drawn / 2);
}

TEST_CASE("what cannot be drawn back stays") {
  // Its tool axis stands on the plane in which it moves.
  const Arm flat = planar_arm();
  CHECK_FALSE(drawn_back(flat, Posture::Zero(flat.dof()), Retreat::along_tool));
  // Stretched out, no small step leads inward; bent, one does.
  Posture bent = Posture::Zero(flat.dof());
  bent[1] = 1.5;
  const auto in = drawn_back(flat, bent, Retreat::inward);
  REQUIRE(in);
  const Tool& tool = flat.tools().front();
  CHECK(tool_pose(flat, tool, *in).position.head<2>().norm() ==
        Approx(tool_pose(flat, tool, bent).position.head<2>().norm() - 0.1).margin(0.03));
}

TEST_CASE("two trees meet where the tool is drawn back from both ends, by proved lines") {
  constexpr double kKept = 0.005;
  for (const Clutter clutter : {Clutter::rack, Clutter::window}) {
    const CellQuery query(clutter_cell(clutter), "");
    int met = 0;
    const int count = kSanitized ? 3 : 20;
    for (const RouteQuestion& question : clutter_questions(query, clutter, count, kKept, 41)) {
      LineProver prover(query, kKept);
      TwoTrees trees(query.arm(), question.start, question.goals, 3);
      if (!trees.draw_back(prover)) {
        CHECK_FALSE(trees.way().exists());
        continue;
      }
      ++met;
      CHECK(trees.tries() == 0);
      const Way& way = trees.way();
      CHECK(way.waypoints.front() == question.start);
      CHECK(way.waypoints.back() == question.goals[way.goal]);
      LineProver again(query, kKept);
      for (std::size_t i = 0; i + 1 < way.waypoints.size(); ++i)
        CHECK(again.is_free(way.waypoints[i], way.waypoints[i + 1]));
    }
    INFO(name_of(clutter));
    CHECK(met > count / 2);
  }
}

TEST_CASE("among shelves the tool drawn back takes few lines, and leads on short routes") {
  constexpr double kKept = 0.005;
  const CellQuery query(clutter_cell(Clutter::rack), "");
  long lines[2] = {0, 0};
  double length[2] = {0.0, 0.0};
  for (const RouteQuestion& question :
       clutter_questions(query, Clutter::rack, kSanitized ? 4 : 25, kKept, 7))
    for (const bool back : {false, true}) {
      const auto route =
          find_route(query, question.start, question.goals,
                     {.clearance = kKept, .searches = 1, .draw_back = back, .least_within = 0.0});
      REQUIRE(route);
      lines[back ? 1 : 0] += route->figures.lines;
      length[back ? 1 : 0] += route->length;
    }
  // Of few questions chance decides.
  CHECK((kSanitized ? 1 : 2) * lines[1] < lines[0]);
  CHECK(length[1] < (kSanitized ? 1.2 : 0.95) * length[0]);
}
