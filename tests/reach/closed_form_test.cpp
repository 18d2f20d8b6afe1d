// Closed forms: every posture, checked by forward kinematics, by a second formulation and against
// published figures.
#include "elbowroom/reach/closed_form.hpp"
#include "elbowroom/reach/solver_text.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>
#include <set>
#include <string>

#include "elbowroom/base/random.hpp"
#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/numeric.hpp"
#include "elbowroom/reach/seven_centres.hpp"
#include "elbowroom/reach/subproblems.hpp"
#include "support/allocations.hpp"
#include "support/cells.hpp"
#include "support/chains.hpp"
#include "support/instruction_sets.hpp"

using namespace er;
using namespace er::test;

namespace {

constexpr double kPi = std::numbers::pi;
void check_all(const ScrewChain& chain, const Pose& tip, const ClosedSolutions& all) {
  for (const ClosedSolution& one : all) {
    const PoseError error = error_between(tip, chain.at(one.values.data()));
    CHECK(error.position < 1e-9);
    CHECK(error.angle < 1e-9);
  }
  for (int i = 0; i < all.count; ++i)
    for (int k = 0; k < i; ++k)
      CHECK(distance_between(chain, all.all[static_cast<std::size_t>(i)].values,
                             all.all[static_cast<std::size_t>(k)].values) > 1e-9);
}

// Every posture that a chain was put in is found again; postures come in pairs.
int check_round_trips(const ScrewChain& chain, const ClosedForm& form, RandomStream& random,
                      int rounds) {
  int most = 0;
  for (int n = 0; n < rounds; ++n) {
    const Angles q = random_angles(random);
    if (regularity(chain, q) < 1e-4) continue;
    const Pose tip = chain.at(q.data());
    ClosedSolutions all;
    form.solve(tip, all);
    check_all(chain, tip, all);
    CHECK(has(chain, all, q));
    CHECK(all.complete);
    CHECK(all.count % 2 == 0);
    most = std::max(most, all.count);
  }
  return most;
}

ScrewChain seen_from_tip(const ScrewChain& chain) {
  ScrewChain out;
  out.tip = chain.tip.inverse();
  for (auto s = chain.screws.rbegin(); s != chain.screws.rend(); ++s)
    out.screws.push_back({-(out.tip.rotation * s->axis), out.tip * s->point, true, 0});
  return out;
}

// An arm that moves as the chain does.

}  // namespace

TEST_CASE("a cosine and a sine: two angles, one at the end, none beyond, any of nothing") {
  RandomStream random(1);
  for (int n = 0; n < 200; ++n) {
    const double a = random.uniform(-2, 2), b = random.uniform(-2, 2), t = random.uniform(-3, 3);
    const TwoAngles two = solve_cosine_sine(a, b, a * std::cos(t) + b * std::sin(t));
    REQUIRE(two.count == 2);
    CHECK(std::min(std::abs(two.angle[0] - t), std::abs(two.angle[1] - t)) < 1e-6);
  }
  CHECK(solve_cosine_sine(1, 0, 1).count == 1);
  CHECK(solve_cosine_sine(1, 0, -1).angle[0] == Approx(kPi));
  CHECK(solve_cosine_sine(1, 0, 1 + 1e-12).count == 1);
  CHECK(solve_cosine_sine(1, 0, 1.001).count == 0);
  CHECK(solve_cosine_sine(0, 0, 0).any);
  CHECK(solve_cosine_sine(0, 0, 1).count == 0);
}

TEST_CASE("all real roots of a trigonometric polynomial, close ones too") {
  // A product of sin((t - r) / 2) over an even number of roots is a trigonometric polynomial.
  RandomStream random(2);
  for (int n = 0; n < 200; ++n) {
    std::vector<double> roots;
    for (int i = 0; i < 8; ++i) roots.push_back(random.uniform(-3.1, 3.1));
    if (n % 4 == 0) roots[1] = roots[0] + 1e-4;  // a pair of neighbours
    const auto product = [&](double t) {
      double value = 1.0;
      for (const double r : roots) value *= std::sin(0.5 * (t - r));
      return value;
    };
    std::vector<double> samples;
    for (int i = 0; i < 13; ++i) samples.push_back(product(2 * kPi * i / 13));
    const auto found = TrigPolynomial::through(samples.data(), EvenAngles(13), 4).roots();
    std::sort(roots.begin(), roots.end());
    for (const double r : roots)
      CHECK(std::any_of(found.begin(), found.end(),
                        [&](double f) { return std::abs(f - r) < 1e-6; }));
    CHECK(found.count == 8);
    CHECK(found.all_isolated);
    for (const double f : found) CHECK(std::abs(product(f)) < 1e-14);
  }
  CHECK(TrigPolynomial({2.0, 1.0, 0.0}, 1).roots().count == 0);
  // Touches zero at 180 deg: listed there, once or on both sides of the seam.
  const auto touching = TrigPolynomial({1.0, 1.0, 0.0}, 1).roots();
  CHECK(touching.count > 0);
  CHECK_FALSE(touching.all_isolated);
  for (const double t : touching) CHECK(std::abs(std::abs(t) - kPi) < 1e-5);
}

TEST_CASE("the small questions: turns that take points where they should be") {
  RandomStream random(3);
  for (int n = 0; n < 300; ++n) {
    const Vector3 a = random_vector(random, 1).normalized(),
                  b = random_vector(random, 1).normalized();
    const Vector3 p = random_vector(random, 1);
    const double s = random.uniform(-3, 3), t = random.uniform(-3, 3);
    CHECK(std::abs(turn_onto(a, p, rotation_about(a, s) * p) - s) < 1e-9);
    const Vector3 q = rotation_about(a, s) * (rotation_about(b, t) * p);
    const TwoTurns two = two_turns(a, b, p, q);
    bool there = false;
    for (int i = 0; i < two.count; ++i) {
      CHECK((rotation_about(a, two.first[i]) * (rotation_about(b, two.second[i]) * p) - q).norm() <
            1e-9);
      there |= std::abs(two.first[i] - s) < 1e-5 && std::abs(two.second[i] - t) < 1e-5;
    }
    CHECK(there);
    const Vector3 c = random_vector(random, 1);
    const TwoAngles far = turns_to_distance(a, p, c, (rotation_about(a, s) * p - c).norm());
    REQUIRE(far.count >= 1);
    for (int i = 0; i < far.count; ++i)
      CHECK((rotation_about(a, far.angle[i]) * p - c).norm() ==
            Approx((rotation_about(a, s) * p - c).norm()).epsilon(1e-9));
  }
}

TEST_CASE("a screw chain moves as its arm does, with held joints fixed and followers refused") {
  RandomStream random(4);
  const Arm arm = test::wrist_arm();
  const auto chain = screw_chain(arm, arm.tool("tip"));
  REQUIRE(chain);
  for (int n = 0; n < 20; ++n) {
    const Posture q = test::random_posture(random, arm);
    const PoseError error = error_between(tool_pose(arm, arm.tool("tip"), q), chain->at(q.data()));
    CHECK(error.position < 1e-12);
    CHECK(error.angle < 1e-12);
  }
  const Arm held = arm.holding({{arm.moving_joint(1).name, 0.4}});
  const auto shorter = screw_chain(held, held.tool("tip"));
  REQUIRE(shorter);
  CHECK(shorter->size() == 5);
  const double five[] = {0.1, 0.3, -0.2, 0.5, 0.7};
  CHECK((shorter->at(five).position -
         tool_pose(arm, arm.tool("tip"), values({0.1, 0.4, 0.3, -0.2, 0.5, 0.7})).position)
            .norm() < 1e-12);
  ArmDescription d = arm.description();
  d.links[3].joint.follow = {arm.moving_joint(1).name, -1.0, 0.0};
  const Arm following = Arm::build(d);
  CHECK_FALSE(screw_chain(following, following.tool("tip")));
}

TEST_CASE("a spherical wrist: all eight postures, whatever the three axes before it") {
  RandomStream random(5);
  const ScrewChain usual = wrist_chain();
  const auto form = ClosedForm::of(usual);
  REQUIRE(form);
  CHECK(form->name() == "spherical wrist");
  CHECK(form->why() == "axes 4, 5 and 6 meet in one point; axes 2 and 3 parallel");
  CHECK(check_round_trips(usual, *form, random, 2000) == 8);
  // Any three axes before a wrist of any three that meet.
  std::set<std::string> paths;
  for (int n = 0; n < 120; ++n) {
    ScrewChain chain = random_chain(random, 6);
    for (std::size_t k : {4U, 5U}) chain.screws[k].point = chain.screws[3].point;
    if (n % 4 == 1) chain.screws[1].axis = chain.screws[0].axis;
    if (n % 4 == 2) chain.screws[1].point = chain.screws[0].point;
    if (n % 4 == 3) chain.screws[2].axis = -chain.screws[1].axis;
    const auto any = ClosedForm::of(chain);
    REQUIRE(any);
    CHECK(any->name() == "spherical wrist");
    paths.insert(any->why());
    check_round_trips(chain, *any, random, 20);
    // The same arm from its other end has a spherical shoulder.
    const ScrewChain back = seen_from_tip(chain);
    const auto shoulder = ClosedForm::of(back);
    REQUIRE(shoulder);
    CHECK(shoulder->name() == "spherical shoulder");
    check_round_trips(back, *shoulder, random, 5);
  }
  CHECK(paths.size() == 4);
}

TEST_CASE("three parallel axes: all eight postures, from either end") {
  RandomStream random(6);
  const ScrewChain chain = parallel_chain();
  const auto form = ClosedForm::of(chain);
  REQUIRE(form);
  CHECK(form->name() == "three parallel axes");
  CHECK(check_round_trips(chain, *form, random, 2000) == 8);
  const ScrewChain back = seen_from_tip(chain);
  const auto other = ClosedForm::of(back);
  REQUIRE(other);
  CHECK(other->why() == "axes 3, 4 and 5 are parallel, axes 1 and 2 meet");
  CHECK(check_round_trips(back, *other, random, 500) == 8);
}

TEST_CASE("six joints of general geometry: the published arm with sixteen postures") {
  const ScrewChain chain = test::sixteen_chain();
  const Pose tip = test::sixteen_tip();
  const auto form = GeneralSix::of(chain);
  REQUIRE(form);
  ClosedSolutions all;
  form->solve(tip, all);
  CHECK(all.count == 16);
  check_all(chain, tip, all);
}

TEST_CASE("six joints of general geometry: complete on random arms") {
  RandomStream random(7);
  int most = 0;
  for (int n = 0; n < 400; ++n) {
    const ScrewChain chain = random_chain(random, 6);
    const auto form = ClosedForm::of(chain);
    REQUIRE(form);
    most = std::max(most, check_round_trips(chain, *form, random, 1));
  }
  CHECK(most >= 10);
}

TEST_CASE("six joints of general geometry: numeric starts find nothing more") {
  RandomStream random(8);
  int postures = 0;
  for (int n = 0; n < 6; ++n) {
    const ScrewChain chain = random_chain(random, 6);
    const Arm arm = arm_of(chain);
    const Pose tip = chain.at(random_angles(random).data());
    ClosedSolutions all;
    GeneralSix::of(chain)->solve(tip, all);
    const Target target = Target{}.place("tip", tip).within(1e-9, 1e-9);
    for (int i = 0; i < 400; ++i) {
      const NumericSolve solve = solve_from(arm, target, test::random_posture(random, arm));
      if (!solve.met) continue;
      ++postures;
      Angles q{};
      std::copy(solve.posture.begin(), solve.posture.end(), q.begin());
      CHECK(has(chain, all, q, 1e-4));
    }
  }
  CHECK(postures > 200);
}

TEST_CASE("six joints of special geometry by the general way: none missed where it says so") {
  RandomStream random(9);
  int asked = 0, sure = 0, missed = 0;
  while (asked < 600) {
    const ScrewChain chain = random_special_chain(random);
    const Angles q = random_angles(random);
    if (regularity(chain, q) < 1e-2) continue;
    ++asked;
    ClosedSolutions all;
    GeneralSix::of(chain)->solve(chain.at(q.data()), all);
    check_all(chain, chain.at(q.data()), all);
    sure += all.complete ? 1 : 0;
    if (has(chain, all, q)) continue;
    ++missed;
    CHECK_FALSE(all.complete);
  }
  CHECK(missed == 0);
  CHECK(sure > asked / 2);
}

TEST_CASE("closed forms give the same bits on every instruction set") {
  RandomStream random(12);
  std::vector<ScrewChain> chains{test::wrist_chain(), test::parallel_chain()};
  for (int i = 0; i < 3; ++i) chains.push_back(random_chain(random, 6));
  for (const ScrewChain& chain : chains) {
    const auto form = ClosedForm::of(chain);
    const Pose tip = chain.at(random_angles(random).data());
    ClosedSolutions first;
    test::on_each_instruction_set([&](const std::string& name) {
      INFO(name << " " << form->name());
      ClosedSolutions all;
      form->solve(tip, all);
      if (first.count == 0) first = all;
      REQUIRE(all.count == first.count);
      REQUIRE(all.count > 0);
      for (int i = 0; i < all.count; ++i)
        CHECK(all.all[static_cast<std::size_t>(i)].values ==
              first.all[static_cast<std::size_t>(i)].values);
    });
  }
}

// The usual right angles, the elbow so far out of line.
ScrewChain right_angled_seven(double elbow_offset) {
  ScrewChain chain;
  chain.tip = Pose::at({0, 0, 1.2});
  for (int k = 0; k < 7; ++k)
    chain.screws.push_back({k % 2 == 0 ? Vector3::UnitZ() : Vector3::UnitY(),
                            {k == 3 ? elbow_offset : 0.0, 0,
                             k < 3   ? 0.3
                             : k < 4 ? 0.7
                                     : 1.1},
                            true,
                            k});
  return chain;
}

// A shoulder and a wrist that are points: with the usual right angles, with these and zero
// anywhere, or of any geometry.
ScrewChain seven_centres_chain(int kind, RandomStream& random) {
  ScrewChain chain = random_chain(random, 7);
  if (kind % 3 == 2) {
    for (const std::size_t k : {1U, 2U}) chain.screws[k].point = chain.screws[0].point;
    for (const std::size_t k : {5U, 6U}) chain.screws[k].point = chain.screws[4].point;
    return chain;
  }
  chain.screws = right_angled_seven(0.05).screws;
  if (kind % 3 == 1) {
    const Angles zero = random_angles(random);
    std::array<Screw, 7> there;
    chain.tip = chain.place(zero.data(), there);
    chain.screws.assign(there.begin(), there.end());
  }
  return chain;
}

double elbow_angle_of(const ScrewChain& chain, const Angles& values) {
  std::array<Screw, 7> there;
  chain.place(values.data(), there);
  const Vector3 shoulder = *meeting_point(there[0], there[1], there[2]);
  const Vector3 wrist = *meeting_point(there[4], there[5], there[6]);
  const Screw& bend = there[3];
  const Vector3 elbow = bend.point + bend.axis.dot(shoulder - bend.point) * bend.axis;
  return turn_onto((wrist - shoulder).normalized(), chain[0].axis, elbow - shoulder);
}

TEST_CASE("seven joints: every posture has an elbow angle, and every elbow angle its postures") {
  RandomStream random(10);
  for (int n = 0; n < 60; ++n) {
    const ScrewChain chain = seven_centres_chain(n, random);
    const auto form = SevenCentres::of(chain);
    REQUIRE(form);
    const Angles q = random_angles(random);
    const Pose tip = chain.at(q.data());
    constexpr int kSteps = 500;
    for (int i = 0; i < kSteps; ++i) {
      const double angle = -kPi + 2 * kPi * i / kSteps;
      ClosedSolutions all;
      form->solve(tip, angle, all);
      for (const ClosedSolution& one : all) {
        const PoseError error = error_between(tip, chain.at(one.values.data()));
        REQUIRE(error.position < 1e-9);
        REQUIRE(error.angle < 1e-8);
        // It counts from axis 1, by the right hand.
        if (i % 50 == 0)
          CHECK(std::abs(std::remainder(elbow_angle_of(chain, one.values) - angle, 2 * kPi)) <
                1e-8);
      }
    }
    ClosedSolutions all;
    form->solve(tip, elbow_angle_of(chain, q), all);
    CHECK(has(chain, all, q));
    // Several angles at once are the same, to the last bit, on each instruction set.
    const std::array<double, 11> angles{-3.1, -2.5, -1.2, -0.4, 0.0, 0.1, 0.9, 1.7, 2.2, 2.9, 3.1};
    ClosedSolutions first;
    form->solve(tip, angles[3], first);
    test::on_each_instruction_set([&](const std::string& name) {
      INFO(name);
      SevenSweep several;
      form->sweep(tip, angles, several);
      REQUIRE(several.count() == static_cast<int>(angles.size()));
      for (std::size_t i = 0; i < angles.size(); ++i) {
        ClosedSolutions one;
        form->solve(tip, angles[i], one);
        const ClosedSolution* next = one.begin();
        for (int branch = 0; branch < SevenSweep::kBranches; ++branch) {
          ClosedSolution posture;
          if (!several.posture(static_cast<int>(i), branch, posture)) continue;
          REQUIRE(next != one.end());
          CHECK(posture.values == next->values);
          CHECK(posture.branch == next->branch);
          CHECK(posture.free_joint == next->free_joint);
          ++next;
        }
        CHECK(next == one.end());
        if (i != 3) continue;
        REQUIRE(one.count == first.count);
        for (std::size_t k = 0; k < static_cast<std::size_t>(first.count); ++k)
          CHECK(one.all[k].values == first.all[k].values);
      }
    });
  }
}

TEST_CASE("seven joints: folded until the wrist is in the shoulder, and stretched") {
  const ScrewChain chain = right_angled_seven(0.0);
  const auto form = SevenCentres::of(chain);
  REQUIRE(form);
  for (const double bend : {kPi, 0.0}) {
    const Angles q{0.3, -0.4, 0.5, bend, 0.6, 0.7, -0.8};
    const Pose tip = chain.at(q.data());
    ClosedSolutions all;
    form->solve(tip, 0.4, all);
    REQUIRE(all.count > 0);
    for (const ClosedSolution& one : all) {
      const PoseError error = error_between(tip, chain.at(one.values.data()));
      CHECK(error.position < 1e-7);
      CHECK(error.angle < 1e-7);
      CHECK(one.free_joint == 2);
    }
  }
}

TEST_CASE("seven joints: where the ranges are kept, against dense sampling") {
  RandomStream random(11);
  const std::array<double, 7> upper{2.0, 1.6, 2.2, 2.0, 2.4, 1.7, 2.9};
  std::array<double, 7> lower = upper;
  for (double& value : lower) value = -value;
  int inside = 0, outside = 0;
  for (int n = 0; n < 60; ++n) {
    const ScrewChain chain = seven_centres_chain(n, random);
    const auto form = SevenCentres::of(chain);
    REQUIRE(form);
    Angles q{};
    for (std::size_t k = 0; k < 7; ++k) q[k] = random.uniform(lower[k], upper[k]);
    const Pose tip = chain.at(q.data());
    const auto intervals = form->feasible(tip, lower.data(), upper.data());
    CHECK_FALSE(intervals.empty());
    for (int i = 0; i < 360; ++i) {
      const double angle = -kPi + 2 * kPi * (i + 0.5) / 360;
      ClosedSolutions all;
      form->solve(tip, angle, all);
      for (const ClosedSolution& solution : all) {
        const Angles& v = solution.values;
        double room = 10.0;
        for (std::size_t k = 0; k < 7; ++k)
          room = std::min({room, v[k] - lower[k], upper[k] - v[k]});
        if (std::abs(room) < 1e-6) continue;  // at an end
        const bool listed =
            std::any_of(intervals.begin(), intervals.end(), [&](const ElbowInterval& one) {
              return one.branch == solution.branch && one.from < angle && angle < one.to;
            });
        CHECK(listed == (room > 0.0));
        ++(room > 0.0 ? inside : outside);
      }
      // And of a branch that does not come as far, none is.
      for (const ElbowInterval& one : intervals) {
        if (angle <= one.from + 1e-6 || angle >= one.to - 1e-6) continue;
        CHECK(std::any_of(all.begin(), all.end(), [&](const ClosedSolution& solution) {
          return solution.branch == one.branch;
        }));
      }
    }
  }
  CHECK(inside > 1000);
  CHECK(outside > 1000);
}

TEST_CASE("parallel axes: planar arms and a SCARA, and poses that they cannot do") {
  RandomStream random(12);
  for (const int turning : {1, 2, 3})
    for (const bool slides : {false, true})
      for (int n = 0; n < 60; ++n) {
        const Vector3 along = random_vector(random, 1).normalized();
        ScrewChain chain;
        for (int i = 0; i < turning; ++i)
          chain.screws.push_back({random.uniform(0, 1) < 0.3 ? Vector3(-along) : along,
                                  random_vector(random, 1), true, i});
        if (slides)
          chain.screws.insert(chain.screws.begin() + n % (turning + 1),
                              {along, random_vector(random, 1), false, turning});
        chain.tip = {rotation_from_rpy(0.3, n, 1.0), random_vector(random, 0.5)};
        const auto form = ClosedForm::of(chain);
        REQUIRE(form);
        CHECK(form->name() == "parallel axes");
        Angles q = random_angles(random);
        for (int k = 0; k < chain.size(); ++k)  // a slide is no angle: 5 m is not 5 m less a turn
          if (!chain[k].turns) q[static_cast<std::size_t>(k)] *= 3.0;
        const Pose tip = chain.at(q.data());
        ClosedSolutions all;
        form->solve(tip, all);
        check_all(chain, tip, all);
        CHECK(has(chain, all, q));
        for (const ClosedSolution& one : all)
          for (int k = 0; k < chain.size(); ++k)
            if (!chain[k].turns)
              CHECK(one.values[static_cast<std::size_t>(k)] ==
                    Approx(q[static_cast<std::size_t>(k)]));
        CHECK(all.count == (turning == 3 ? 2 : 1));
        // A tool that leans, or a height that nothing gives, is beyond such a chain.
        form->solve({rotation_about(any_perpendicular(along), 0.1) * tip.rotation, tip.position},
                    all);
        CHECK(all.count == 0);
        form->solve({tip.rotation, tip.position + 0.01 * along}, all);
        CHECK((all.count > 0) == slides);
      }
  CHECK(ClosedForm::of(test::planar_arm(), test::planar_arm().tool("tip"))->why() ==
        "all axes are parallel: 2 turn");
}

TEST_CASE("five joints and a tool that may turn: every posture for a point and an axis") {
  RandomStream random(15);
  for (int n = 0; n < 40; ++n) {
    const ScrewChain chain = random_chain(random, 5);
    const auto form = ClosedForm::of_axis(chain, Vector3::UnitZ());
    REQUIRE(form);
    const Angles q = random_angles(random);
    const Pose tip = chain.at(q.data());
    ClosedSolutions all, turned;
    form->solve(tip, all);
    CHECK(has(chain, all, q, 1e-6));
    CHECK(all.complete);
    CHECK(all.count % 2 == 0);
    for (const ClosedSolution& one : all) {
      const Pose there = chain.at(one.values.data());
      CHECK((there.position - tip.position).norm() < 1e-9);
      CHECK((there.rotation.col(2) - tip.rotation.col(2)).norm() < 1e-9);
    }
    // However the wanted pose is turned about the axis, the postures are the same.
    form->solve({tip.rotation * rotation_about(Vector3::UnitZ(), 1.1), tip.position}, turned);
    REQUIRE(turned.count == all.count);
    for (const ClosedSolution& one : all) CHECK(has(chain, turned, one.values, 1e-6));
  }
  // A last joint that turns about the tool's axis is that freedom already.
  ScrewChain rolls = random_chain(random, 5);
  rolls.screws[4] = {rolls.tip.rotation.col(2), rolls.tip.position, true, 4};
  CHECK_FALSE(ClosedForm::of_axis(rolls, Vector3::UnitZ()));
}

TEST_CASE("singular postures are named, not listed as noise") {
  const ScrewChain chain = wrist_chain();
  const auto form = ClosedForm::of(chain);
  REQUIRE(form);
  // The wrist straight, as well as a pose in a file may tell: joints 4 and 6 turn about one line.
  for (const double bend : {0.0, 1e-12, 1e-10, 1e-8}) {
    INFO(bend);
    const Angles straight{0.3, 0.4, 0.5, 0.7, bend, -0.2};
    ClosedSolutions all;
    form->solve(chain.at(straight.data()), all);
    check_all(chain, chain.at(straight.data()), all);
    int singular = 0;
    for (const ClosedSolution& one : all)
      if (one.free_joint == 3) {
        ++singular;
        CHECK(std::abs(one.values[4]) < 1e-6);
      }
    CHECK(singular >= 1);
  }
}

TEST_CASE("a target at full stretch is reached, one a little beyond is not") {
  const Arm arm = test::wrist_arm();
  const auto form = ClosedForm::of(arm, arm.tool("tip"));
  REQUIRE(form);
  // Upper arm and forearm in line: the elbow at the angle of the forearm's offset.
  const double stretch = -kPi / 2 + std::atan2(0.03, 0.39);
  const Posture q = values({0.3, 0.6, stretch, 0.4, 0.8, 0.2});
  const Pose tip = tool_pose(arm, arm.tool("tip"), q);
  ClosedSolutions all;
  form->solve(tip, all);
  CHECK(all.count >= 2);
  for (const ClosedSolution& one : all)
    CHECK(error_between(tip, form->chain().at(one.values.data())).position < 1e-9);
  // Away from the shoulder.
  const Vector3 out = (tip.position - Vector3(0, 0, 0.34)).normalized();
  form->solve({tip.rotation, tip.position + 0.01 * out}, all);
  CHECK(all.count < 4);
}

TEST_CASE("a closed form takes nothing from the heap") {
  const ScrewChain chain = wrist_chain();
  const ScrewChain other = parallel_chain();
  const auto form = ClosedForm::of(chain);
  const auto parallel = ClosedForm::of(other);
  const Angles q{0.3, 0.4, 0.5, 0.7, 0.9, -0.2};
  const Pose tip = chain.at(q.data());
  const Pose tip_other = other.at(q.data());
  ClosedSolutions all;
  const long before = test::allocations();
  form->solve(tip, all);
  const int first = all.count;
  parallel->solve(tip_other, all);
  CHECK(test::allocations() == before);
  CHECK(first == 8);
  CHECK(all.count == 8);
}

TEST_CASE("what answers for an arm is said in words") {
  CHECK(solver_text(test::wrist_arm(), test::wrist_arm().tool("tip")) ==
        "spherical wrist (axes 4, 5 and 6 meet in one point; axes 2 and 3 parallel)");
  CHECK(solver_text(test::planar_arm(), test::planar_arm().tool("tip")) ==
        "parallel axes (all axes are parallel: 2 turn)");
  RandomStream random(13);
  const Arm eight = arm_of(random_chain(random, 8));
  CHECK(solver_text(eight, eight.tool("tip")) ==
        "numeric starts (no closed form for this chain of 8 joints)");
  ScrewChain desk = random_chain(random, 5);
  desk.screws[0].axis = Vector3::UnitZ();
  for (std::size_t k = 1; k < 4; ++k) desk.screws[k].axis = Vector3::UnitY();
  const Arm five = arm_of(desk);
  CHECK(solver_text(five, five.tool("tip")) ==
        "five turning joints (solved as six of which the last stands still: three parallel axes "
        "(axes 2, 3 and 4 are parallel, axes 5 and 6 meet))");
}
