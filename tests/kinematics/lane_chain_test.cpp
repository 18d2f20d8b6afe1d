// Poses and Jacobians of eight postures at once, against one at a time and against differences.
#include "elbowroom/kinematics/lane_chain.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/base/random.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "support/allocations.hpp"
#include "support/demo.hpp"
#include "support/instruction_sets.hpp"

using namespace er;

namespace {

struct EightPostures {
  std::array<Posture, 8> posture;
  double values[LaneChain::kMostJoints][8];

  EightPostures(const Arm& arm, const LaneChain& chain, std::uint64_t seed) {
    RandomStream random(seed);
    for (std::size_t p = 0; p < 8; ++p) {
      posture[p] = random.between(arm.search_lower(), arm.search_upper());
      for (int j = 0; j < chain.joints; ++j)
        values[j][p] = posture[p][chain.entry[static_cast<std::size_t>(j)]];
    }
  }
};

// Every figure of every posture against the plain way: the largest difference.
double difference(const Arm& arm, const Tool& tool, std::uint64_t seed) {
  const LaneChain chain = *lane_chain(arm, tool.link_index, tool.tip);
  const EightPostures eight(arm, chain, seed);
  LaneJacobians lanes;
  lane_jacobians(chain, eight.values, lanes);
  double most = 0.0;
  for (std::size_t p = 0; p < 8; ++p) {
    // All links one after the other is another way than the walk of moving joints.
    const Pose tip =
        link_poses(arm, eight.posture[p])[static_cast<std::size_t>(tool.link_index)] * tool.tip;
    for (std::size_t i = 0; i < 9; ++i)
      most = std::max(most, std::abs(lanes.pose[i][p] - tip.rotation.data()[i]));
    for (std::size_t i = 0; i < 3; ++i)
      most = std::max(most, std::abs(lanes.pose[9 + i][p] - tip.position[static_cast<int>(i)]));
    Jacobian jacobian;
    tool_jacobian(arm, tool, eight.posture[p], jacobian);
    for (int j = 0; j < chain.joints; ++j)
      for (int r = 0; r < 6; ++r)
        most = std::max(
            most,
            std::abs(lanes.column[static_cast<std::size_t>(j)][static_cast<std::size_t>(r)][p] -
                     jacobian(r, chain.entry[static_cast<std::size_t>(j)])));
  }
  return most;
}

}  // namespace

TEST_CASE("lane chain: eight postures at once are eight postures one by one") {
  const Cell glaze = load_cell(DEMO_DIR "/glaze.cell.yaml");
  const Cell bracken = load_cell(DEMO_DIR "/bracken.cell.yaml");
  const Cell sedge = load_cell(DEMO_DIR "/sedge.cell.yaml");
  test::on_each_instruction_set([&](const std::string& name) {
    INFO(name);
    for (std::uint64_t seed = 1; seed <= 20; ++seed)
      for (const Cell* cell : {&glaze, &bracken, &sedge})
        CHECK(difference(cell->arm(""), cell->arm("").tool(""), seed) < 1e-13);
  });
}

TEST_CASE("lane chain: slides, fixed turns between joints and followers are walked, too") {
  // A slide, a turn that follows it in radians a metre, axes askew in no order.
  RandomStream random(5);
  for (int n = 0; n < 20; ++n) {
    ArmDescription description{.name = "odd"};
    description.links.push_back({.name = "base"});
    for (int i = 0; i < 5; ++i) {
      Link link{.name = "l" + std::to_string(i)};
      link.joint.name = "j" + std::to_string(i);
      link.joint.kind = i % 3 == 1 ? JointKind::prismatic : JointKind::revolute;
      link.joint.axis =
          Vector3(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1)).normalized();
      link.joint.origin = {
          rotation_from_rpy(random.uniform(-3, 3), random.uniform(-1, 1), random.uniform(-3, 3)),
          {random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1)}};
      link.joint.limits.lower = -1.0;
      link.joint.limits.upper = 1.0;
      if (i == 4) {
        link.joint.follow = {"j0", -0.5, 0.2};
      }
      description.links.push_back(link);
    }
    description.tools.push_back({.name = "tip", .tip = Pose::at({0.1, 0.2, 0.3})});
    const Arm arm = Arm::build(description);
    CHECK(arm.dof() == 4);
    CHECK(difference(arm, arm.tool("tip"), static_cast<std::uint64_t>(n)) < 1e-13);
  }
}

TEST_CASE("lane chain: nothing is allocated") {
  const Cell bracken = load_cell(DEMO_DIR "/bracken.cell.yaml");
  const Arm& arm = bracken.arm("");
  const LaneChain chain = *lane_chain(arm, arm.tool("").link_index, arm.tool("").tip);
  const EightPostures eight(arm, chain, 3);
  LaneJacobians lanes;
  const long before = test::allocations();
  lane_jacobians(chain, eight.values, lanes);
  CHECK(test::allocations() == before);
}
