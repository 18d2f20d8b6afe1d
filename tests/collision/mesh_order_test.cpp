// Shapes from files on the wrong links.
#include "elbowroom/collision/mesh_order.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/collision/findings.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "support/demo.hpp"

namespace er {
namespace {

using Catch::Matchers::Contains;

// With the parts of some links exchanged: those of `order[i].first` go to `order[i].second`, and
// stay in the place where they are at zero, or in their place in the link.
Arm reordered(const std::vector<std::pair<std::string, std::string>>& order, bool stays) {
  const Arm right = test::cad_arm();
  const std::vector<Pose> at = link_poses(right, Posture::Zero(right.dof()));
  ArmDescription out = right.description();
  for (const auto& [of, on] : order) {
    const auto from = static_cast<std::size_t>(right.link_index(of));
    const auto to = static_cast<std::size_t>(right.link_index(on));
    out.links[to].parts = right.links()[from].parts;
    if (stays)
      for (Part& part : out.links[to].parts) part.at = at[to].inverse() * at[from] * part.at;
  }
  return Arm::build(std::move(out));
}

int fit_of(const MeshOrder& order, const Arm& arm, const std::string& link) {
  return order.fits[static_cast<std::size_t>(arm.link_index(link))];
}

}  // namespace

TEST_CASE("files that are on their links are left there") {
  CHECK_FALSE(better_mesh_order(test::cad_arm()));
  // Arms without shapes from files, too.
  for (const Arm& arm : test::demo_cell().arms()) CHECK_FALSE(better_mesh_order(arm));
}

TEST_CASE("files that were exchanged along the chain are found, and the order that fits") {
  for (const bool stays : {false, true}) {
    INFO(stays);
    const Arm swapped = reordered({{"upper_arm", "forearm"}, {"forearm", "upper_arm"}}, stays);
    const auto order = better_mesh_order(swapped);
    REQUIRE(order);
    CHECK(order->then < 0.5 * order->now);
    CHECK(fit_of(*order, swapped, "upper_arm") == swapped.link_index("forearm"));
    CHECK(fit_of(*order, swapped, "forearm") == swapped.link_index("upper_arm"));
    CHECK(fit_of(*order, swapped, "turret") == swapped.link_index("turret"));

    // Three of them in a ring.
    const Arm ring = reordered(
        {{"turret", "upper_arm"}, {"upper_arm", "forearm"}, {"forearm", "turret"}}, stays);
    const auto back = better_mesh_order(ring);
    REQUIRE(back);
    CHECK(fit_of(*back, ring, "upper_arm") == ring.link_index("turret"));
    CHECK(fit_of(*back, ring, "forearm") == ring.link_index("upper_arm"));
    CHECK(fit_of(*back, ring, "turret") == ring.link_index("forearm"));
  }
}

TEST_CASE("an order of files that does not fit is a finding") {
  const Arm swapped = reordered({{"upper_arm", "forearm"}, {"forearm", "upper_arm"}}, true);
  const Cell cell = Cell::build({.arms = {swapped}});
  bool said = false;
  for (const Finding& finding : findings_of(cell, cell.arms().front()))
    if (finding.text.find("in another order") != std::string::npos) {
      said = true;
      CHECK(finding.severity == Severity::wrong);
      CHECK_THAT(finding.text,
                 Contains("those of upper_arm fit forearm, those of forearm fit upper_arm"));
    }
  CHECK(said);
}

}  // namespace er
