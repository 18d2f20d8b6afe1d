#include "elbowroom/model/cell.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "support/cells.hpp"

using namespace er;
using namespace er::test;

namespace {

CellDescription good_cell() {
  return {.name = "c",
          .arms = {planar_arm()},
          .fixtures = {box_body("wall", {0.1, 0.1, 0.1}, {1, 0, 0})},
          .pieces = {box_body("cup", {0.1, 0.1, 0.1}, {0, 1, 0})},
          .frames = {{"shelf", Pose::at({0, 0, 2})}},
          .contacts = {{"flat.fore", "cup"}}};
}

}  // namespace

TEST_CASE("a cell finds its things by name") {
  const Cell cell = Cell::build(good_cell());
  CHECK(cell.arm("flat").dof() == 2);
  CHECK(cell.arm("").name() == "flat");
  CHECK(cell.stance("flat.home") == cell.stance("home"));
  CHECK(cell.frame("shelf").position.z() == 2.0);
  CHECK(cell.frame("world").position.norm() == 0.0);
  CHECK(cell.contact_is_meant("cup", "flat.fore"));
  CHECK_FALSE(cell.contact_is_meant("cup", "flat.upper"));
  CHECK_THROWS_WITH(cell.arm("flot"), "unknown arm 'flot'\n  did you mean 'flat'? known: flat");
  CHECK_THROWS_WITH(cell.frame("shelv"), Catch::Contains("did you mean 'shelf'?"));
}

TEST_CASE("names are one family, and contacts must name something") {
  CellDescription d = good_cell();
  d.pieces[0].name = "wall";
  CHECK_THROWS_WITH(Cell::build(d),
                    Catch::StartsWith("pieces[0].name: the name 'wall' is used twice"));
  d = good_cell();
  d.frames[0].name = "world";
  CHECK_THROWS_WITH(Cell::build(d),
                    Catch::StartsWith("frames[0].name: the name 'world' is used twice"));
  d = good_cell();
  d.contacts.push_back({"flat.fore", "wal"});
  CHECK_THROWS_WITH(Cell::build(d),
                    Catch::StartsWith("contacts[1][1]: unknown link, fixture or piece 'wal'"));
}

TEST_CASE("with several arms the arm must be named") {
  CellDescription d = good_cell();
  d.arms.push_back(wrist_arm());
  const Cell cell = Cell::build(d);
  CHECK_THROWS_WITH(cell.arm(""),
                    Catch::StartsWith("the cell has 2 arms, so the arm must be named"));
}

TEST_CASE("a changed cell leaves the first as it was") {
  const Cell cell = Cell::build(good_cell());
  const Cell moved = cell.with_body_at("cup", Pose::at({9, 9, 9}));
  CHECK(moved.pieces()[0].at.position.x() == 9.0);
  CHECK(cell.pieces()[0].at.position.x() == 0.0);
  const Cell lifted = cell.with_arm(cell.arm("flat").mounted_at(Pose::at({0, 0, 1})));
  CHECK(lifted.arm("flat").mount().position.z() == 1.0);
  CHECK_THROWS_WITH(cell.with_body_at("cop", {}), Catch::Contains("did you mean 'cup'?"));
}
