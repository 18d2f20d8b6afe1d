// Every kind of requirement, each in the ways it can be put: made from a posture that does it, and
// looked for from spread starts.
#include <catch2/catch.hpp>
#include <functional>

#include "elbowroom/base/random.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/reach/side_by_side.hpp"
#include "support/sanitized.hpp"

using namespace er;

namespace {

constexpr double kRightAngle = 1.5707963267948966;
constexpr int kStarts = 48;
const Band kFree = Band::free();

using Kind = std::pair<const char*, std::function<decltype(Requirement::holds)(const Pose&)>>;

// Where the tip would be, were it further along its own z.
Pose ahead(const Pose& tip, double by) {
  return {tip.rotation, tip.position + by * tip.rotation.col(2)};
}
Pose turned_back(const Pose& tip, double by) {
  return {tip.rotation * rotation_about(Vector3::UnitZ(), -by), tip.position};
}
Vector3 beside(const Pose& tip) { return tip.position + Vector3(0.1, -0.15, 0.05); }
double away(const Pose& tip) { return (beside(tip) - tip.position).norm(); }
Band at_least(double lower) { return {lower, kFree.upper}; }

std::vector<Kind> places() {
  const auto with = [](auto change) {
    return [change](const Pose& tip) {
      AtPlace place{.at = tip};
      change(place);
      return place;
    };
  };
  const auto any_way = [](AtPlace& place) {
    place.turn = kFree;
    place.tilt = kAnyTilt;
  };
  return {
      {"full", with([](AtPlace&) {})},
      {"turn free", with([](AtPlace& p) { p.turn = kFree; })},
      {"turn free about x", with([](AtPlace& p) {
         p.axis = Vector3::UnitX();
         p.turn = kFree;
       })},
      {"turned", with([](AtPlace& p) {
         p.at = turned_back(p.at, 1.0);
         p.turn = Band::exactly(1.0);
       })},
      {"turn in a band", with([](AtPlace& p) {
         p.at = turned_back(p.at, 1.0);
         p.turn = {0.8, 1.2};
       })},
      {"tilt", with([](AtPlace& p) { p.tilt = 0.17; })},
      {"tilt, turn free", with([](AtPlace& p) {
         p.turn = kFree;
         p.tilt = 0.17;
       })},
      {"any way", with(any_way)},
      {"any way, turn as it is", with([](AtPlace& p) { p.tilt = kAnyTilt; })},
      {"any way, x free", with([=](AtPlace& p) {
         any_way(p);
         p.along[0] = kFree;
       })},
      {"offsets", with([](AtPlace& p) {
         p.along = {{{-0.02, 0.03}, {-0.01, 0.01}, {-0.05, 0.0}}};
       })},
      {"orientation alone", with([](AtPlace& p) {
         p.along = {kFree, kFree, kFree};
       })},
      {"standoff", with([](AtPlace& p) {
         p.at = ahead(p.at, 0.05);
         p.standoff = Band::exactly(0.05);
       })},
      {"standoff in a band", with([](AtPlace& p) {
         p.at = ahead(p.at, 0.05);
         p.standoff = {0.02, 0.08};
       })},
      {"standoff, any way", with([=](AtPlace& p) {
         any_way(p);
         p.at = ahead(p.at, 0.05);
         p.standoff = Band::exactly(0.05);
       })},
  };
}

std::vector<Kind> other_kinds() {
  return {
      {"direction", [](const Pose& tip) { return InDirection{.along = tip.rotation.col(2)}; }},
      {"direction, nearly",
       [](const Pose& tip) {
         return InDirection{.along = tip.rotation.col(2), .angle = {0.0, 0.1}};
       }},
      {"direction at right angles",
       [](const Pose& tip) {
         return InDirection{.along = tip.rotation.col(0), .angle = Band::exactly(kRightAngle)};
       }},
      {"direction, opposite",
       [](const Pose& tip) {
         return InDirection{.along = -tip.rotation.col(2),
                            .angle = Band::exactly(2.0 * kRightAngle)};
       }},
      {"pointing at",
       [](const Pose& tip) {
         return InDirection{.at_point = true, .point = ahead(tip, 0.3).position};
       }},
      {"distance",
       [](const Pose& tip) {
         return AtDistance{beside(tip), Band::exactly(away(tip))};
       }},
      {"distance in a band",
       [](const Pose& tip) {
         return AtDistance{beside(tip), {0.9 * away(tip), 1.1 * away(tip)}};
       }},
      {"distance at least",
       [](const Pose& tip) {
         return AtDistance{beside(tip), at_least(0.9 * away(tip))};
       }},
      {"no distance at all",
       [](const Pose& tip) {
         return AtDistance{tip.position, Band::exactly(0.0)};
       }},
      {"a small distance",
       [](const Pose& tip) {
         return AtDistance{tip.position + Vector3(1e-4, 0, 0), Band::exactly(1e-4)};
       }},
      {"within a millimetre",
       [](const Pose& tip) {
         return AtDistance{tip.position + Vector3(0, 1e-4, 0), {0.0, 1e-3}};
       }},
      {"room",
       [](const Pose& tip) {
         const Band side{-0.05, 0.05};
         return InRoom{.at = Pose::at(tip.position), .along = {side, side, side}};
       }},
      {"room with open sides",
       [](const Pose& tip) {
         return InRoom{.at = Pose::at(tip.position),
                       .along = {at_least(-0.02), kFree, {-0.05, 0.05}}};
       }},
      {"sight",
       [](const Pose& tip) {
         return InSight{.points = {ahead(tip, 0.3).position},
                        .normal = -tip.rotation.col(2),
                        .cone = 0.2,
                        .range = {0.25, 0.35},
                        .incidence = 0.4};
       }},
      {"a narrow view",
       [](const Pose& tip) { return InSight{.points = {ahead(tip, 0.3).position}, .cone = 0.01}; }},
  };
}

}  // namespace

TEST_CASE("every kind of requirement is met from many starts, where a posture does it") {
  std::vector<Kind> kinds = places();
  for (Kind& kind : other_kinds()) kinds.push_back(std::move(kind));
  for (const char* file : {"/glaze.cell.yaml", "/bracken.cell.yaml", "/sedge.cell.yaml"}) {
    const Cell cell = load_cell(std::string(DEMO_DIR) + file);
    const Arm& arm = cell.arm("");
    RandomStream random(5);
    for (const auto& [name, holds] : kinds) {
      const int postures = test::kSanitized ? 2 : 12;
      std::size_t met = 0;
      for (int i = 0; i < postures; ++i) {
        const Posture q = random.between(arm.limits().lower, arm.limits().upper);
        INFO(file << ", " << name << ", posture " << i);
        Target target;
        target.require({.holds = holds(tool_pose(arm, arm.tool(""), q))});
        const TargetOnArm on_arm(arm, target);
        CHECK(on_arm.is_met(q));
        const std::vector<Posture> found = postures_from_starts(on_arm, kStarts);
        CHECK_FALSE(found.empty());
        met += found.size();
        for (const Posture& posture : found) {
          CHECK(on_arm.is_met(posture));
          CHECK((posture.array() >= arm.limits().lower.array()).all());
          CHECK((posture.array() <= arm.limits().upper.array()).all());
        }
      }
      INFO(file << ", " << name);
      CHECK(met > static_cast<std::size_t>(postures * kStarts / 6));
    }
  }
}
