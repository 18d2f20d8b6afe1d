// Meshes that were exported at another posture than zero: by bores and bosses, and by faces.
#include "elbowroom/bodies/mesh_posture.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>
#include <fstream>
#include <iterator>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/random.hpp"
#include "elbowroom/bodies/joint_placing.hpp"
#include "elbowroom/bodies/mesh_inspection.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/mesh_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "support/demo.hpp"
#include "support/folder.hpp"
#include "support/meshes.hpp"

namespace er {
namespace {

using Catch::Matchers::Contains;
using Catch::Matchers::StartsWith;

constexpr double kDeg = 3.14159265358979323846 / 180.0;

Posture degrees(std::initializer_list<double> values) {
  Posture out(static_cast<Eigen::Index>(values.size()));
  Eigen::Index k = 0;
  for (const double value : values) out[k++] = value * kDeg;
  return out;
}

const std::vector<std::pair<std::string, std::string>> kLinkOf{
    {"base_", "base"},         {"turret_", "turret"},   {"upper_arm_", "upper_arm"},
    {"elbow_", "elbow_block"}, {"forearm_", "forearm"}, {"wrist_", "wrist"},
    {"flange", "flange"}};

// The demo arm's bodies, in its base frame, as they stand at a posture.
std::vector<Surface> shown_at(const Posture& posture) {
  const Arm arm = test::demo_cell().arm("teasel").mounted_at({});
  const std::vector<Pose> zero = link_poses(arm, Posture::Zero(arm.dof()));
  const std::vector<Pose> now = link_poses(arm, posture);
  std::vector<Surface> out = read_mesh_file(DEMO_DIR "/teasel.obj", Vector3::Constant(1e-3));
  for (Surface& surface : out)
    for (const auto& [start, link] : kLinkOf)
      if (surface.name.starts_with(start)) {
        const auto l = static_cast<std::size_t>(arm.link_index(link));
        for (Vector3& corner : surface.corners) corner = now[l] * (zero[l].inverse() * corner);
      }
  return out;
}

MeshInspection inspected_at(const Posture& posture) {
  return inspect_mesh(
      bodies_of(shown_at(posture)),
      {.files = {"posed.obj"}, .unit = "m", .arm = test::demo_cell().arm("teasel")});
}

}  // namespace

TEST_CASE("an arm whose zero is elsewhere stands there") {
  RandomStream random(3);
  const Arm& arm = test::demo_cell().arm("teasel");
  for (int round = 0; round < 20; ++round) {
    Posture posture(6);
    Posture further(6);
    for (Eigen::Index k = 0; k < 6; ++k) {
      posture[k] = random.uniform(-1.5, 1.5);
      further[k] = random.uniform(-1.5, 1.5);
    }
    const Arm moved = standing_at(arm, posture);
    const auto wanted = link_poses(arm, posture + further);
    const auto found = link_poses(moved, further);
    for (std::size_t l = 0; l < wanted.size(); ++l) {
      CHECK((wanted[l].position - found[l].position).norm() < 1e-12);
      CHECK((wanted[l].rotation - found[l].rotation).norm() < 1e-12);
    }
  }
}

TEST_CASE("the posture that a mesh shows is found by its bores and bosses") {
  // The last joint turns nothing that bores could tell.
  for (const Posture& posture :
       {degrees({0, 0, 30, 0, 0, 0}), degrees({0, -20, 20, 0, 90, 0}), degrees({0, 0, 60, 0, 0, 0}),
        degrees({10, 20, 30, 40, 50, 0}), degrees({0, 0, 0, 90, 0, 0})}) {
    const MeshInspection found = inspected_at(posture);
    INFO(posture.transpose() / kDeg);
    CHECK_FALSE(found.passed());
    REQUIRE(found.posture);
    CHECK_FALSE(found.placing);
    CHECK(found.posture->matched == found.posture->axes);
    CHECK((found.posture->first() - posture).cwiseAbs().maxCoeff() < 1e-5);
    CHECK_THAT(found.summary(), StartsWith("no: the mesh does not show teasel at zero: with "));
    CHECK_THAT(found.proposal(), Contains("posture: ["));
    // A wrist does the same flipped.
    CHECK(std::any_of(found.posture->postures.begin(), found.posture->postures.end(),
                      [&](const Posture& other) {
                        return std::abs(std::abs(other[3] - posture[3]) - 180.0 * kDeg) < 1e-5 &&
                               std::abs(other[4] + posture[4]) < 1e-5;
                      }));
    for (const AxisFit& fit : found.axes) CHECK(is_right(fit));
    const MeshInspection at_zero = inspected_at(degrees({0, 0, 0, 0, 0, 0}));
    for (std::size_t i = 0; i < found.proposed.size(); ++i) {
      if (found.proposed[i].margin < 5e-3) continue;  // said to be a guess
      const std::string& name = found.bodies.list[i].surface.name;
      for (std::size_t k = 0; k < at_zero.proposed.size(); ++k)
        if (at_zero.bodies.list[k].surface.name == name)
          CHECK(at_zero.proposed[k].link == found.proposed[i].link);
    }
  }
}

TEST_CASE("a posture is not found where another reason is simpler") {
  CHECK_FALSE(inspected_at(degrees({0, 0, 0, 0, 0, 0})).posture);
  // The last joint alone: bores cannot tell, and nothing is wrong with them.
  const MeshInspection last = inspected_at(degrees({0, 0, 0, 0, 0, 45}));
  CHECK(last.passed());
  CHECK_FALSE(last.posture);
  // All of it turned about the first axis could be the mesh or the joint: both are said.
  const MeshInspection waist = inspected_at(degrees({30, 0, 0, 0, 0, 0}));
  REQUIRE(waist.posture);
  CHECK_THAT(waist.summary(), Contains("with waist at 30.00 deg") &&
                                  Contains("or at zero, all of it turned by rpy"));
  // A dimension that is wrong stays one.
  ArmDescription longer = test::demo_cell().arm("teasel").description();
  for (Link& link : longer.links)
    if (link.name == "elbow_block") link.joint.origin.position.z() += 0.006;
  const MeshInspection found =
      inspect_mesh(bodies_of(shown_at(degrees({0, 0, 0, 0, 0, 0}))), {.arm = Arm::build(longer)});
  CHECK_FALSE(found.posture);
  CHECK_THAT(found.summary(), StartsWith("no: joint elbow: "));
}

namespace {

// The demo's CAD cell, its mesh shown at a posture, and lines more in its bodies.
class PosedCell {
 public:
  explicit PosedCell(const Posture& posture) : surfaces_(shown_at(posture)) {
    folder_.write("posed.obj", test::as_obj(surfaces_));
  }
  [[nodiscard]] int number(const std::string& name) const {
    for (const MeshBody& body : bodies_of(surfaces_).list)
      if (body.surface.name == name) return body.number;
    throw std::logic_error("no such body");
  }
  [[nodiscard]] Cell load(const std::string& lines) const {
    std::string links;
    for (const auto& [start, link] : kLinkOf) {
      std::vector<int> numbers;
      for (const MeshBody& body : bodies_of(surfaces_).list)
        if (body.surface.name.starts_with(start)) numbers.push_back(body.number);
      links += fmt::format("        {}: [{}]\n", link, fmt::join(numbers, ", "));
    }
    const std::string text = test::cad_cell_with(
        "      file: posed.obj\n      density: 2700 kg/m^3\n" + lines + "      links:\n" + links);
    return load_cell(folder_.write("posed.cell.yaml", text));
  }

 private:
  std::vector<Surface> surfaces_;
  test::Folder folder_;
};

void check_same_links(const Arm& arm) {
  const Arm right = test::cad_arm();
  for (std::size_t l = 0; l < right.links().size(); ++l) {
    const Inertial& a = right.links()[l].inertial;
    const Inertial& b = arm.links()[l].inertial;
    INFO(right.links()[l].name);
    CHECK(b.mass == Approx(a.mass).epsilon(1e-4));
    CHECK((a.centre - b.centre).norm() < 1e-5);
    CHECK((a.inertia - b.inertia).norm() < 1e-4 * a.inertia.norm());
  }
}

}  // namespace

TEST_CASE("bodies are hung on their links from the posture that the file shows") {
  const PosedCell cell(degrees({0, -20, 20, 0, 90, 0}));
  const Cell loaded = cell.load("      posture: [0 deg, -20 deg, 20 deg, 0 deg, 90 deg, 0 deg]\n");
  check_same_links(loaded.arm("teasel"));
  // Axes are looked for where they are in that posture, and nothing is taken that is right.
  const Cell axes =
      cell.load("      posture: [0 deg, -20 deg, 20 deg, 0 deg, 90 deg, 0 deg]\n      axes: all\n");
  check_same_links(axes.arm("teasel"));
  CHECK(axes.notes().empty());
}

TEST_CASE("a zero is taken from a face, joint by joint") {
  const PosedCell cell(degrees({0, 0, 25, 0, 0, 0}));
  // A side of the fork, which looks along -y at zero, and the upper side of the beam of the arm.
  const Arm arm = test::demo_cell().arm("teasel").mounted_at({});
  const auto at = link_poses(arm, degrees({0, 0, 25, 0, 0, 0}));
  const auto zero = link_poses(arm, Posture::Zero(6));
  const auto forearm = static_cast<std::size_t>(arm.link_index("forearm"));
  const Vector3 on_top(0.400, -0.042, 0.800);  // of the fork
  const Vector3 here = at[forearm] * (zero[forearm].inverse() * on_top);
  const auto entry = [&](const std::string& joint, const Vector3& near, const std::string& faces) {
    return fmt::format(
        "        - {{joint: {}, body: {}, near: [{:.6f} m, {:.6f} m, {:.6f} m], faces: {}}}\n",
        joint, cell.number("forearm_fork"), near.x(), near.y(), near.z(), faces);
  };
  const Cell loaded = cell.load("      zeros:\n" + entry("elbow", here, "[0, 0, 1]"));
  check_same_links(loaded.arm("teasel"));
  REQUIRE(loaded.notes().size() == 1);
  CHECK_THAT(loaded.notes()[0].text, Contains("joint elbow is at 25.00 deg in the file"));

  // Two of them, in whatever order.
  const Posture both = degrees({0, 15, 25, 0, 0, 0});
  const PosedCell leaning(both);
  const auto now = link_poses(arm, both);
  const auto place_of = [&](const char* link, const Vector3& at_zero) {
    const auto l = static_cast<std::size_t>(arm.link_index(link));
    return Vector3(now[l] * (zero[l].inverse() * at_zero));
  };
  const auto line = [&](const std::string& joint, const std::string& body, const Vector3& near,
                        const std::string& faces) {
    return fmt::format(
        "        - {{joint: {}, body: {}, near: [{:.6f} m, {:.6f} m, {:.6f} m], faces: {}}}\n",
        joint, leaning.number(body), near.x(), near.y(), near.z(), faces);
  };
  const std::string elbow = line("elbow", "forearm_fork", place_of("forearm", on_top), "[0, 0, 1]");
  const std::string shoulder =
      line("shoulder", "upper_arm_beam", place_of("upper_arm", {0.068, 0.08, 0.5}), "[1, 0, 0]");
  check_same_links(leaning.load("      zeros:\n" + elbow + shoulder).arm("teasel"));
  check_same_links(leaning.load("      zeros:\n" + shoulder + elbow).arm("teasel"));
  CHECK_THROWS_WITH(leaning.load("      zeros:\n" + shoulder + shoulder),
                    Contains("is given twice"));

  const auto refused = [&](const std::string& lines, const std::string& why) {
    CHECK_THROWS_WITH(cell.load(lines), Contains(why));
  };
  refused("      zeros:\n" + entry("elbow", here + Vector3(0, 0, 0.1), "[0, 0, 1]"),
          "mm from body");
  refused("      zeros:\n" + entry("elbo", here, "[0, 0, 1]"), "elbow");
  refused("      zeros:\n" + entry("elbow", here, "[0, 1, 0]"), "looks along the axis");
  refused("      zeros:\n" + entry("elbow", here, "[0, 0.5, 1]"), "comes no nearer to that than");
  refused("      zeros:\n" + entry("elbow", here, "[0, 0, 0]"), "of no length");
  const Vector3 corner = at[forearm] * (zero[forearm].inverse() * Vector3(0.376, -0.046, 0.800));
  refused("      zeros:\n" + entry("elbow", corner, "[0, 0, 1]"), "is not flat at this point");
  refused("      posture: [0 deg, 0 deg, 5 deg, 0 deg, 0 deg, 0 deg]\n      zeros:\n" +
              entry("elbow", here, "[0, 0, 1]"),
          "says already how far elbow is turned");
}

TEST_CASE("an axis that leans is turned as the mesh has it, and nothing after it moves") {
  const Arm right = test::demo_cell().arm("teasel").mounted_at({});
  ArmDescription tilted = right.description();
  tilted.stances.clear();
  for (Link& link : tilted.links)
    if (link.name == "upper_arm") link.joint.axis = Vector3(0, std::cos(0.02), std::sin(0.02));
  const Arm wrong = Arm::build(tilted);
  const MeshInspection found = inspect_mesh(bodies_of(shown_at(Posture::Zero(6))), {.arm = wrong});
  const Arm mended = corrected(wrong, found.axes);
  const auto at = link_poses(mended, Posture::Zero(6));
  const auto wanted = link_poses(right, Posture::Zero(6));
  for (std::size_t l = 0; l < at.size(); ++l) {
    CHECK((at[l].position - wanted[l].position).norm() < 1e-5);
    const Vector3 is = at[l].rotation * mended.links()[l].joint.axis;
    const Vector3 should = wanted[l].rotation * right.links()[l].joint.axis;
    CHECK((is - should).norm() < 1e-4);
  }
}

}  // namespace er
