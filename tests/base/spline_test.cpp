#include "elbowroom/base/spline.hpp"

#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/random.hpp"
#include "support/cells.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

double derivative(const CurvePiece& piece, std::size_t joint, bool at_end, int order) {
  // By hand, from the coefficients.
  double sum = 0.0;
  const double t = at_end ? piece.duration : 0.0;
  for (int power = order; power <= 5; ++power) {
    double term = piece.joints[joint][static_cast<std::size_t>(power)];
    for (int k = 0; k < order; ++k) term *= power - k;
    sum += term * std::pow(t, power - order);
  }
  return sum;
}

struct Way {
  std::vector<SplineKnot> knots;
  std::vector<double> gaps;
};

Way random_way(RandomStream& random, std::size_t count) {
  Way way;
  for (std::size_t i = 0; i < count; ++i) {
    way.knots.push_back({values({random.uniform(-2.0, 2.0), random.uniform(-2.0, 2.0)})});
    if (i > 0) way.gaps.push_back(random.uniform(0.2, 2.0));
  }
  return way;
}

}  // namespace

TEST_CASE(
    "splines of both degrees go through their knots as smoothly as they can, whatever their ends") {
  RandomStream random(31);
  for (const SplineDegree degree : {SplineDegree::cubic, SplineDegree::quintic})
    for (const SplineEnds ends : {SplineEnds::clamped, SplineEnds::natural, SplineEnds::periodic})
      for (const std::size_t count : {2U, 3U, 4U, 9U}) {
        Way way = random_way(random, count);
        if (ends == SplineEnds::periodic) way.knots.back() = way.knots.front();
        const JointCurve curve = spline_through(way.knots, way.gaps, degree, ends);
        const auto& pieces = curve.pieces();
        REQUIRE(pieces.size() + 1 == count);
        const int smooth = degree == SplineDegree::cubic ? 2 : 4;
        for (std::size_t joint = 0; joint < 2; ++joint) {
          for (std::size_t i = 0; i + 1 < count; ++i) {
            const auto k = static_cast<Eigen::Index>(joint);
            CHECK(derivative(pieces[i], joint, false, 0) ==
                  Approx(way.knots[i].position[k]).margin(1e-9));
            CHECK(derivative(pieces[i], joint, true, 0) ==
                  Approx(way.knots[i + 1].position[k]).margin(1e-9));
            for (int order = 1; order <= smooth && i + 2 < count; ++order)
              CHECK(derivative(pieces[i], joint, true, order) ==
                    Approx(derivative(pieces[i + 1], joint, false, order))
                        .epsilon(1e-7)
                        .margin(1e-6));
          }
          const auto at_ends = [&](int order) {
            return std::pair{derivative(pieces.front(), joint, false, order),
                             derivative(pieces.back(), joint, true, order)};
          };
          if (ends == SplineEnds::periodic) {
            for (int order = 1; order <= smooth; ++order)
              CHECK(at_ends(order).first ==
                    Approx(at_ends(order).second).epsilon(1e-7).margin(1e-6));
            continue;
          }
          std::vector<int> zero{1, 2};
          if (degree == SplineDegree::cubic)
            zero = {ends == SplineEnds::clamped ? 1 : 2};
          else if (ends == SplineEnds::natural)
            zero = {3, 4};
          for (const int order : zero) {
            CHECK(std::abs(at_ends(order).first) < 1e-7);
            CHECK(std::abs(at_ends(order).second) < 1e-7);
          }
        }
      }
}

TEST_CASE("what is given at a knot is kept, and costs smoothness there alone") {
  RandomStream random(32);
  Way way = random_way(random, 4);
  way.knots[1].velocity = values({0.7, -0.3});
  const JointCurve cubic =
      spline_through(way.knots, way.gaps, SplineDegree::cubic, SplineEnds::clamped);
  CHECK(derivative(cubic.pieces()[1], 0, false, 1) == Approx(0.7));
  CHECK(derivative(cubic.pieces()[0], 1, true, 1) == Approx(-0.3));
  CHECK(derivative(cubic.pieces()[1], 0, true, 2) ==
        Approx(derivative(cubic.pieces()[2], 0, false, 2)));
  CHECK(derivative(cubic.pieces()[0], 0, true, 2) !=
        Approx(derivative(cubic.pieces()[1], 0, false, 2)));
  way.knots[2].acceleration = values({1.1, 0.0});
  way.knots[0].velocity = values({0.2, 0.0});
  const JointCurve quintic =
      spline_through(way.knots, way.gaps, SplineDegree::quintic, SplineEnds::natural);
  CHECK(derivative(quintic.pieces()[0], 0, false, 1) == Approx(0.2));
  CHECK(derivative(quintic.pieces()[2], 0, false, 2) == Approx(1.1));
  CHECK(derivative(quintic.pieces()[0], 0, true, 3) ==
        Approx(derivative(quintic.pieces()[1], 0, false, 3)).epsilon(1e-8));
  CHECK(derivative(quintic.pieces()[1], 0, true, 4) ==
        Approx(derivative(quintic.pieces()[2], 0, false, 4)).epsilon(1e-8));
}

TEST_CASE("of all curves through the knots the natural cubic spline bends least") {
  // The integral of the square of acceleration is least (Holladay, 1957): adding any bump that
  // vanishes at the knots makes it larger.
  RandomStream random(33);
  const Way way = random_way(random, 5);
  const JointCurve curve =
      spline_through(way.knots, way.gaps, SplineDegree::cubic, SplineEnds::natural);
  const auto bending = [&](double bump) {
    double sum = 0.0;
    for (const CurvePiece& piece : curve.pieces())
      for (int i = 0; i < 2000; ++i) {
        const double t = piece.duration * (i + 0.5) / 2000;
        const double turn = M_PI / piece.duration;  // of a bump sin(turn t)^2
        const double added = 2.0 * bump * turn * turn * std::cos(2.0 * turn * t);
        sum += std::pow(value_at(piece.joints[0], t, 2) + added, 2) * piece.duration / 2000;
      }
    return sum;
  };
  CHECK(bending(0.01) > bending(0.0));
  CHECK(bending(-0.01) > bending(0.0));
}

TEST_CASE("splines that cannot be are refused") {
  const std::vector<SplineKnot> two{{values({0.0})}, {values({1.0})}};
  const auto spline = [&](const std::vector<SplineKnot>& knots, const std::vector<double>& gaps,
                          SplineEnds ends = SplineEnds::clamped) {
    return spline_through(knots, gaps, SplineDegree::cubic, ends);
  };
  CHECK_THROWS_WITH(spline({two[0]}, {}), Contains("at least two knots"));
  CHECK_THROWS_WITH(spline(two, {0.0}), Contains("more than zero, found 0"));
  CHECK_THROWS_WITH(spline(two, {NAN}), Contains("more than zero"));
  CHECK_THROWS_WITH(spline(two, {1.0}, SplineEnds::periodic),
                    Contains("the last knot is not the first"));
  std::vector<SplineKnot> bent = two;
  bent[0].acceleration = values({0.0});
  CHECK_THROWS_WITH(spline(bent, {1.0}), Contains("a cubic cannot be given an acceleration"));
}

namespace {

JointCurve clamped_cubic(const std::vector<Posture>& postures, double step) {
  std::vector<SplineKnot> knots;
  for (const Posture& posture : postures) knots.push_back({posture});
  return spline_through(knots, std::vector<double>(postures.size() - 1, step), SplineDegree::cubic,
                        SplineEnds::clamped);
}

}  // namespace

TEST_CASE("a spline passes its knots, smooth to the second derivative, at rest at the ends") {
  RandomStream random(7);
  std::vector<Posture> knots;
  for (int i = 0; i < 9; ++i)
    knots.push_back(values({random.uniform(-1, 1), random.uniform(-1, 1)}));
  const double h = 0.25;
  const JointCurve curve = clamped_cubic(knots, h);
  CHECK(curve.duration() == Approx(2.0));
  CHECK(curve.at(0.0).velocity.norm() < 1e-14);
  CHECK(curve.at(2.0).velocity.norm() < 1e-12);
  for (std::size_t i = 0; i < knots.size(); ++i)
    CHECK((curve.at(h * static_cast<double>(i)).position - knots[i]).norm() < 1e-12);
  for (std::size_t i = 0; i + 1 < curve.pieces().size(); ++i)
    for (std::size_t k = 0; k < 2; ++k)
      for (int order = 0; order <= 2; ++order)
        CHECK(value_at(curve.pieces()[i].joints[k], h, order) ==
              Approx(value_at(curve.pieces()[i + 1].joints[k], 0.0, order)).margin(1e-10));
}

TEST_CASE("the clamped spline of a cubic with flat ends is that cubic") {
  // 3 t^2 - 2 t^3 is flat at 0 and 1.
  std::vector<Posture> knots;
  for (int i = 0; i <= 5; ++i) {
    const double t = i / 5.0;
    knots.push_back(values({3 * t * t - 2 * t * t * t}));
  }
  const JointCurve curve = clamped_cubic(knots, 0.2);
  for (double t = 0.0; t <= 1.0; t += 0.013)
    CHECK(curve.at(t).position[0] == Approx(3 * t * t - 2 * t * t * t).margin(1e-13));
}
