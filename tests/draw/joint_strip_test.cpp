#include "elbowroom/draw/joint_strip.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "support/cells.hpp"

using namespace er;

namespace {

// How many pixels of a part of an image look like the orange of the moving mark.
int orange(const Image& image, int left, int right, int top, int bottom) {
  int count = 0;
  for (int y = top; y < bottom; ++y)
    for (int x = left; x < right; ++x) {
      const auto at = 3 * static_cast<std::size_t>(y * image.width + x);
      const int r = image.rgb[at], g = image.rgb[at + 1], b = image.rgb[at + 2];
      count += r > 150 && g > r / 4 && g < 2 * r / 3 && b < r / 3 ? 1 : 0;
    }
  return count;
}

}  // namespace

TEST_CASE("a strip shows a joint at even steps over its range, with a mark in every tile") {
  const Arm arm = test::planar_arm();
  const Strip strip =
      joint_strip(arm, 1, test::values({0.2, 0.0}), {.width = 1200, .height = 800, .tiles = 4});
  CHECK(strip.image.width == 1200);
  CHECK(strip.image.height == 800);
  REQUIRE(strip.postures.size() == 4);
  CHECK(strip.postures[0][1] == -3.0);
  CHECK(strip.postures[1][1] == Approx(-1.0));
  CHECK(strip.postures[3][1] == 3.0);
  CHECK(strip.postures[2][0] == 0.2);
  for (int i = 0; i < 4; ++i) {
    const int left = (i % 2) * 600;
    const int top = (i / 2) * 400;
    CHECK(orange(strip.image, left, left + 600, top, top + 400) > 3);
  }
  // The same place in two tiles does not show the same.
  bool differs = false;
  for (int y = 0; y < 399; ++y)
    for (int x = 0; x < 599; ++x)
      differs |= strip.image.rgb[3 * static_cast<std::size_t>(y * 1200 + x)] !=
                 strip.image.rgb[3 * static_cast<std::size_t>(y * 1200 + x + 600)];
  CHECK(differs);
}

TEST_CASE("random postures are within the ranges and the same for a seed") {
  const Arm arm = test::planar_arm();
  const StripOptions small{.width = 120, .height = 40, .tiles = 3};
  const Strip a = random_strip(arm, 5, small);
  const Strip b = random_strip(arm, 5, small);
  CHECK(a.image.rgb == b.image.rgb);
  for (const Posture& q : a.postures) CHECK(arm.limit_breach(q).empty());
  CHECK_THROWS_AS(random_strip(arm, 5, {.tiles = 1}), InputError);
}
