// Poses taken in singular postures, where forms are most easily wrong: a search that is said to be
// complete has the posture that the pose was taken in, or one of its family with the free joint
// named.
#include <Eigen/LU>
#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/random.hpp"
#include "elbowroom/reach/closed_form.hpp"
#include "elbowroom/reach/family.hpp"
#include "elbowroom/reach/reach.hpp"
#include "elbowroom/reach/settle.hpp"
#include "support/chains.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;

namespace {

bool is_listed(const ScrewChain& chain, const ClosedSolutions& all, const Angles& posture) {
  const auto is_of_family = [](const ClosedSolution& one) { return one.free_joint >= 0; };
  return has(chain, all, posture, 1e-3) || std::any_of(all.begin(), all.end(), is_of_family);
}

// Right angles, offsets of few lengths and none, now and then an odd angle: four, five or six.
ScrewChain some_chain(RandomStream& random) {
  const auto one_of = [&](std::initializer_list<double> list) {
    const auto i =
        static_cast<std::size_t>(random.uniform(0, 1) * static_cast<double>(list.size()));
    return list.begin()[std::min(i, list.size() - 1)];
  };
  const int joints = static_cast<int>(one_of({6, 6, 5, 4}));
  std::vector<std::array<double, 3>> rows;
  for (int i = 0; i < joints; ++i)
    rows.push_back({one_of({0, 0, 0.3, 0.4, -0.3}), one_of({0, kRight, -kRight, kRight, 0.7}),
                    one_of({0, 0, 0.3, -0.3, 0.2})});
  return chain_of(rows);
}

// Some joints at multiples of 45 deg.
Angles some_posture(RandomStream& random, int joints) {
  Angles q = random_angles(random);
  for (double& value : q)
    if (random.uniform(0, 1) < 0.6) value = std::round(value / (0.5 * kRight)) * 0.5 * kRight;
  std::fill(q.begin() + joints, q.end(), 0.0);
  return q;
}

// The same with the third joint where the Jacobian's determinant changes its sign; false if it does
// not.
bool make_singular(const ScrewChain& chain, Angles& q) {
  const auto determinant = [&](double third) {
    Angles at = q;
    at[2] = third;
    return Eigen::MatrixXd(jacobian_of(chain, at.data())).determinant();
  };
  const bool sign = determinant(q[2]) > 0.0;
  double low = q[2], high = q[2];
  for (int i = 0; i < 60 && (determinant(high) > 0.0) == sign; ++i) {
    low = high;
    high += 0.1;
  }
  if ((determinant(high) > 0.0) == sign) return false;
  for (int i = 0; i < 80; ++i) {
    const double middle = 0.5 * (low + high);
    ((determinant(middle) > 0.0) == sign ? low : high) = middle;
  }
  q[2] = low;
  return true;
}

}  // namespace

TEST_CASE("singular postures of chains that slide: listed wherever the search is complete") {
  RandomStream random(77);
  int asked = 0, singular = 0;
  for (const char* pattern : {"STTTTT", "TSTTTT", "TTSTTT", "SSTTTT", "STSTTT", "TSSTTT", "TTTTTS",
                              "TTTSTS", "SSSTTT", "STSTST", "TTTSSS", "TSTSTS"}) {
    const bool behind = pattern[5] == 'T' && pattern[4] == 'T' && pattern[3] == 'T';
    for (int n = 0; n < (kSanitized ? 20 : 500); ++n) {
      const ScrewChain chain =
          sliding_where(pattern, meeting_from(behind ? 3 : 0, random_squared_chain(random, 6)));
      const auto form = ClosedForm::of(chain);
      if (!form) continue;
      Angles q = some_posture(random, 6);
      for (int k = 0; k < 6; ++k) {
        double& value = q[static_cast<std::size_t>(k)];
        if (!chain[k].turns) value = 0.1 * std::round(2.0 * value);
      }
      ClosedSolutions all;
      form->solve(chain.at(q.data()), all);
      ++asked;
      singular += regularity(chain, q) < 1e-6 ? 1 : 0;
      INFO(pattern << " " << n << " " << form->text());
      CHECK((!all.complete || is_listed(chain, all, q)));
    }
  }
  CHECK(asked > (kSanitized ? 20 : 1000));
  CHECK(singular > asked / 10);
}

TEST_CASE(
    "poses taken with joints at multiples of 45 deg: nothing is missing where all is promised") {
  RandomStream random(2);
  int complete = 0, singular = 0;
  for (int n = 0; n < (kSanitized ? 500 : 8000); ++n) {
    const ScrewChain chain = some_chain(random);
    const Angles q = some_posture(random, chain.size());
    const auto form = ClosedForm::of(chain);
    if (!form) continue;
    const Pose tip = chain.at(q.data());
    ClosedSolutions all;
    form->solve(tip, all);
    for (const ClosedSolution& one : all) {
      const PoseError error = error_between(tip, chain.at(one.values.data()));
      CHECK(error.position < 1e-9);
      CHECK(error.angle < 1e-9);
      singular += one.free_joint >= 0 ? 1 : 0;
    }
    if (!all.complete) continue;
    ++complete;
    INFO(n << " " << form->text());
    CHECK(is_listed(chain, all, q));
  }
  CHECK(complete > 100);
  CHECK(singular > 2);
}

TEST_CASE("poses at folds of any chain: nothing is missing where all is promised") {
  RandomStream random(7);
  int asked = 0;
  for (int n = 0; n < (kSanitized ? 60 : 400); ++n) {
    ScrewChain chain = random_chain(random, 6);
    if (n % 3 == 0)
      for (const std::size_t k : {4U, 5U}) chain.screws[k].point = chain.screws[3].point;
    Angles q = random_angles(random);
    if (!make_singular(chain, q)) continue;
    const auto form = ClosedForm::of(chain);
    REQUIRE(form);
    ClosedSolutions all;
    form->solve(chain.at(q.data()), all);
    INFO(n << " " << form->text());
    if (all.complete) CHECK(is_listed(chain, all, q));
    ++asked;
  }
  CHECK(asked > 30);
}

TEST_CASE("a determinant that is nothing but rounding does not say that there is no posture") {
  // With the joints left as they come it is 1e-27 everywhere, and as smooth as if it were
  // something.
  const ScrewChain chain = chain_of({{0, kRight, 0.2},
                                     {0.3, kRight, 0.35},
                                     {0, kRight, 0.35},
                                     {0, kRight, 0},
                                     {0.4, -kRight, 0},
                                     {0, -kRight, 0}});
  const auto form = ClosedForm::of(chain);
  REQUIRE(form);
  RandomStream random(1);
  std::vector<Angles> postures{{1.6873946298590319, 1.2997526702407765, -2.1674274289826543,
                                2.2928554294602863, -0.87399309992544083, 0.74384543623845722}};
  for (int n = 0; n < (kSanitized ? 20 : 500); ++n) postures.push_back(random_angles(random));
  for (const Angles& q : postures) {
    if (regularity(chain, q) < 1e-3) continue;
    ClosedSolutions all;
    form->solve(chain.at(q.data()), all);
    CHECK(has(chain, all, q));
  }
}

TEST_CASE("a posture of a family tells which joint may turn, one at full stretch none") {
  const ScrewChain chain = wrist_chain();
  ClosedSolution one;
  one.values = {0.3, 0.4, 0.5, 0.7, 0.9, -0.2};
  CHECK(free_joint_of(chain, one) == -1);
  one.values[4] = 0.0;
  CHECK(free_joint_of(chain, one) == 3);
  // Four joints of which the first and the third turn about one line.
  const ScrewChain four =
      chain_of({{0, kRight, 0.3}, {0, -kRight, 0}, {0.4, kRight, 0.2}, {0.2, 0, 0}});
  one.values = {0.3, 0.0, 0.8, -0.5};
  CHECK(free_joint_of(four, one) == 0);
  const auto form = ClosedForm::of(four);
  REQUIRE(form);
  ClosedSolutions all;
  form->solve(four.at(one.values.data()), all);
  CHECK(is_listed(four, all, one.values));
  // A planar arm held out straight is singular, and no other posture does what it does.
  const ScrewChain planar{{{Vector3::UnitZ(), {0, 0, 0}, true, 0},
                           {Vector3::UnitZ(), {0.4, 0, 0}, true, 1},
                           {Vector3::UnitZ(), {0.7, 0, 0}, true, 2}},
                          {Matrix3::Identity(), {0.9, 0, 0}}};
  one.values = {0.2, 0.0, 0.4};
  CHECK(free_joint_of(planar, one) == -1);
}

TEST_CASE("settling takes a chain onto a pose nearby, and says what is left where it cannot") {
  const ScrewChain chain = chain_of({{0, kRight, 0.2}, {0.3, 0, 0}, {0.25, 0, 0}, {0.1, 0, 0}});
  ClosedSolution at;
  at.values = {0.3, 0.5, 0.7, -0.4};
  const Pose pose = chain.at(at.values.data());
  ClosedSolution from = at;
  for (std::size_t k = 0; k < 4; ++k) from.values[k] += 0.01;
  CHECK(settle(chain, pose, 10, from) < 1e-12);
  for (std::size_t k = 0; k < 4; ++k) CHECK(from.values[k] == Approx(at.values[k]).margin(1e-10));
  const Pose turned{pose.rotation * rotation_from_rpy(0.1, 0, 0), pose.position};
  CHECK(settle(chain, turned, 10, from) > 0.01);
}

TEST_CASE("a no that a form calls complete is put to the test") {
  // Twice singular: what parts these postures from none is the last digits of an elimination.
  const std::vector<std::pair<ScrewChain, Posture>> asked{
      {chain_of({{0, kRight, 0.2},
                 {0, -kRight, 0.2},
                 {0, kRight, 0},
                 {0, kRight, 0.2},
                 {0, kRight, 0.35},
                 {0.4, kRight, 0.2}}),
       values({1.456873368106848, -0.8305046703499297, -2.8768579237682994, -0.94511593083014134,
               -1.1943501558042823e-14, -2.319898869939701})},
      {chain_of({{0, kRight, 0.35},
                 {0, -kRight, 0.2},
                 {0, kRight, 0},
                 {0.4, -kRight, 0.35},
                 {0.3, kRight, 0.35},
                 {0, -kRight, 0.2}}),
       values({0.15597471650844419, -1.2128000000483041, -0.0022411189338740201, 2.7243513082718378,
               -2.2490811220361722, -1.2623761979984303})}};
  for (const auto& [chain, posture] : asked) {
    const Arm arm = arm_of(chain);
    const CellQuery query(Cell::build({.arms = {arm}}), arm.name());
    const Target target = Target{}.place("tip", chain.at(posture.data())).within(1e-6, 1e-6);
    const auto found = reach(query, target);
    REQUIRE(found);
    CHECK(found->solutions.front().position_error < 1e-6);
  }
}
