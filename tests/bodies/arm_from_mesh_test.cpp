// The demo arm's one-piece mesh: round features, which body belongs to which link, axes, hulls.
#include <Eigen/Geometry>
#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/random.hpp"
#include "elbowroom/bodies/mesh_inspection.hpp"
#include "elbowroom/files/mesh_file.hpp"
#include "elbowroom/model/hull.hpp"
#include "elbowroom/model/mesh.hpp"
#include "support/demo.hpp"
#include "support/meshes.hpp"

using namespace er;
using namespace er::test;
using Catch::Matchers::Contains;
using Catch::Matchers::StartsWith;

namespace {

std::vector<Surface> demo_surfaces(const std::string& file) {
  return read_mesh_file(std::string(DEMO_DIR) + "/" + file, Vector3::Constant(1e-3));
}

Bodies demo_bodies(const std::string& file) { return bodies_of(demo_surfaces(file)); }

MeshBody body_of(const Mesh& mesh) {
  return bodies_of({Surface{.corners = mesh.data->corners, .faces = mesh.data->faces}})
      .list.front();
}

Surface turned_by(const Surface& surface, const Pose& pose) {
  Surface out = surface;
  for (Vector3& corner : out.corners) corner = pose * corner;
  return out;
}

// The demo arm, the joint of one of its links moved.
Arm changed_arm(const std::string& link, const Vector3& by) {
  ArmDescription arm = demo_cell().arm("teasel").description();
  for (Link& one : arm.links)
    if (one.name == link) one.joint.origin.position += by;
  return Arm::build(arm);
}

MeshInspection inspected(const Arm& arm) {
  return inspect_mesh(demo_bodies("teasel.stl"),
                      {.files = {"teasel.stl"}, .unit = "mm", .scale = 1e-3, .arm = arm});
}

const AxisFit& fit_of(const MeshInspection& inspection, const std::string& joint) {
  for (const AxisFit& fit : inspection.axes)
    if (fit.joint == joint) return fit;
  throw std::logic_error("no such joint");
}

}  // namespace

TEST_CASE("bores and bosses are found where they are, however the mesh is turned") {
  RandomStream random(5);
  // A flanged tube: bosses of 40 and 60 mm, a bore of 25 mm.
  const Mesh tube = turned_mesh(
      {{0.0125, 0.0}, {0.03, 0.0}, {0.03, 0.01}, {0.02, 0.01}, {0.02, 0.1}, {0.0125, 0.1}}, 48);
  for (int round = 0; round < 30; ++round) {
    const Vector3 about(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1));
    const Pose pose{rotation_about(about.normalized(), random.uniform(-3, 3)),
                    Vector3(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1))};
    Surface surface{.corners = tube.data->corners, .faces = tube.data->faces};
    const auto found = round_features(bodies_of({turned_by(surface, pose)}).list.front());
    REQUIRE(found.size() == 3);
    const double radii[] = {0.02, 0.0125, 0.03};
    const double lengths[] = {0.09, 0.1, 0.01};
    const double middles[] = {0.055, 0.05, 0.005};
    for (std::size_t i = 0; i < 3; ++i) {
      CHECK(found[i].radius == Approx(radii[i]).epsilon(1e-6));
      CHECK(found[i].length == Approx(lengths[i]).epsilon(1e-6));
      CHECK(found[i].is_bore == (i == 1));
      CHECK(found[i].span == Approx(2 * 3.14159265358979));
      CHECK(found[i].worst < 1e-8);
      CHECK((found[i].middle - pose * Vector3(0, 0, middles[i])).norm() < 1e-8);
      CHECK(found[i].axis.cross(pose.rotation.col(2)).norm() < 1e-7);
    }
  }
  CHECK(round_features(body_of(box_mesh({0.1, 0.2, 0.3}, 4))).empty());
  CHECK(round_features(body_of(bumpy_mesh(0.1, 2000))).empty());
  // A cone is no cylinder.
  CHECK(round_features(body_of(turned_mesh({{0.0, 0.0}, {0.05, 0.0}, {0.03, 0.1}, {0.0, 0.1}}, 48)))
            .empty());
}

TEST_CASE("half a bore is found, and flats beside it are not taken for it") {
  // An obround bar: two half-cylinders with flats between.
  Surface bar;
  std::vector<Eigen::Vector2d> outline;
  for (int i = 0; i <= 24; ++i) {
    const double turn = 3.14159265358979 * (i / 24.0 - 0.5);
    outline.emplace_back(0.05 + 0.02 * std::cos(turn), 0.02 * std::sin(turn));
  }
  for (int i = 0; i <= 24; ++i) {
    const double turn = 3.14159265358979 * (i / 24.0 + 0.5);
    outline.emplace_back(-0.05 + 0.02 * std::cos(turn), 0.02 * std::sin(turn));
  }
  const int count = static_cast<int>(outline.size());
  for (const double z : {0.0, 0.03})
    for (const auto& p : outline) bar.corners.emplace_back(p.x(), p.y(), z);
  for (int i = 0; i < count; ++i) {
    const int next = (i + 1) % count;
    bar.faces.push_back({i, next, next + count});
    bar.faces.push_back({i, next + count, i + count});
    if (i > 0 && next > 0) {
      bar.faces.push_back({0, next, i});
      bar.faces.push_back({count, count + i, count + next});
    }
  }
  const MeshBody body = bodies_of({bar}).list.front();
  REQUIRE(body.health.is_closed());
  const auto found = round_features(body);
  REQUIRE(found.size() == 2);
  for (const RoundFeature& one : found) {
    CHECK(one.radius == Approx(0.02).epsilon(1e-6));
    CHECK(std::abs(one.middle.x()) == Approx(0.05).epsilon(1e-6));
    CHECK(one.span == Approx(3.14159265358979).epsilon(0.01));
    CHECK_FALSE(one.is_bore);
  }
}

TEST_CASE("the one-piece arm comes apart, and its bodies find their links") {
  const Bodies bodies = demo_bodies("teasel.stl");
  const Bodies named = demo_bodies("teasel.obj");
  REQUIRE(bodies.list.size() == 19);
  REQUIRE(named.list.size() == 19);
  CHECK(bodies.list[0].hollows == 1);
  CHECK(bodies.list[9].inside_of == 1);
  const Arm& arm = demo_cell().arm("teasel");
  const std::vector<BodyOnLink> proposed = propose_links(bodies, arm.mounted_at({}));
  REQUIRE(proposed.size() == 19);
  int unsure = 0;
  for (std::size_t i = 0; i < 19; ++i) {
    CHECK(bodies.list[i].volume == Approx(named.list[i].volume));
    const std::string& name = named.list[i].surface.name;
    const std::string& link = arm.links()[static_cast<std::size_t>(proposed[i].link)].name;
    INFO(name << " on " << link);
    CHECK_FALSE(proposed[i].spans);
    const bool right = name.rfind(link.substr(0, link.find('_')), 0) == 0;
    // Where it is not what was meant, it says that it does not know.
    if (!right) {
      CHECK(proposed[i].margin < 5e-3);
      CHECK(name.rfind(arm.links()[static_cast<std::size_t>(proposed[i].second)].name.substr(0, 5),
                       0) == 0);
    }
    unsure += right ? 0 : 1;
  }
  CHECK(unsure <= 2);
}

TEST_CASE("a body that goes on over a joint is named") {
  const Arm& arm = demo_cell().arm("teasel");
  // The upper arm and the forearm in one.
  std::vector<Surface> surfaces;
  for (const MeshBody& body : demo_bodies("teasel.obj").list)
    if (body.surface.name != "upper_arm_beam" && body.surface.name != "forearm_tube" &&
        body.surface.name != "elbow_sleeve" && body.surface.name != "elbow_drum")
      surfaces.push_back(body.surface);
  const Mesh bent = turned_mesh({{0.0, 0.0}, {0.04, 0.0}, {0.04, 0.4}, {0.0, 0.4}}, 24);
  Surface one{.name = "bent", .corners = bent.data->corners, .faces = bent.data->faces};
  for (Vector3& corner : one.corners) {  // leaned over from the shoulder to the wrist
    const double along = corner.z() / 0.4;
    corner = Vector3(0.04 + corner.x() + 0.35 * along, corner.y(),
                     0.34 + 0.43 * along + 0.3 * corner.x());
  }
  surfaces.push_back(one);
  const MeshInspection found = inspect_mesh(bodies_of(surfaces), {.arm = arm});
  CHECK_FALSE(found.passed());
  bool said = false;
  for (const std::string& text : found.wrong)
    said |= text.find("(bent) goes over from") != text.npos;
  CHECK(said);
}

TEST_CASE(
    "axes that are described elsewhere than the mesh has them are found, with the dimension") {
  const Arm right = changed_arm("", Vector3::Zero());
  const MeshInspection clean = inspected(right);
  CHECK(clean.passed());
  CHECK_THAT(clean.summary(),
             StartsWith("yes: 19 bodies, all closed; 6 of 6 axes are where the mesh"));
  for (const AxisFit& fit : clean.axes) {
    REQUIRE(fit.feature);
    CHECK(fit.off.norm() < 2e-6);
    CHECK(fit.tilt < 1e-5);
    CHECK(text_of(fit) == "right");
  }

  SECTION("a length, and all that hangs on it") {
    const MeshInspection found = inspected(changed_arm("elbow_block", {0, 0, -0.006}));
    CHECK_FALSE(found.passed());
    REQUIRE(fit_of(found, "elbow").doubt);
    const DimensionDoubt& doubt = *fit_of(found, "elbow").doubt;
    CHECK(doubt.from == "shoulder");
    CHECK(doubt.described == Approx(0.394));
    CHECK(doubt.measured == Approx(0.4).epsilon(1e-5));
    CHECK_FALSE(doubt.opposite);
    for (const char* later : {"forearm_turn", "wrist_bend", "wrist_turn"}) {
      CHECK_FALSE(fit_of(found, later).doubt);
      CHECK(fit_of(found, later).off.norm() == Approx(0.006).epsilon(1e-3));
      CHECK_THAT(text_of(fit_of(found, later)), Contains("as joints before it are"));
    }
    CHECK_THAT(
        found.summary(),
        StartsWith("no: joint elbow: 6.00 mm off along z; from shoulder along z it is 394 mm in "
                   "the description, 400 mm by the mesh"));
  }
  SECTION("an offset on the other side") {
    const MeshInspection found = inspected(changed_arm("forearm", {0, 0, -0.06}));
    REQUIRE(fit_of(found, "forearm_turn").doubt);
    CHECK(fit_of(found, "forearm_turn").doubt->opposite);
    // And bodies find their links in spite of it.
    for (std::size_t i = 0; i < found.proposed.size(); ++i)
      CHECK(found.proposed[i].link == clean.proposed[i].link);
    CHECK_FALSE(fit_of(found, "wrist_turn").doubt);
    CHECK(fit_of(found, "wrist_turn").feature);
    CHECK_THAT(text_of(fit_of(found, "forearm_turn")),
               StartsWith("60.00 mm off along z; 30 mm from elbow along -z has the opposite sign"));
  }
  SECTION("two mistakes, each where it is made") {
    ArmDescription arm = changed_arm("upper_arm", {0.004, 0, 0}).description();
    for (Link& one : arm.links)
      if (one.name == "wrist") one.joint.origin.position.x() -= 0.005;
    const MeshInspection found = inspected(Arm::build(arm));
    REQUIRE(fit_of(found, "shoulder").doubt);
    CHECK(fit_of(found, "shoulder").doubt->described == Approx(0.044));
    CHECK(fit_of(found, "shoulder").doubt->measured == Approx(0.04).epsilon(1e-4));
    REQUIRE(fit_of(found, "wrist_bend").doubt);
    CHECK(fit_of(found, "wrist_bend").doubt->measured -
              fit_of(found, "wrist_bend").doubt->described ==
          Approx(0.005).epsilon(1e-3));
    CHECK_FALSE(fit_of(found, "elbow").doubt);
  }
  SECTION("a leaning axis") {
    ArmDescription arm = right.description();
    for (Link& one : arm.links)
      if (one.name == "upper_arm") one.joint.axis = Vector3(0, std::cos(0.02), std::sin(0.02));
    const MeshInspection found = inspected(Arm::build(arm));
    CHECK(fit_of(found, "shoulder").tilt == Approx(0.02).epsilon(1e-3));
    CHECK_FALSE(found.passed());
    CHECK_THAT(found.summary(), StartsWith("no: joint shoulder: ") && Contains("1.15 deg tilted"));
    CHECK(is_right(fit_of(found, "waist")));
    CHECK_FALSE(is_right(fit_of(found, "shoulder")));
  }
}

TEST_CASE("a mesh that is not in the base frame of its arm is found to lie elsewhere") {
  RandomStream random(21);
  const Arm& arm = demo_cell().arm("teasel");
  const MeshInspection clean = inspected(arm);
  CHECK_FALSE(clean.placing);
  for (int round = 0; round < 6; ++round) {
    // As exports come with y up, then in any way at all.
    Pose lies{rotation_about(Vector3::UnitX(), -3.14159265358979 / 2), Vector3(0.3, -0.2, 0.1)};
    if (round > 0) {
      const Vector3 about(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1));
      lies = {rotation_about(about.normalized(), random.uniform(-3, 3)),
              Vector3(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1))};
    }
    std::vector<Surface> surfaces = demo_surfaces("teasel.stl");
    for (Surface& surface : surfaces) surface = turned_by(surface, lies);
    const MeshInspection found = inspect_mesh(
        bodies_of(surfaces), {.files = {"teasel.stl"}, .unit = "mm", .scale = 1e-3, .arm = arm});
    CHECK_FALSE(found.passed());
    REQUIRE(found.placing);
    CHECK(found.placing->matched == found.placing->axes);
    CHECK(found.placing->is_only);
    const Pose off = found.placing->at * lies;
    CHECK(off.position.norm() < 1e-5);
    CHECK((off.rotation - Matrix3::Identity()).norm() < 1e-4);
    CHECK_THAT(found.summary(),
               StartsWith("no: the mesh is not in the base frame of teasel: turned"));
    for (const AxisFit& fit : found.axes) CHECK(is_right(fit));
    // Bodies may have other numbers, since they are sorted by their boxes: by volume.
    for (std::size_t i = 0; i < found.proposed.size(); ++i) {
      const double size = found.bodies.list[i].volume;
      if (found.proposed[i].margin < 5e-3) continue;  // said to be a guess
      INFO(size << " margin " << found.proposed[i].margin << " link " << found.proposed[i].link);
      bool same = false;
      for (std::size_t k = 0; k < clean.proposed.size(); ++k)
        same |= std::abs(clean.bodies.list[k].volume - size) < 1e-4 * size &&
                clean.proposed[k].link == found.proposed[i].link;
      CHECK(same);
    }
  }
  // What lies right but for a dimension is not moved.
  CHECK_FALSE(inspected(changed_arm("elbow_block", {0, 0, -0.006})).placing);
  CHECK_FALSE(inspected(changed_arm("forearm", {0, 0, -0.06})).placing);
  // Nothing round, no placing.
  const Mesh box = box_mesh({0.1, 0.2, 0.3});
  CHECK_FALSE(
      inspect_mesh(bodies_of({Surface{.corners = box.data->corners, .faces = box.data->faces}}),
                   {.arm = arm})
          .placing);
}

TEST_CASE("how far a hull stands out is bounded from both sides") {
  // A box stands out of itself nowhere; a bucket's hull by what its opening holds.
  const MeshBody box = body_of(box_mesh({0.1, 0.2, 0.3}, 3));
  const Bulge none = bulge_of(hull_of(box.surface.corners), box, 4e-3);
  CHECK(none.most <= 4e-3 + 1e-9);
  CHECK(none.volume == Approx(0.0).margin(1e-12));
  const MeshBody bucket = body_of(bucket_mesh(0.2, 0.3, 0.01, 64));
  const Bulge open = bulge_of(hull_of(bucket.surface.corners), bucket);
  CHECK(open.most - open.least <= 1e-4);
  // From the middle of the lid to the rim: the inner radius; to the floor: the inner depth.
  CHECK(open.least <= 0.19);
  CHECK(open.most >= 0.19 * std::cos(3.14159265358979 / 64));
  CHECK(open.volume == Approx(volume(Shape(hull_of(bucket.surface.corners))) - bucket.volume));
  // A point of the lid is as far away as the wall or the floor.
  RandomStream random(8);
  for (int i = 0; i < 500; ++i) {
    const double radius = 0.19 * std::sqrt(random.uniform(0, 1));
    CHECK(std::min(0.19 * std::cos(3.14159265358979 / 64) - radius, 0.29) <= open.most);
  }
}

TEST_CASE("sizes that speak for another unit") {
  const double arm = 1.3;  // m
  CHECK(unit_doubt(1.0, 1.0).empty());
  CHECK_THAT(unit_doubt(1044.0, 1.0), Contains("is its unit mm?"));
  CHECK_THAT(unit_doubt(0.9e-3, 1e-3), Contains("is its unit m?"));
  CHECK_THAT(unit_doubt(1044.0, 1.0, arm), Contains("is its unit mm?"));
  CHECK_THAT(unit_doubt(45.0, 1.0, arm), Contains("is its unit mm?"));
  CHECK(unit_doubt(0.02, 1e-3, arm).empty());  // a small part of it
  const MeshInspection found =
      inspect_mesh(bodies_of(read_mesh_file(DEMO_DIR "/teasel.stl")), {.unit = "m"});
  CHECK_THAT(found.summary(), StartsWith("no: it would be "));
}
