// Numeric solves side by side.
#include "elbowroom/reach/side_by_side.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/files/cell_file.hpp"
#include "support/instruction_sets.hpp"
#include "support/postures.hpp"

using namespace er;

namespace {

Target target_at(const Arm& arm, const Posture& q, double tilt) {
  Target target;
  target.require({.holds = AtPlace{.at = tool_pose(arm, arm.tool(""), q), .tilt = tilt}});
  return target;
}

}  // namespace

TEST_CASE("side by side: hard targets of six, seven and three joints are met, within the ranges") {
  RandomStream random(8);
  for (const char* file : {"/glaze.cell.yaml", "/bracken.cell.yaml", "/sedge.cell.yaml"}) {
    const Cell cell = load_cell(std::string(DEMO_DIR) + file);
    const Arm& arm = cell.arm("");
    for (const double tilt : {0.0, kAnyTilt}) {
      int met = 0;
      for (int i = 0; i < 100; ++i) {
        const Target target = target_at(arm, test::hard_posture(random, arm), tilt);
        const TargetOnArm on_arm(arm, target);
        const auto lanes = SideBySide::of(on_arm);
        REQUIRE(lanes);
        const auto found = lanes->solve(on_arm.starts(), 200, true, {.give_up_early = true});
        if (found.empty()) continue;
        ++met;
        // The pose by way of all links, and the ranges to the last bit.
        const Pose tip =
            link_poses(arm, found[0].posture)[static_cast<std::size_t>(arm.tool("").link_index)] *
            arm.tool("").tip;
        const AtPlace& place = std::get<AtPlace>(target.requirements()[0].holds);
        CHECK((tip.position - place.at.position).norm() < 1e-6);
        if (tilt == 0.0)
          CHECK(rotation_vector(tip.rotation.transpose() * place.at.rotation).norm() < 1e-6);
        CHECK((found[0].posture.array() >= arm.limits().lower.array()).all());
        CHECK((found[0].posture.array() <= arm.limits().upper.array()).all());
      }
      INFO(file << " tilt " << tilt);
      CHECK(met >= 99);
    }
  }
}

TEST_CASE("side by side: the same answers on every instruction set, and in the order of starts") {
  const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  const Arm& arm = cell.arm("");
  RandomStream random(9);
  const Target target = target_at(arm, random.between(arm.limits().lower, arm.limits().upper), 0.0);
  const TargetOnArm on_arm(arm, target);
  std::vector<SideBySide::Found> first;
  test::on_each_instruction_set([&](const std::string& name) {
    INFO(name);
    const auto found =
        SideBySide::of(on_arm)->solve(on_arm.starts(), 60, false, {.give_up_early = true});
    REQUIRE(found.size() > 5);
    for (std::size_t i = 1; i < found.size(); ++i) CHECK(found[i - 1].start < found[i].start);
    if (first.empty()) first = found;
    REQUIRE(found.size() == first.size());
    for (std::size_t i = 0; i < found.size(); ++i) CHECK(found[i].posture == first[i].posture);
  });
}

TEST_CASE("side by side: a target out of reach has no posture, and no other solver finds one") {
  const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  const Arm& arm = cell.arm("");
  Target target;
  target.place("", Pose::at({5.0, 0.0, 1.0}));
  const TargetOnArm on_arm(arm, target);
  CHECK(SideBySide::of(on_arm)->solve(on_arm.starts(), 40, true).empty());
  CHECK_FALSE(posture_from_starts(on_arm, 40));
  CHECK(postures_from_starts(on_arm, 40).empty());
}

TEST_CASE("side by side: a point in any orientation, however the turn is left open") {
  const Cell cell = load_cell(DEMO_DIR "/bracken.cell.yaml");
  const Arm& arm = cell.arm("");
  std::vector<std::vector<Posture>> found;
  for (const Band& turn : {Band::exactly(0.0), Band::free()}) {
    Target target;
    target.require(
        {.holds = AtPlace{.at = Pose::at({0.45, 0.1, 0.4}), .turn = turn, .tilt = kAnyTilt}});
    const TargetOnArm on_arm(arm, target);
    REQUIRE(SideBySide::of(on_arm));
    found.push_back(postures_from_starts(on_arm, 60));
    for (const Posture& posture : found.back()) CHECK(on_arm.is_met(posture));
  }
  CHECK(found[0].size() > 40);
  CHECK(found[1] == found[0]);
}

TEST_CASE("side by side: targets it does not know are left to the other solver") {
  const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  const Arm& arm = cell.arm("");
  const Pose pose = tool_pose(arm, arm.tool(""), arm.stance("home"));
  const auto serves = [&](const AtPlace& place) {
    Target target;
    target.require({.holds = place});
    return SideBySide::of(TargetOnArm(arm, target)).has_value();
  };
  CHECK(serves({.at = pose}));
  CHECK(serves({.at = pose, .tilt = kAnyTilt}));
  CHECK(serves({.at = pose, .turn = Band::free(), .tilt = kAnyTilt}));
  CHECK_FALSE(serves({.at = pose, .tilt = 0.2}));
  CHECK_FALSE(serves({.at = pose, .turn = Band::free()}));
  CHECK_FALSE(serves({.at = pose, .along = {Band::free(), Band::exactly(0), Band::exactly(0)}}));
  Target target;
  target.require({.holds = AtPlace{.at = pose, .turn = Band::free()}});
  const TargetOnArm on_arm(arm, target);
  const auto one = posture_from_starts(on_arm, 50);
  REQUIRE(one);
  CHECK(on_arm.is_met(*one));
  CHECK(postures_from_starts(on_arm, 50).front() == *one);
}
