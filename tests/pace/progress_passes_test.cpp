// Progress over a grid in vector lanes, against the same one interval after the other.
#include "elbowroom/pace/progress_passes.hpp"

#include <catch2/catch.hpp>
#include <numeric>

#include "elbowroom/base/random.hpp"
#include "elbowroom/base/spline.hpp"
#include "elbowroom/pace/grid_pieces.hpp"
#include "elbowroom/pace/motion.hpp"
#include "support/instruction_sets.hpp"
#include "support/plain_time_optimal.hpp"
#include "support/sanitized.hpp"

using namespace er;
using namespace er::test;

namespace {

JointCurve random_spline(RandomStream& random, int joints, int knots) {
  std::vector<SplineKnot> through;
  for (int i = 0; i < knots; ++i)
    through.push_back(
        {random.between(Posture::Constant(joints, -1.0), Posture::Constant(joints, 1.0))});
  const std::vector<double> gaps(static_cast<std::size_t>(knots - 1), 1.0);
  return spline_through(through, gaps, SplineDegree::quintic, SplineEnds::natural);
}

PostureRows random_rows(RandomStream& random, Eigen::Index points, Eigen::Index columns) {
  PostureRows out(points, columns);
  for (Eigen::Index k = 0; k < columns; ++k) {
    // Waves, so that neighbours are alike, and go through zero.
    const double phase = random.uniform(0.0, 6.0);
    const double often = random.uniform(0.5, 12.0);
    const double most = std::pow(10.0, random.uniform(-2.0, 1.0));
    for (Eigen::Index i = 0; i < points; ++i)
      out(i, k) =
          most * std::sin(phase + often * static_cast<double>(i) / static_cast<double>(points));
  }
  return out;
}

}  // namespace

TEST_CASE("progress: in lanes as one interval after the other, on each instruction set") {
  RandomStream random(881);
  const int rounds = kSanitized ? 4 : 40;
  for (int n = 0; n < rounds; ++n) {
    const auto points = static_cast<Eigen::Index>(random.index(120)) + 2;
    const Eigen::Index joints = static_cast<Eigen::Index>(random.index(9)) + 1;
    const PostureRows growth = random_rows(random, points, joints);
    const PostureRows square = random_rows(random, points, joints);
    const PostureRows still = 0.03 * random_rows(random, points, joints);
    const PostureRows tool_growth = random_rows(random, points, 3);
    const PostureRows tool_square = random_rows(random, points, 3);
    std::vector<double> lengths;
    std::vector<double> most;
    for (Eigen::Index i = 0; i < points; ++i) {
      if (i > 0) lengths.push_back(random.uniform(0.5, 2.0) / static_cast<double>(points));
      most.push_back(std::pow(10.0, random.uniform(0.0, 2.0)));
    }
    GridLimits limits{lengths, most};
    for (Eigen::Index k = 0; k < joints; ++k)
      limits.linear.push_back({growth.col(k).data(), square.col(k).data(),
                               n % 2 == 0 ? nullptr : still.col(k).data(),
                               -random.uniform(0.5, 3.0), random.uniform(0.5, 3.0)});
    if (n % 3 == 0)
      limits.cones.push_back(
          {{tool_growth.col(0).data(), tool_growth.col(1).data(), tool_growth.col(2).data()},
           {tool_square.col(0).data(), tool_square.col(1).data(), tool_square.col(2).data()},
           2.0});
    const std::vector<double> plain = PlainProgress(limits).quickest();
    std::vector<double> first;
    on_each_instruction_set([&](const std::string& name) {
      INFO(name << ", round " << n << ", " << points << " points");
      std::vector<double> found;
      quickest_progress(limits, found);
      REQUIRE(found.size() == plain.size());
      for (std::size_t i = 0; i < found.size(); ++i)
        CHECK(found[i] == Approx(plain[i]).epsilon(1e-8).margin(1e-10));
      if (first.empty()) first = found;
      CHECK(found == first);
    });
  }
}

TEST_CASE("path grid: what the path has at its points, on each instruction set") {
  RandomStream random(882);
  const JointCurve path = random_spline(random, 5, 4);
  PathGrid first;
  on_each_instruction_set([&](const std::string& name) {
    INFO(name);
    const PathGrid grid = path_grid(path, {7, 1, 20});
    REQUIRE(grid.points() == 29);
    CHECK(grid.at[7] == Approx(path.pieces()[0].duration));
    CHECK(grid.at.back() == Approx(path.duration()));
    for (std::size_t i = 0; i < grid.points(); ++i) {
      const JointState state = path.at(grid.at[i]);
      const auto row = static_cast<Eigen::Index>(i);
      CHECK((grid.position.row(row).transpose() - state.position).norm() < 1e-13);
      CHECK((grid.slope.row(row).transpose() - state.velocity).norm() < 1e-12);
      CHECK((grid.curvature.row(row).transpose() - state.acceleration).norm() < 1e-11);
    }
    if (first.at.empty()) first = grid;
    CHECK(grid.slope == first.slope);
  });
}

TEST_CASE("grid pieces: the quintics between points, and their exact peaks") {
  RandomStream random(883);
  for (const int joints : {2, 7, 11}) {
    const JointCurve path = random_spline(random, joints, 4);
    const PathGrid grid = path_grid(path, {9, 14, 3});
    std::vector<double> x;
    for (std::size_t i = 0; i < grid.points(); ++i) x.push_back(random.uniform(0.5, 2.0));
    x.front() = x.back() = 0.0;
    const PacedGrid paced(grid, x);
    const PathLimits limits{.velocity = Posture::Constant(joints, 1.5),
                            .acceleration = Posture::Constant(joints, 4.0)};
    double needed = 0.0;
    std::vector<CurvePiece> first;
    on_each_instruction_set([&](const std::string& name) {
      INFO(name << ", " << joints << " joints");
      constexpr double kSlowed = 1.25;
      std::vector<CurvePiece> pieces;
      add_grid_pieces(paced, 0, 20, kSlowed, pieces);
      add_grid_pieces(paced, 20, grid.intervals(), kSlowed, pieces);
      REQUIRE(pieces.size() == grid.intervals());
      for (std::size_t i = 0; i < pieces.size(); ++i) {
        const auto row = static_cast<Eigen::Index>(i);
        for (Eigen::Index k = 0; k < joints; ++k) {
          const auto end = [&](Eigen::Index point) {
            const double speed = paced.speed[static_cast<std::size_t>(point)];
            const double slope = grid.slope(point, k);
            return EndValues{grid.position(point, k), speed * slope / kSlowed,
                             (paced.growth[i] * slope + speed * speed * grid.curvature(point, k)) /
                                 (kSlowed * kSlowed)};
          };
          const Quintic expected =
              quintic_between(end(row), end(row + 1), kSlowed * paced.duration[i]);
          const Quintic& found = pieces[i].joints[static_cast<std::size_t>(k)];
          for (std::size_t c = 0; c < 6; ++c)
            CHECK(found[c] == Approx(expected[c]).epsilon(1e-9).margin(1e-9));
        }
      }
      if (first.empty()) first = pieces;
      CHECK(std::equal(pieces.begin(), pieces.end(), first.begin(), first.end(),
                       [](const CurvePiece& a, const CurvePiece& b) {
                         return a.duration == b.duration && a.joints == b.joints;
                       }));
      const double stretch = stretch_to_keep(paced, limits, {});
      std::vector<CurvePiece> as_is;
      add_grid_pieces(paced, 0, grid.intervals(), 1.0, as_is);
      Limits own;
      own.velocity = limits.velocity;
      own.acceleration = limits.acceleration;
      own.jerk = Posture::Constant(joints, std::numeric_limits<double>::infinity());
      const MotionPeaks peaks = peaks_of(Motion(as_is), own);
      CHECK(stretch == Approx(std::max(peaks.velocity.share, std::sqrt(peaks.acceleration.share)))
                           .epsilon(1e-9));
      needed = stretch;
    });
    // Where intervals are not looked at, only the peaks of others and what is at the ends count.
    std::vector<std::size_t> all(grid.intervals());
    std::iota(all.begin(), all.end(), std::size_t{0});
    CHECK(stretch_to_keep(paced, limits, all) <= needed * (1 + 1e-12));
  }
}
