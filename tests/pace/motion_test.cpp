#include "elbowroom/pace/motion.hpp"

#include <catch2/catch.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/pace/pace.hpp"
#include "support/cells.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

Motion some_motion() {
  return pace({values({0, 0}), values({1.0, 0.5}), values({-0.3, 0.2})}, planar_arm(),
              {.profile = Profile::jerk_limited})
      ->motion;
}

}  // namespace

TEST_CASE("motions: back, cut, joined again, slowed and resampled are what they say") {
  const Motion motion = some_motion();
  const double end = motion.duration();
  const Motion back = motion.reversed();
  const Motion slow = motion.stretched(2.0);
  const Motion again = motion.cut(0.0, 0.3 * end).then(motion.cut(0.3 * end, end));
  const Motion fine = resampled(motion, 1000.0);
  CHECK(again.duration() == Approx(end));
  CHECK(fine.duration() == Approx(end));
  for (int i = 0; i <= 100; ++i) {
    const double t = end * i / 100;
    const JointState a = motion.at(t);
    const JointState b = back.at(end - t);
    CHECK((a.position - b.position).norm() < 1e-12);
    CHECK((a.velocity + b.velocity).norm() < 1e-10);
    CHECK((a.position - again.at(t).position).norm() < 1e-12);
    CHECK((a.velocity - again.at(t).velocity).norm() < 1e-10);
    CHECK((a.position - slow.at(2 * t).position).norm() < 1e-12);
    CHECK((a.velocity - 2 * slow.at(2 * t).velocity).norm() < 1e-10);
    CHECK((a.position - fine.at(t).position).norm() < 1e-7);
  }
  CHECK((motion.cut(0.2, 0.5).at(0.1).position - motion.at(0.3).position).norm() < 1e-12);
  CHECK_THROWS_WITH(motion.cut(0.5, 0.2), Contains("cannot be cut from 0.5 to 0.2"));
  CHECK_THROWS_WITH(motion.cut(0.0, 2 * end), Contains("cannot be cut"));
  CHECK_THROWS_WITH(resampled(motion, 0.0), Contains("no sensible motion"));
}

TEST_CASE("polynomials: the first moment beyond a level") {
  // 3 t - t^2: above 2 between 1 and 2.
  CHECK(first_beyond({0.0, 3.0, -1.0, 0.0, 0.0, 0.0}, 3.0, 2.0) == Approx(1.0));
  CHECK(first_beyond({0.0, -3.0, 1.0, 0.0, 0.0, 0.0}, 3.0, 2.0) == Approx(1.0));
  CHECK(first_beyond({0.0, 3.0, -1.0, 0.0, 0.0, 0.0}, 0.9, 2.0) > 0.9);
  CHECK(first_beyond({5.0, 0.0, 0.0, 0.0, 0.0, 0.0}, 1.0, 2.0) == 0.0);
  // Touches 2.25 at 1.5, and goes no further.
  CHECK(first_beyond({0.0, 3.0, -1.0, 0.0, 0.0, 0.0}, 3.0, 2.25) > 3.0);
}
