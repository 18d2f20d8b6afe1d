// Kinematics written out as code, compiled, and held against the library's.
#include <catch2/catch.hpp>
#include <cmath>
#include <cstring>
#include <functional>
#include <numbers>

#include "elbowroom/kinematics/forward.hpp"
#include "support/postures.hpp"
#include "written_code/arms_in_code.hpp"
//
#include "includes.inc"

using namespace er;
using namespace er::test;

namespace {

using Numbers = std::vector<double>;

struct WrittenTool {
  std::string name;
  std::function<void(const double* posture, double* frame)> frame;
  std::function<void(const double* posture, double* frame, double* jacobian)> jacobian;
  std::function<void(const double* posture, double* frames, double* frame, double* jacobian)> all;
};
struct WrittenArm {
  std::vector<std::string> joints;
  std::vector<std::string> links;
  std::function<void(const double* posture, double* frames)> link_frames;
  std::vector<WrittenTool> tools;
};

#define TOOL(space, tool)                                                           \
  WrittenTool {                                                                     \
#tool, [](const double* q, double* frame) {                                       \
      space::Frame tip;                                                               \
      space::tool##_frame(q, tip);                                                    \
      std::memcpy(frame, tip.matrix, sizeof tip);                                     \
    },                                                                                \
        [](const double* q, double* frame, double* jacobian) {                        \
          space::Frame tip;                                                           \
          space::tool##_jacobian(q, tip, jacobian);                                   \
          std::memcpy(frame, tip.matrix, sizeof tip);                                 \
        },                                                                            \
        [](const double* q, double* frames, double* frame, double* jacobian) {        \
          space::Frame links[space::kLinks];                                          \
          space::Frame tip;                                                           \
          space::tool##_jacobian(q, links, tip, jacobian);                            \
          std::memcpy(frames, links, sizeof links);                                   \
          std::memcpy(frame, tip.matrix, sizeof tip);                                 \
        }, \
  }
#define ARM(space, ...)                                                      \
  WrittenArm{{std::begin(space::kJointNames), std::end(space::kJointNames)}, \
             {std::begin(space::kLinkNames), std::end(space::kLinkNames)},   \
             [](const double* q, double* frames) {                           \
               space::Frame links[space::kLinks];                            \
               space::link_frames(q, links);                                 \
               std::memcpy(frames, links, sizeof links);                     \
             },                                                              \
             {__VA_ARGS__}},

std::vector<WrittenArm> written_arms() {
  return {
#include "arms.inc"
  };
}
#undef ARM
#undef TOOL

// 4 x 4, column after column; as a share of how far away it is.
double farthest_off(const double* matrix, const Pose& pose) {
  double out = 0.0;
  for (int column = 0; column < 4; ++column) {
    const Vector3 expected = column < 3 ? Vector3(pose.rotation.col(column)) : pose.position;
    for (int row = 0; row < 3; ++row)
      out = std::max(out, std::abs(matrix[4 * column + row] - expected[row]));
    out = std::max(out, std::abs(matrix[4 * column + 3] - (column == 3 ? 1.0 : 0.0)));
  }
  return out / (1.0 + pose.position.norm());
}

// Anywhere, at limits and zero, at quarter turns, and many turns away.
Posture some_posture(RandomStream& random, const Arm& arm) {
  const int choice = random.index(4);
  if (choice == 0) return hard_posture(random, arm);
  Posture q(arm.dof());
  for (int k = 0; k < arm.dof(); ++k) {
    const bool turns = arm.moving_joint(k).kind == JointKind::revolute;
    q[k] = choice == 1 && turns   ? 0.5 * std::numbers::pi * (random.index(17) - 8)
           : choice == 2 && turns ? random.uniform(-4e5, 4e5)
                                  : random.uniform(-3.0, 3.0);
  }
  return q;
}

}  // namespace

TEST_CASE("kinematics as code: every link, tool and Jacobian is the library's") {
  const std::vector<Arm> arms = arms_in_code();
  const std::vector<WrittenArm> written = written_arms();
  REQUIRE(written.size() == arms.size());
  RandomStream random(3);
  for (std::size_t i = 0; i < arms.size(); ++i) {
    const Arm& arm = arms[i];
    INFO(arm.name());
    std::vector<Tool> tools = arm.tools();
    if (tools.empty()) tools.push_back(arm.end_tool());
    REQUIRE(written[i].joints.size() == static_cast<std::size_t>(arm.dof()));
    REQUIRE(written[i].links.size() == arm.links().size());
    REQUIRE(written[i].tools.size() == tools.size());
    for (int k = 0; k < arm.dof(); ++k)
      CHECK(written[i].joints[static_cast<std::size_t>(k)] == arm.moving_joint(k).name);
    for (std::size_t l = 0; l < arm.links().size(); ++l)
      CHECK(written[i].links[l] == arm.links()[l].name);

    double off = 0.0;
    for (int trial = 0; trial < 200; ++trial) {
      const Posture q = some_posture(random, arm);
      const std::vector<Pose> poses = link_poses(arm, q);
      Numbers frames(16 * poses.size());
      written[i].link_frames(q.data(), frames.data());
      for (std::size_t l = 0; l < poses.size(); ++l)
        off = std::max(off, farthest_off(&frames[16 * l], poses[l]));

      for (std::size_t t = 0; t < tools.size(); ++t) {
        const WrittenTool& tool = written[i].tools[t];
        Jacobian expected;
        const Pose tip = frame_jacobian(arm, poses, tools[t].link_index, tools[t].tip, expected);
        Numbers frame(16);
        tool.frame(q.data(), frame.data());
        off = std::max(off, farthest_off(frame.data(), tip));

        // One number more, which must be left alone.
        constexpr double kAlone = 12345.0;
        const auto size = static_cast<std::size_t>(expected.size());
        Numbers jacobian(size + 1, kAlone);
        Numbers again = jacobian;
        tool.jacobian(q.data(), frame.data(), jacobian.data());
        off = std::max(off, farthest_off(frame.data(), tip));
        Numbers all_frames(frames.size());
        tool.all(q.data(), all_frames.data(), frame.data(), again.data());
        off = std::max(off, farthest_off(frame.data(), tip));
        CHECK(all_frames == frames);
        CHECK(again == jacobian);
        CHECK(jacobian.back() == kAlone);
        for (std::size_t n = 0; n < size; ++n)
          off = std::max(off,
                         std::abs(jacobian[n] - expected.data()[n]) / (1.0 + tip.position.norm()));
      }
    }
    CHECK(off < 1e-14);
  }
}

TEST_CASE("kinematics as code: sines and cosines to the last bit or two") {
  namespace code = bracken_kinematics;
  RandomStream random(4);
  double off = 0.0;
  for (int trial = 0; trial < 100000; ++trial) {
    const double span = std::pow(10.0, random.uniform(-9.0, 6.0));
    const code::Four angle = {random.uniform(-span, span), -span,
                              std::numbers::pi / 4 * random.index(1000), 0.0};
    code::Four sine;
    code::Four cosine;
    code::lanes::sines_and_cosines(angle, sine, cosine);
    for (int k = 0; k < 4; ++k)
      off = std::max(
          {off, std::abs(sine[k] - std::sin(angle[k])), std::abs(cosine[k] - std::cos(angle[k]))});
  }
  CHECK(off < 2.3e-16);
}
