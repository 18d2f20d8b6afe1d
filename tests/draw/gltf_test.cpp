// Animated cells as glTF, read back by another library.
#include "elbowroom/draw/gltf.hpp"

#include <assimp/postprocess.h>
#include <assimp/scene.h>

#include <assimp/Importer.hpp>
#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/draw/scene.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/pace/pace.hpp"
#include "support/cells.hpp"
#include "support/folder.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

// The value of a channel at a time: straight between keys, turned evenly the short way.
template <class Key, class Blend>
auto value_at(const Key* keys, unsigned count, double time, Blend blend) {
  unsigned next = 0;
  while (next < count && keys[next].mTime < time) ++next;
  if (next == 0) return keys[0].mValue;
  if (next == count) return keys[count - 1].mValue;
  const Key& a = keys[next - 1];
  const Key& b = keys[next];
  return blend(a.mValue, b.mValue, static_cast<ai_real>((time - a.mTime) / (b.mTime - a.mTime)));
}

// Where a node is in the file's world, by the animation at a time (ticks).
aiMatrix4x4 world_of(const aiNode* node, const aiAnimation& animation, double ticks) {
  aiMatrix4x4 local = node->mTransformation;
  for (unsigned i = 0; i < animation.mNumChannels; ++i) {
    const aiNodeAnim& channel = *animation.mChannels[i];
    if (channel.mNodeName != node->mName) continue;
    const aiVector3D place = value_at(
        channel.mPositionKeys, channel.mNumPositionKeys, ticks,
        [](const aiVector3D& a, const aiVector3D& b, ai_real t) { return a + t * (b - a); });
    const aiQuaternion turn = value_at(channel.mRotationKeys, channel.mNumRotationKeys, ticks,
                                       [](const aiQuaternion& a, const aiQuaternion& b, ai_real t) {
                                         aiQuaternion out;
                                         aiQuaternion::Interpolate(out, a, b, t);
                                         return out;
                                       });
    local = aiMatrix4x4(aiVector3D(1, 1, 1), turn, place);
  }
  return node->mParent == nullptr ? local : world_of(node->mParent, animation, ticks) * local;
}

// Back from y up.
Vector3 z_up(const aiMatrix4x4& at) { return {at.a4, -at.c4, at.b4}; }

long triangles_of(const aiScene& scene) {
  long count = 0;
  for (unsigned i = 0; i < scene.mNumMeshes; ++i)
    if (scene.mMeshes[i]->mPrimitiveTypes == aiPrimitiveType_TRIANGLE)
      count += scene.mMeshes[i]->mNumFaces;
  return count;
}

void check_file(const std::string& file, const Cell& cell, const Arm& arm,
                const std::vector<TimedPosture>& postures) {
  Assimp::Importer importer;
  const aiScene* scene = importer.ReadFile(file, 0);
  INFO(importer.GetErrorString());
  REQUIRE(scene != nullptr);
  REQUIRE(scene->mNumAnimations == 1);
  const aiAnimation& animation = *scene->mAnimations[0];
  const double ticks = animation.mTicksPerSecond;
  for (std::size_t i = 0; i + 1 < postures.size(); ++i)
    for (const double share : {0.0, 0.3, 0.8}) {
      const TimedPosture& a = postures[i];
      const TimedPosture& b = postures[i + 1];
      const auto links = link_poses(arm, Posture(a.posture + share * (b.posture - a.posture)));
      const double time = (a.time + share * (b.time - a.time)) * ticks;
      for (std::size_t l = 0; l < links.size(); ++l) {
        const aiNode* node =
            scene->mRootNode->FindNode((arm.name() + "." + arm.links()[l].name).c_str());
        REQUIRE(node != nullptr);
        CHECK((z_up(world_of(node, animation, time)) - links[l].position).norm() < 2e-5);
      }
    }
  for (const Body& body : cell.fixtures()) {
    const aiNode* node = scene->mRootNode->FindNode(body.name.c_str());
    REQUIRE(node != nullptr);
    CHECK((z_up(world_of(node, animation, 0.0)) - body.at.position).norm() < 1e-6);
  }
  long triangles = 0;
  const Scene drawn(cell, postures_with(cell, arm, postures.front().posture));
  for (const SceneMesh& mesh : drawn.meshes())
    triangles += static_cast<long>(mesh.triangles.size());
  CHECK(triangles_of(*scene) == triangles);
}

}  // namespace

TEST_CASE("a route as glTF: each link is where forward kinematics puts it, at any time") {
  const Folder folder;
  const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  const CellQuery query(cell, "teasel");
  const Arm& arm = query.arm();
  const auto route = find_route(query, arm.stance("over_board"), {arm.stance("before_kiln")},
                                {.least_within = 0.0});
  REQUIRE(route);
  const auto timed = timed_postures(*route);
  CHECK(timed.back().time == Approx(route->length));
  for (const char* name : {"way.glb", "way.gltf"}) {
    write_gltf(folder / name, cell, arm, timed);
    check_file(folder / name, cell, arm, timed);
  }
}

TEST_CASE("joints that turn by more than half a turn at once, slide, or stand still") {
  const Folder folder;
  Link wide = turning("wide", {0.1, 0, 0}, Vector3(1, 2, 3).normalized(),
                      {{.shape = Box{{0.1, 0.1, 0.1}}}});
  wide.joint.limits.lower = -9.0;
  wide.joint.limits.upper = 9.0;
  const Arm arm = Arm::build(
      {.name = "a",
       .links = {{.name = "base"},
                 wide,
                 turning("still", {0, 0.2, 0}, Vector3::UnitX(), {{.shape = Cone{0.03, 0.0, 0.1}}}),
                 sliding("slide", {0, 0, 0.3}, Vector3::UnitZ(), {{.shape = Sphere{0.05}}})}});
  const Cell cell = Cell::build({.arms = {arm}});
  const std::vector<TimedPosture> timed{{0.0, values({-4.5, 0.3, 0.0})},
                                        {1.0, values({4.5, 0.3, 0.2})},
                                        {1.5, values({4.4, 0.3, -0.1})}};
  write_gltf(folder / "a.glb", cell, arm, timed);
  check_file(folder / "a.glb", cell, arm, timed);
}

TEST_CASE("a motion as glTF, and what cannot be one") {
  const Folder folder;
  const Cell cell = load_cell(DEMO_DIR "/glaze.cell.yaml");
  const CellQuery query(cell, "teasel");
  const Arm& arm = query.arm();
  const auto paced = pace({arm.stance("home"), arm.stance("over_bucket")}, query, PaceOptions{});
  REQUIRE(paced);
  const auto timed = timed_postures(paced->motion, 50.0);
  CHECK(timed.front().posture == arm.stance("home"));
  CHECK(timed.back().time == Approx(paced->motion.duration()));
  write_gltf(folder / "m.glb", cell, arm, timed);
  check_file(folder / "m.glb", cell, arm, timed);
  CHECK_THROWS_WITH(write_gltf(folder / "m.obj", cell, arm, timed), Contains("'.obj'"));
  CHECK_THROWS_WITH(write_gltf(folder / "n.glb", cell, arm, {}), Contains("at least one posture"));
  CHECK_THROWS_WITH(write_gltf(folder / "n.glb", cell, arm, {timed[1], timed[0]}),
                    Contains("rise"));
  CHECK_THROWS_AS(write_gltf(folder / "no/where.glb", cell, arm, timed), InputError);
  CHECK_FALSE(std::filesystem::exists(folder / "n.glb"));
  write_gltf(folder / "still.glb", cell, arm, {timed.front()});
  Assimp::Importer importer;
  const aiScene* still = importer.ReadFile(folder / "still.glb", 0);
  REQUIRE(still != nullptr);
  CHECK(still->mNumAnimations == 0);
}
