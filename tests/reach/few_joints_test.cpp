// Arms of four and five turning joints: every posture for what such arms can do, whatever way their
// axes meet.
#include <algorithm>
#include <catch2/catch.hpp>
#include <string>
#include <vector>

#include "elbowroom/base/pose.hpp"
#include "elbowroom/reach/closed_form.hpp"
#include "support/allocations.hpp"
#include "support/chains.hpp"
#include "support/posture_checks.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;

namespace {

struct Layout {
  std::string name;
  std::vector<Screw> screws;
};

Screw turning(const Vector3& axis, const Vector3& point) { return {axis, point, true, -1}; }

// Ways in which such arms are built, lengths in metres.
std::vector<Layout> usual_layouts() {
  const Vector3 x = Vector3::UnitX(), y = Vector3::UnitY(), z = Vector3::UnitZ();
  const Screw base = turning(z, {0, 0, 0}), shoulder = turning(y, {0, 0, 0.4});
  const Screw elbow = turning(y, {0.4, 0, 0.4}), wrist = turning(y, {0.8, 0, 0.4});
  const std::vector<Screw> ball{base, turning(y, {0, 0, 0}), turning(x, {0, 0, 0})};
  const std::vector<Screw> hand{turning(z, {0.8, 0, 0.4}), wrist, turning(x, {0.8, 0, 0.4})};
  const auto after = [](std::vector<Screw> first, const std::vector<Screw>& then) {
    first.insert(first.end(), then.begin(), then.end());
    return first;
  };
  return {
      {"a roll that goes through the elbow", {base, shoulder, elbow, turning(x, {0.8, 0, 0.4})}},
      {"a roll beside the elbow", {base, shoulder, elbow, turning(x, {0.8, 0, 0.45})}},
      {"three parallel", {base, shoulder, elbow, wrist}},
      {"a forearm that rolls", {base, shoulder, turning(x, {0.4, 0, 0.4}), wrist}},
      {"three upright and a roll",
       {base, turning(z, {0.3, 0, 0.4}), turning(z, {0.6, 0, 0.4}), turning(x, {0.8, 0, 0.4})}},
      {"a shoulder that is a point", after(ball, {turning(y, {0.4, 0, 0})})},
      {"a base and a hand of three", after({base}, hand)},
      {"three parallel and a roll", {base, shoulder, elbow, wrist, turning(x, {0.9, 0, 0.4})}},
      {"a forearm and a hand that roll",
       {base, shoulder, turning(x, {0.4, 0, 0.4}), wrist, turning(x, {0.9, 0, 0.4})}},
      {"no elbow, but a hand of three", after({base, shoulder}, hand)},
      {"a shoulder that is a point, and a roll through it",
       after(ball, {turning(y, {0.4, 0, 0}), turning(x, {0.7, 0, 0})})},
      {"a shoulder that is a point, and two parallel",
       after(ball, {turning(y, {0.4, 0, 0}), turning(y, {0.7, 0, 0})})}};
}

}  // namespace

TEST_CASE("arms of four and five joints as they are built have a closed form that misses nothing") {
  RandomStream random(31);
  for (const Layout& layout : usual_layouts()) {
    ScrewChain chain{layout.screws, {rotation_from_rpy(0.3, 0.2, 0.1), {0.95, 0.04, 0.42}}};
    const auto form = ClosedForm::of(chain);
    INFO(layout.name);
    REQUIRE(form);
    INFO(form->text());
    CHECK(form->joints() == chain.size());
    CHECK(form->chain().size() == chain.size());
    for (int n = 0; n < 50; ++n) {
      Angles q = random_angles(random);
      std::fill(q.begin() + chain.size(), q.end(), 0.0);
      const Pose tip = chain.at(q.data());
      ClosedSolutions all;
      form->solve(tip, all);
      CHECK(all.complete);
      CHECK(has(chain, all, q, 1e-6));
      check_postures(chain, tip, all);
    }
  }
}

TEST_CASE(
    "four and five joints with right angles, axes that meet and parallel ones: none is missed") {
  int joints = 4;
  const Tally tally = looked_for(kSanitized ? 200 : 4000, [&](RandomStream& random) {
    ScrewChain chain = random_special_chain(random);
    joints = 9 - joints;  // four and five in turn
    chain.screws.resize(static_cast<std::size_t>(joints));
    return chain;
  });
  CHECK(tally.asked > 150);
  CHECK(tally.missed == 0);
  CHECK(tally.without_form > 0);
}

TEST_CASE("axes that all but meet, and all but parallel ones, as a calibration leaves them") {
  RandomStream random(5);
  for (const Layout& layout : usual_layouts())
    for (const double off : {1e-9, 1e-7, 1e-6, 1e-5, 1e-4, 1e-3, 1e-2})
      for (int n = 0; n < (kSanitized ? 1 : 12); ++n) {
        ScrewChain chain{layout.screws, {Matrix3::Identity(), {0.95, 0.04, 0.42}}};
        for (Screw& screw : chain.screws) {
          screw.axis = (screw.axis + random_vector(random, off)).normalized();
          screw.point += random_vector(random, off);
        }
        const auto form = ClosedForm::of(chain);
        INFO(layout.name << ", off by " << off);
        REQUIRE(form);
        Angles q = random_angles(random);
        std::fill(q.begin() + chain.size(), q.end(), 0.0);
        ClosedSolutions all;
        form->solve(chain.at(q.data()), all);
        CHECK(has(chain, all, q, 1e-5));
        check_postures(chain, chain.at(q.data()), all);
      }
}

TEST_CASE("four and five joints: every posture of what such an arm can do") {
  RandomStream random(14);
  for (int n = 0; n < 60; ++n) {
    ScrewChain chain = random_chain(random, n % 2 == 0 ? 5 : 4);
    if (n % 3 == 0) {  // a turning base, then parallel axes, as desk arms have
      chain.screws[0].axis = Vector3::UnitZ();
      for (std::size_t k = 1; k < 4; ++k) chain.screws[k].axis = Vector3::UnitY();
    }
    const auto form = ClosedForm::of(chain);
    REQUIRE(form);
    CHECK(form->joints() == chain.size());
    const Angles q = random_angles(random);
    const Pose tip = chain.at(q.data());
    ClosedSolutions all;
    form->solve(tip, all);
    INFO(n << " " << form->text());
    CHECK(has(chain, all, q, 1e-6));
    for (const ClosedSolution& one : all) {
      const Pose there = chain.at(one.values.data());
      CHECK((there.position - tip.position).norm() < 1e-9);
      CHECK(rotation_vector(there.rotation.transpose() * tip.rotation).norm() < 1e-9);
    }
    // What it cannot do has no postures, and is not said to be certain to within a tolerance.
    form->solve({tip.rotation * rotation_from_rpy(0.2, 0.1, 0.3), tip.position}, all);
    CHECK(all.count == 0);
    CHECK_FALSE(all.complete);
  }
}

TEST_CASE("four joints: branches are told apart by shoulder and elbow") {
  // A desk arm: a turning base and three parallel axes.
  const ScrewChain chain = chain_of({{0, kRight, 0.2}, {0.3, 0, 0}, {0.25, 0, 0}, {0.1, 0, 0}});
  const auto form = ClosedForm::of(chain);
  REQUIRE(form);
  const Angles q{0.3, 0.5, 0.7, -0.4};
  ClosedSolutions all;
  form->solve(chain.at(q.data()), all);
  CHECK(all.count == 2);  // from behind, the hand would be turned over
  std::vector<std::string> branches;
  for (const ClosedSolution& one : all) branches.push_back(form->branch(one));
  std::sort(branches.begin(), branches.end());
  CHECK(branches == std::vector<std::string>{"front, down", "front, up"});
  CHECK(form->branch_legend() == "branch: the shoulder's side, the elbow");
}

TEST_CASE("four joints are solved without the heap") {
  const ScrewChain chain{usual_layouts().front().screws, {Matrix3::Identity(), {0.95, 0.0, 0.4}}};
  const auto form = ClosedForm::of(chain);
  REQUIRE(form);
  const Angles q{0.3, 0.5, 0.7, -0.4};
  const Pose tip = chain.at(q.data());
  ClosedSolutions all;
  const long before = allocations();
  form->solve(tip, all);
  CHECK(allocations() == before);
  CHECK(all.count == 2);
}
