// Arms of every make follow what their own joints drew: within limits, as far off as they say, and
// to the end where they get there.
#include <algorithm>
#include <catch2/catch.hpp>
#include <optional>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/follow/follow.hpp"
#include "support/any_arm.hpp"
#include "support/sanitized.hpp"
#include "support/step_shares.hpp"

using namespace er;

namespace {

// The joints' straight line from rest to rest, recorded as poses; nothing where the tool turns too
// far between two of them.
std::optional<PosePath> drawn(const Arm& arm, const Posture& from, const Posture& to) {
  constexpr int kPoses = 400;
  const double slowest = ((to - from).array().abs() / arm.limits().velocity.array()).maxCoeff();
  std::vector<double> times;
  std::vector<Pose> poses;
  for (int i = 0; i <= kPoses; ++i) {
    const double u = static_cast<double>(i) / kPoses;
    const double share = u * u * u * (10 - 15 * u + 6 * u * u);
    times.push_back(u * std::max(2.0, 8.0 * slowest));
    poses.push_back(tool_pose(arm, arm.tool("tip"), from + share * (to - from)));
  }
  try {
    return PosePath(times, poses);
  } catch (const InputError&) {
    return std::nullopt;
  }
}

}  // namespace

TEST_CASE("any arm: follows what its joints drew, within limits, and stops only short of the end") {
  RandomStream random(2);
  int followed = 0, asked = 0;
  const int rounds = test::kSanitized ? 6 : 90;
  for (int n = 0; n < rounds; ++n) {
    const int joints = 3 + n % 6;
    INFO("round " << n << ", " << joints << " joints");
    const CellQuery query(Cell::build({.arms = {test::some_arm(random, joints)}}), "any");
    const Arm& arm = query.arm();
    const Posture from = random.between(arm.limits().lower, arm.limits().upper);
    const Posture other = random.between(arm.limits().lower, arm.limits().upper);
    const auto path = drawn(arm, from, 0.5 * (from + other));
    if (!path) continue;
    const Following f = follow(query, arm.tool("tip"), *path, from);
    ++asked;
    test::check_within_limits(test::step_shares(arm, f.samples));
    double off = 0.0;
    for (const FollowSample& sample : f.samples)
      off = std::max(off, (tool_pose(arm, arm.tool("tip"), sample.posture).position -
                           path->at(sample.path_time).position)
                              .norm());
    CHECK(f.worst_off == Approx(off).margin(1e-9));
    if (f.no) {
      CHECK(f.followed < 0.999 * path->duration());
      continue;
    }
    ++followed;
    CHECK(off < 1e-4);
  }
  CHECK(followed > 0.9 * asked);
}
