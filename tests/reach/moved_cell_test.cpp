// Nothing depends on where the world's origin is, or which way its axes point.
#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/reach/reach.hpp"
#include "elbowroom/route/route.hpp"
#include "support/cells.hpp"
#include "support/demo.hpp"

using namespace er;
using namespace er::test;

namespace {

Cell moved(const Cell& cell, const Pose& by) {
  CellDescription out = cell.description();
  for (Arm& arm : out.arms) arm = arm.mounted_at(by * arm.mount());
  for (Body& body : out.fixtures) body.at = by * body.at;
  for (Body& body : out.pieces) body.at = by * body.at;
  for (Frame& frame : out.frames) frame.at = by * frame.at;
  for (Zone& zone : out.zones) zone.at = by * zone.at;
  return Cell::build(out);
}

}  // namespace

TEST_CASE("a cell that is moved as a whole: the same distances, postures and routes") {
  const Pose by{rotation_from_rpy(0.7, -1.1, 2.3), {1.4, -0.6, 0.9}};
  RandomStream random(19);
  for (const char* file : {DEMO_DIR "/glaze.cell.yaml", DEMO_DIR "/measured.cell.yaml"}) {
    const Cell cell = load_cell(file);
    const Arm& arm = cell.arms().front();
    const CellQuery here(cell, arm.name());
    const CellQuery there(moved(cell, by), arm.name());
    INFO(file);
    std::vector<Posture> free;
    for (int trial = 0; trial < 60; ++trial) {
      const Posture q = random.between(arm.search_lower(), arm.search_upper());
      const Nearest nearest = here.nearest(q);
      CHECK(there.nearest(q).distance == Approx(nearest.distance).margin(1e-7));
      CHECK(there.nearest(q).first == nearest.first);
      for (const double clearance : {0.0, 0.005, 0.05})
        if (std::abs(nearest.distance - clearance) > 1e-6)
          CHECK(here.is_free(q, clearance) == there.is_free(q, clearance));
      if (here.is_free(q, 0.005)) free.push_back(q);
    }
    REQUIRE(free.size() > 4);

    const Tool tool = arm.end_tool();
    int met = 0;
    for (std::size_t i = 0; i < 16; ++i) {
      AtPlace place{.at = tool_pose(arm, tool, free[i % free.size()])};
      if (i % 2 == 1) place.turn = Band::free();
      if (i % 4 > 1) place.at.position += 0.2 * random_direction(random);  // some are out of reach
      Target target;
      target.require({.of = tool.name, .holds = place});
      const ReachOptions options{.starts = 30, .clearance = 0.002, .find_remedies = false};
      const auto a = reach(here, target, options);
      const auto b = reach(there, target.moved_by(by), options);
      REQUIRE(bool(a) == bool(b));
      if (!a) {
        CHECK(a.reason().cause == b.reason().cause);
        continue;
      }
      ++met;
      if (!a->complete || a->is_family) continue;
      REQUIRE(a->solutions.size() == b->solutions.size());
      for (std::size_t k = 0; k < a->solutions.size(); ++k)
        CHECK(a->solutions[k].cost() == Approx(b->solutions[k].cost()).margin(1e-6));
    }
    CHECK(met >= 8);

    for (std::size_t i = 0; i + 1 < 5; ++i) {
      const RouteOptions options{.tries = 2000, .find_remedies = false, .least_within = 0.0};
      CHECK(bool(find_route(here, free[i], {free[i + 1]}, options)) ==
            bool(find_route(there, free[i], {free[i + 1]}, options)));
    }
  }
}
