// Closed forms of chains with joints that slide: gantries, columns, beams that slide out, arms on
// rails.
#include <catch2/catch.hpp>
#include <cmath>
#include <string>

#include "elbowroom/model/posture_text.hpp"
#include "elbowroom/reach/closed_form.hpp"
#include "elbowroom/reach/one_held.hpp"
#include "elbowroom/reach/reach.hpp"
#include "elbowroom/reach/side_by_side.hpp"
#include "elbowroom/reach/solver_text.hpp"
#include "support/allocations.hpp"
#include "support/chains.hpp"
#include "support/posture_checks.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;

namespace {

const char* const kWithWrist[] = {"STTTTT", "TSTTTT", "TTSTTT", "SSTTTT", "STSTTT", "TSSTTT"};
const char* const kWithShoulder[] = {"TTTTTS", "TTTTST", "TTTSTT", "TTTTSS", "TTTSTS", "TTTSST"};
const char* const kThreeSlide[] = {"SSSTTT", "TTTSSS", "STSTST", "TSSTTS", "SSTTST", "TSTSST"};
const char* const kFewer[] = {"SSSTT", "STSST", "TTSSS", "SSST", "TSTT",
                              "TTST",  "SSTT",  "SSS",   "TSS"};

constexpr int kCount = kSanitized ? 20 : 400;

}  // namespace

TEST_CASE("wherever joints slide before a wrist or behind a shoulder, no posture is missed") {
  const auto check = [](const char* pattern, std::size_t first_of_point) {
    INFO(pattern);
    const auto look = [&](auto make_chain) {
      return looked_for(kCount, [&](RandomStream& random) {
        return sliding_where(pattern, meeting_from(first_of_point, make_chain(random, 6)));
      });
    };
    const Tally askew = look(random_chain);
    CHECK(askew.asked > kCount * 3 / 4);
    CHECK(askew.missed == 0);
    const Tally square = look(random_squared_chain);
    CHECK(square.asked > kCount / 20);
    CHECK(square.missed == 0);
  };
  for (const char* pattern : kWithWrist) check(pattern, 3);
  for (const char* pattern : kWithShoulder) check(pattern, 0);
}

TEST_CASE("where three of six joints slide the others may be anywhere") {
  for (const char* pattern : kThreeSlide) {
    INFO(pattern);
    const auto of = [&](bool square) {
      return looked_for(kCount, [&, square](RandomStream& random) {
        return sliding_where(pattern,
                             square ? random_squared_chain(random, 6) : random_chain(random, 6));
      });
    };
    const Tally askew = of(false), square = of(true);
    CHECK(askew.asked > kCount * 3 / 4);
    CHECK(askew.missed + square.missed == 0);
    CHECK(square.without_form > 0);  // two along one line, three in one plane
  }
}

TEST_CASE("three to five joints of which some slide have a form, too") {
  for (const char* pattern : kFewer) {
    INFO(pattern);
    const int joints = static_cast<int>(std::string(pattern).size());
    const Tally tally = looked_for(kCount, [&](RandomStream& random) {
      return sliding_where(pattern, random_chain(random, joints));
    });
    CHECK(tally.without_form == 0);
    CHECK(tally.asked > kCount * 3 / 4);
    CHECK(tally.missed == 0);
  }
}

TEST_CASE("axes that are all but at right angles, as a calibration leaves them, lose no posture") {
  for (const char* pattern : {"TTTTTT", "STTTTT", "TSTTTT", "TTSTTT"}) {
    INFO(pattern);
    RandomStream random(12);
    int asked = 0;
    for (int n = 0; n < 3 * kCount; ++n) {
      const ScrewChain chain = off_by_a_little(
          random, sliding_where(pattern, meeting_from(3, random_squared_chain(random, 6))));
      const Angles q = values_of(random, chain);
      const auto form = ClosedForm::of(chain);
      if (!form || regularity(chain, q) < 1e-3) continue;
      const Pose tip = chain.at(q.data());
      ClosedSolutions all;
      form->solve(tip, all);
      INFO(n << " " << form->text());
      CHECK(has(chain, all, q, 1e-5));
      check_postures(chain, tip, all);
      ++asked;
    }
    CHECK(asked > kCount / 2);
  }
}

TEST_CASE("a SCARA whose axes are parallel but for rounded angles reaches what it reaches") {
  RandomStream random(3);
  ScrewChain chain = sliding_where("TTST", random_chain(random, 4));
  for (Screw& screw : chain.screws) screw.axis = Vector3::UnitZ();
  for (Screw& screw : chain.screws)
    screw.axis = (screw.axis + random_vector(random, 2e-8)).normalized();
  const auto form = ClosedForm::of(chain);
  REQUIRE(form);
  CHECK(form->name() == "parallel axes");
  for (int n = 0; n < 50; ++n) {
    const Angles q = values_of(random, chain);
    ClosedSolutions all;
    form->solve(chain.at(q.data()), all);
    CHECK(has(chain, all, q, 1e-6));
    check_postures(chain, chain.at(q.data()), all);
  }
}

TEST_CASE("a column with a beam that slides out: as cylinder coordinates have it") {
  const Vector3 x = Vector3::UnitX(), z = Vector3::UnitZ();
  // Turns about z, lifts along z, reaches out along x; a wrist about z, y and x at (0.5, 0, 0).
  ScrewChain chain;
  const Vector3 wrist(0.5, 0, 0);
  chain.screws = {{z, Vector3::Zero(), true, 0},      {z, Vector3::Zero(), false, 1},
                  {x, Vector3::Zero(), false, 2},     {z, wrist, true, 3},
                  {Vector3::UnitY(), wrist, true, 4}, {x, wrist, true, 5}};
  chain.tip = Pose::at({0.6, 0, 0});
  const auto form = ClosedForm::of(chain);
  REQUIRE(form);
  CHECK(form->text() ==
        "spherical wrist (axes 4, 5 and 6 meet in one point; joints 2 and 3 slide)");
  RandomStream random(2);
  for (int n = 0; n < 100; ++n) {
    const Pose hand{
        rotation_from_rpy(random.uniform(-3, 3), random.uniform(-1.5, 1.5), random.uniform(-3, 3)),
        random_vector(random, 1.0)};
    ClosedSolutions all;
    form->solve(hand, all);
    CHECK(all.complete);
    CHECK(all.count == 4);
    const Vector3 at = hand * Vector3(-0.1, 0, 0);  // where the wrist has to be
    const double turn = std::atan2(at.y(), at.x());
    const double out = std::hypot(at.x(), at.y());
    for (const ClosedSolution& one : all) {
      CHECK(one.values[1] == Approx(at.z()).margin(1e-12));
      const bool ahead = std::abs(wrapped(one.values[0] - turn)) < 1e-9;
      CHECK((ahead || std::abs(std::abs(wrapped(one.values[0] - turn)) - std::numbers::pi) < 1e-9));
      CHECK(one.values[2] == Approx((ahead ? out : -out) - 0.5).margin(1e-12));
    }
  }
  // The wrist above the column: any turn of it does.
  ClosedSolutions all;
  form->solve(Pose::at({0.1, 0, 0.7}), all);
  REQUIRE(all.count > 0);
  for (const ClosedSolution& one : all) CHECK(one.free_joint == 0);
}

TEST_CASE("a gantry whose hand hangs straight down names the joint that is free") {
  const Vector3 x = Vector3::UnitX(), y = Vector3::UnitY(), z = Vector3::UnitZ();
  ScrewChain chain;
  const Vector3 c(0, 0, 0), a(0, 0, -0.1), b(0, 0, -0.3);
  chain.screws = {{x, c, false, 0}, {y, c, false, 1}, {z, c, false, 2},
                  {z, c, true, 3},  {y, a, true, 4},  {z, b, true, 5}};
  chain.tip = Pose::at({0, 0, -0.4});
  const auto form = ClosedForm::of(chain);
  REQUIRE(form);
  CHECK(form->text() == "three slides (joints 4, 5 and 6 turn the hand, the others place it)");
  const auto postures = [&](const Pose& hand) {
    ClosedSolutions all;
    form->solve(hand, all);
    CHECK(all.complete);
    return all;
  };
  const ClosedSolutions straight = postures({rotation_about(z, 0.4), {0.2, 0.1, -0.5}});
  REQUIRE(straight.count == 1);
  CHECK(straight.all[0].free_joint == 3);
  // Tilted: two ways, told apart by the sign of the bend.
  const Pose tilted{rotation_about(z, 0.4) * rotation_about(y, 0.3), {0.2, 0.1, -0.5}};
  const ClosedSolutions two = postures(tilted);
  REQUIRE(two.count == 2);
  CHECK(form->branch(two.all[0]) != form->branch(two.all[1]));
  // By hand: where the column is above, as it is turned and bent.
  for (const ClosedSolution& one : two) {
    CHECK(std::abs(one.values[4]) == Approx(0.3));
    const Matrix3 bent = rotation_about(z, one.values[3]) * rotation_about(y, one.values[4]);
    const Vector3 column = tilted.position - bent * Vector3(0, 0, -0.3) - a;
    for (int k = 0; k < 3; ++k)
      CHECK(one.values[static_cast<std::size_t>(k)] == Approx(column[k]).margin(1e-12));
  }
}

TEST_CASE("a gantry of five joints points its tool both ways round, and where it cannot says so") {
  const Vector3 x = Vector3::UnitX(), y = Vector3::UnitY(), z = Vector3::UnitZ();
  ScrewChain chain;
  chain.screws = {{x, {0, 0, 0}, false, 0},
                  {y, {0, 0, 0}, false, 1},
                  {-z, {0, 0, 0}, false, 2},
                  {z, {0, 0, 0}, true, 3},
                  {y, {0, 0, -0.1}, true, 4}};
  chain.tip = {rotation_from_rpy(std::numbers::pi, 0, 0), {0, 0, -0.3}};
  // Its tool's turn left open: two ways to point.
  const auto free = ClosedForm::of_axis(chain, z);
  REQUIRE(free);
  CHECK(free->name() == "five joints");
  const Matrix3 down = rotation_from_rpy(std::numbers::pi, 0, 0);
  const Pose hand{rotation_about(z, 0.7) * rotation_about(y, -0.5) * down, {0.3, -0.2, -0.6}};
  ClosedSolutions both;
  free->solve(hand, both);
  CHECK(both.count == 2);
  CHECK(both.complete);
  // As a whole only where the turn is as the arm has it.
  const auto whole = ClosedForm::of(chain);
  REQUIRE(whole);
  ClosedSolutions one;
  whole->solve(hand, one);
  REQUIRE(one.count == 1);
  CHECK(one.all[0].values[3] == Approx(0.7));
  CHECK(one.all[0].values[4] == Approx(-0.5));
  ClosedSolutions none;
  whole->solve({hand.rotation * rotation_about(z, 0.1), hand.position}, none);
  CHECK(none.count == 0);
}

TEST_CASE("joint travel of arms that slide is told in what it is") {
  RandomStream random(1);
  const auto told = [&](const char* pattern, double travel) {
    return travel_unit(arm_of(sliding_where(pattern, random_chain(random, 3)))).text(travel);
  };
  CHECK(told("TTT", 0.5) == "29 deg");
  CHECK(told("SSS", 0.5) == "500 mm");
  CHECK(told("STT", 0.5) == "0.50 rad and m");
}

TEST_CASE("chains of slides that cannot do what their number says have no form") {
  const auto with = [](const char* pattern, const std::vector<Vector3>& axes) {
    ScrewChain chain;
    for (std::size_t k = 0; k < axes.size(); ++k)
      chain.screws.push_back(
          {axes[k], {0.1 * static_cast<double>(k), 0, 0}, true, static_cast<int>(k)});
    chain.tip = Pose::at({1, 0, 0});
    return sliding_where(pattern, chain);
  };
  const Vector3 x = Vector3::UnitX(), y = Vector3::UnitY(), z = Vector3::UnitZ();
  CHECK_FALSE(ClosedForm::of(with("SSSTTT", {x, y, x, z, y, z})));  // in one plane
  CHECK_FALSE(ClosedForm::of(with("SSSSTT", {x, y, z, x, y, z})));  // four
  CHECK_FALSE(ClosedForm::of(with("SSTTTT", {x, y, z, z, y, x})));  // nothing lifts
  CHECK(ClosedForm::of(with("SSSTTT", {x, y, z, z, y, z})));
}

TEST_CASE("solving with slides allocates nothing") {
  RandomStream random(6);
  const ScrewChain wrist = sliding_where("STTTTT", meeting_from(3, random_chain(random, 6)));
  const ScrewChain gantry = sliding_where("SSSTTT", random_chain(random, 6));
  for (const ScrewChain& chain : {wrist, gantry}) {
    const auto form = ClosedForm::of(chain);
    REQUIRE(form);
    const Pose tip = chain.at(values_of(random, chain).data());
    ClosedSolutions all;
    form->solve(tip, all);
    const auto before = allocations();
    form->solve(tip, all);
    CHECK(allocations() == before);
    CHECK(all.count > 0);
  }
}

TEST_CASE("seven joints with one held: the first or the last, a slide before a turn") {
  RandomStream random(9);
  for (const char* pattern : {"STTTTTT", "TTTTTTS", "TTTTTTT"}) {
    INFO(pattern);
    const bool at_end = pattern[6] == 'S';
    for (int n = 0; n < 40; ++n) {
      const ScrewChain chain = sliding_where(pattern, random_chain(random, 7));
      const auto form = OneHeld::of(chain);
      REQUIRE(form);
      CHECK(form->joint() == (at_end ? 6 : 0));
      const Angles q = random_angles(random);
      const Pose tip = chain.at(q.data());
      ClosedSolutions all;
      form->solve(tip, q[static_cast<std::size_t>(form->joint())], all);
      CHECK(has(chain, all, q, 1e-6));
      check_postures(chain, tip, all);
      for (const ClosedSolution& one : all)
        CHECK(one.values[static_cast<std::size_t>(form->joint())] ==
              q[static_cast<std::size_t>(form->joint())]);
    }
  }
  CHECK_FALSE(OneHeld::of(random_chain(random, 6)));
}

TEST_CASE("an arm on a rail: every branch, nothing worse than what numeric starts find") {
  ScrewChain chain = wrist_chain();
  chain.screws.insert(chain.screws.begin(), Screw{Vector3::UnitY(), Vector3::Zero(), false, 0});
  const Arm arm = arm_of(chain);
  const Tool tool = arm.end_tool("");
  CHECK(solver_text(arm, tool).starts_with("joint 1 at values over its range, the others"));
  const Cell cell = Cell::build({.name = "rail", .arms = {arm}});
  const CellQuery query(cell, arm.name());
  RandomStream random(4);
  int better = 0;
  for (int n = 0; n < (kSanitized ? 2 : 12); ++n) {
    const Posture from = random_posture(random, arm);
    Target target;
    target.place(tool.name, tool_pose(arm, tool, random_posture(random, arm)));
    const auto held = reach(query, target, {.from = from});
    const auto numeric = reach(query, target, {.use_closed_form = false, .from = from});
    REQUIRE(held);
    REQUIRE(numeric);
    CHECK(held->is_family);
    CHECK(held->starts == 0);
    const ReachSolution& best = held->solutions.front();
    CHECK_FALSE(best.branch.empty());
    CHECK(best.position_error < 1e-6);
    CHECK(best.cost() < numeric->solutions.front().cost() + 0.05);
    if (best.cost() < numeric->solutions.front().cost() - 1e-3) ++better;
  }
  CHECK((kSanitized || better > 0));
}
