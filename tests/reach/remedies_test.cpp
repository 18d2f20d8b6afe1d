// What a no says would do, done as it is told, by someone who reads the line and nothing else.
#include <catch2/catch.hpp>
#include <cstdio>
#include <map>

#include "elbowroom/base/units.hpp"
#include "elbowroom/reach/reach.hpp"
#include "support/demo.hpp"
#include "support/sanitized.hpp"

using namespace er;

namespace {

struct Asked {
  Vector3 position;
  Vector3 rpy;
  double clearance;

  [[nodiscard]] bool is_reached(const CellQuery& query) const {
    Target target;
    target.place(query.arm().tools().front().name,
                 {rotation_from_rpy(rpy.x(), rpy.y(), rpy.z()), position});
    return static_cast<bool>(reach(query, target, {.clearance = clearance}));
  }
};

// What kind it is, once it has been done; fails where that is not enough.
std::string do_as_told(const CellQuery& query, Asked asked, const std::string& told) {
  INFO(told);
  Vector3 v;
  Vector3 rpy;
  int whole = 0;
  double length = 0.0;
  char way[8];
  const int figures = std::sscanf(
      told.c_str(), "move the target by [%lf, %lf, %lf] mm and turn it to rpy [%lf, %lf, %lf] deg",
      &v[0], &v[1], &v[2], &rpy[0], &rpy[1], &rpy[2]);
  if (figures >= 3) {
    asked.position += 1e-3 * v;
    if (figures == 6) asked.rpy = rpy / to_deg(1.0);
    REQUIRE(asked.is_reached(query));
    return figures == 6 ? "both" : "move";
  }
  if (std::sscanf(told.c_str(), "turn the target by %d deg, to rpy [%lf, %lf, %lf] deg", &whole,
                  &v[0], &v[1], &v[2]) == 4) {
    const Matrix3 before = rotation_from_rpy(asked.rpy.x(), asked.rpy.y(), asked.rpy.z());
    asked.rpy = v / to_deg(1.0);
    const Matrix3 after = rotation_from_rpy(asked.rpy.x(), asked.rpy.y(), asked.rpy.z());
    CHECK(to_deg(rotation_vector(after * before.transpose()).norm()) == Approx(whole).margin(0.2));
    REQUIRE(asked.is_reached(query));
    return "turn";
  }
  if (std::sscanf(told.c_str(), "%7s the arm's mount by %lf mm", way, &length) == 2) {
    const double up = std::string(way) == "lift" ? 1e-3 * length : -1e-3 * length;
    Pose mount = query.arm().mount();
    mount.position.z() += up;
    REQUIRE(asked.is_reached(query.with_arm(query.arm().mounted_at(mount))));
    return "mount";
  }
  char name[32];
  REQUIRE(std::sscanf(told.c_str(), "make tool %31s %lf mm longer", name, &length) == 2);
  ArmDescription longer = query.arm().description();
  Tool& tool = longer.tools.front();
  REQUIRE(tool.name == name);
  tool.tip.position += 1e-3 * length * tool.tip.rotation.col(2);
  REQUIRE(asked.is_reached(query.with_arm(Arm::build(std::move(longer)))));
  return "tool";
}

}  // namespace

TEST_CASE("every remedy of a no does it, done as it is told") {
  const CellQuery query(test::demo_cell(), "teasel");
  RandomStream random(8);
  std::map<std::string, int> done;
  std::map<Cause, int> causes;
  const int rounds = test::kSanitized ? 8 : 100;
  for (int n = 0; n < rounds; ++n) {
    const bool any_way = random.index(2) == 0;
    const Asked asked{
        {random.uniform(-1.0, 1.1), random.uniform(-1.0, 1.0), random.uniform(0.0, 1.5)},
        any_way ? Vector3(random.uniform(-3, 3), random.uniform(-1.5, 1.5), random.uniform(-3, 3))
                : Vector3(3.1415926535897931 - 0.4 * random.index(3), 0, random.uniform(-3, 3)),
        0.01 * random.index(3)};
    Target target;
    target.place("grip",
                 {rotation_from_rpy(asked.rpy.x(), asked.rpy.y(), asked.rpy.z()), asked.position});
    const auto found = reach(query, target, {.clearance = asked.clearance});
    if (found) continue;
    ++causes[found.reason().cause];
    for (const Remedy& remedy : found.reason().remedies)
      ++done[do_as_told(query, asked, remedy.text)];
  }
  if (test::kSanitized) return;
  for (const Cause cause :
       {Cause::in_collision, Cause::beyond_limits, Cause::orientation, Cause::out_of_reach})
    CHECK(causes[cause] > 1);
  for (const char* kind : {"move", "turn", "both", "mount", "tool"}) CHECK(done[kind] > 1);
}
