// Hundreds of places at once, on all cores: which of a grid over the bench can the tip touch from
// above, and why not the others?
#include <fmt/format.h>
#include <elbowroom/reach/reach.hpp>
#include <map>

#include "desk_arm.hpp"

int main() {
  const er::Body post{
      .name = "post", .at = er::Pose::at({0.3, 0.25, 0.2}), .parts = {{er::Cylinder{0.02, 0.4}}}};
  const er::CellQuery query(er::Cell::build({.arms = {desk_arm()}, .fixtures = {post}}),
                            "desk_arm");

  constexpr int kColumns = 24;
  constexpr int kRows = 12;
  std::vector<er::Target> targets;
  for (int row = 0; row < kRows; ++row)
    for (int column = 0; column < kColumns; ++column) {
      const er::Vector3 place(0.06 * (row + 1), 0.06 * (column - 11.5), 0.15);
      // The tip at the place, leaning as it likes: all that the arm needs to touch it.
      er::Target target;
      target.require(
          {.of = "tip", .holds = er::AtPlace{.at = er::Pose::at(place), .tilt = er::kAnyTilt}});
      targets.push_back(std::move(target));
    }

  const auto found = er::reach_all(query, targets, {.starts = 20, .find_remedies = false});
  fmt::print("# can be touched, x only in collision, . out of reach\n");
  std::map<er::Cause, int> why_not;
  for (int row = kRows - 1; row >= 0; --row) {
    for (int column = 0; column < kColumns; ++column) {
      const auto& one = found[static_cast<std::size_t>(row * kColumns + column)];
      fmt::print("{}", one ? '#' : one.reason().cause == er::Cause::in_collision ? 'x' : '.');
      if (!one) ++why_not[one.reason().cause];
    }
    fmt::print("\n");
  }
  for (const auto& [cause, count] : why_not) fmt::print("{}: {}\n", er::name_of(cause), count);
}
