#include "elbowroom/follow/velocity_step.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/follow/joint_box.hpp"
#include "elbowroom/follow/tracked_tool.hpp"
#include "support/allocations.hpp"
#include "support/cells.hpp"

namespace er {
namespace {

StepQuestion random_question(RandomStream& random, int joints, int rows) {
  StepQuestion q;
  q.joints = joints;
  q.rows = rows;
  q.lower.resize(joints);
  q.upper.resize(joints);
  q.unit.resize(joints);
  q.wish.resize(joints);
  for (std::size_t i = 0; i < static_cast<std::size_t>(rows); ++i) {
    for (std::size_t k = 0; k < static_cast<std::size_t>(joints); ++k)
      q.jacobian[i][k] = random.uniform(-1, 1);
    q.command[i] = random.uniform(-1, 1);
    q.correction[i] = random.uniform(-0.01, 0.01);
  }
  for (int k = 0; k < joints; ++k) {
    const bool moving = random.index(4) == 0;  // braking: zero is out of the box
    q.lower[k] = moving ? random.uniform(0.0, 0.05) : random.uniform(-1.5, -0.1);
    q.upper[k] = q.lower[k] + random.uniform(0.1, 1.5);
    q.unit[k] = random.uniform(0.5, 4.0);
    q.wish[k] = random.uniform(-1, 1);
  }
  return q;
}

// The linear programme by brute force: the best of all corners of {(y, scale)}: as many sides of
// the box as there are unknowns are taken to be met exactly. -1 where nothing keeps the direction.
double best_corner(const StepQuestion& q) {
  Eigen::MatrixXd j(q.rows, q.joints);
  Eigen::VectorXd command(q.rows);
  Eigen::VectorXd correction(q.rows);
  for (int i = 0; i < q.rows; ++i) {
    const auto r = static_cast<std::size_t>(i);
    for (int k = 0; k < q.joints; ++k) j(i, k) = q.jacobian[r][static_cast<std::size_t>(k)];
    command[i] = q.command[r];
    correction[i] = q.correction[r];
  }
  const Eigen::JacobiSVD<Eigen::MatrixXd> svd(j, Eigen::ComputeFullU | Eigen::ComputeFullV);
  const int free = q.joints - q.rows;
  Eigen::MatrixXd sides(q.joints + 1, free + 1);  // u = sides * (y, scale) + fixed; then scale
  sides.topLeftCorner(q.joints, free) = svd.matrixV().rightCols(free);
  sides.col(free).head(q.joints) = svd.solve(command);
  sides.row(q.joints).setZero();
  sides(q.joints, free) = 1.0;
  Eigen::VectorXd fixed = Eigen::VectorXd::Zero(q.joints + 1);
  fixed.head(q.joints) = svd.solve(correction);
  const auto side = [&](int row, bool up) {
    if (row == q.joints) return up ? q.most_scale : 0.0;
    return (up ? q.upper[row] : q.lower[row]) - fixed[row];
  };
  double best = -1.0;
  std::vector<bool> chosen(static_cast<std::size_t>(q.joints + 1), false);
  std::fill_n(chosen.begin(), free + 1, true);
  do {
    std::vector<int> rows;
    for (int k = 0; k <= q.joints; ++k)
      if (chosen[static_cast<std::size_t>(k)]) rows.push_back(k);
    Eigen::MatrixXd square(free + 1, free + 1);
    for (int i = 0; i <= free; ++i) square.row(i) = sides.row(rows[static_cast<std::size_t>(i)]);
    const Eigen::FullPivLU<Eigen::MatrixXd> lu(square);
    if (!lu.isInvertible()) continue;
    for (int mask = 0; mask < (1 << (free + 1)); ++mask) {
      Eigen::VectorXd right(free + 1);
      for (int i = 0; i <= free; ++i)
        right[i] = side(rows[static_cast<std::size_t>(i)], ((mask >> i) & 1) != 0);
      const Eigen::VectorXd z = lu.solve(right);
      bool inside = true;
      for (int k = 0; k <= q.joints; ++k) {
        const double v = sides.row(k).dot(z);
        inside = inside && v <= side(k, true) + 1e-10 && v >= side(k, false) - 1e-10;
      }
      if (inside) best = std::max(best, z[free]);
    }
  } while (std::prev_permutation(chosen.begin(), chosen.end()));
  return best;
}

double row_error(const StepQuestion& q, const StepAnswer& a) {
  double most = 0.0;
  for (std::size_t i = 0; i < static_cast<std::size_t>(q.rows); ++i) {
    double sum = -a.scale * q.command[i] - q.correction[i];
    for (int k = 0; k < q.joints; ++k)
      sum += q.jacobian[i][static_cast<std::size_t>(k)] * a.velocity[k];
    most = std::max(most, std::abs(sum));
  }
  return most;
}

TEST_CASE("velocity step: the scale is that of a linear programme solved by brute force") {
  RandomStream random(21);
  int slowed = 0;
  int off = 0;
  for (const auto& [joints, rows] :
       std::vector<std::pair<int, int>>{{6, 6}, {7, 6}, {7, 5}, {6, 3}})
    for (int round = 0; round < 60; ++round) {
      const StepQuestion q = random_question(random, joints, rows);
      StepAnswer a;
      velocity_step(q, FollowMode::limited, a);
      CAPTURE(joints, rows, round);
      for (int k = 0; k < joints; ++k) {
        CHECK(a.velocity[k] <= q.upper[k]);
        CHECK(a.velocity[k] >= q.lower[k]);
      }
      const double best = best_corner(q);
      REQUIRE(a.on_course == (best >= 0.0));
      if (!a.on_course) {
        ++off;
        continue;
      }
      CHECK(a.scale == Approx(best).margin(1e-9));
      CHECK(row_error(q, a) < 1e-9);
      if (a.scale < 1.0 - 1e-9) {
        ++slowed;
        REQUIRE(a.held_by >= 0);
      }
    }
  CHECK(slowed > 20);
  CHECK(off > 20);
}

TEST_CASE("velocity step: where rows leave freedom, no other velocity is nearer to the wish") {
  RandomStream random(22);
  for (int round = 0; round < 40; ++round) {
    StepQuestion q = random_question(random, 7, 5);
    StepAnswer a;
    velocity_step(q, FollowMode::limited, a);
    if (!a.on_course) continue;
    const auto distance = [&](const Posture& u) {
      return ((u - q.wish).array() / q.unit.array()).matrix().norm();
    };
    // Any other velocity on the same course lies along what the rows leave free.
    Eigen::MatrixXd j(5, 7);
    for (int i = 0; i < 5; ++i)
      for (int k = 0; k < 7; ++k)
        j(i, k) = q.jacobian[static_cast<std::size_t>(i)][static_cast<std::size_t>(k)];
    const Eigen::MatrixXd kernel = Eigen::FullPivLU<Eigen::MatrixXd>(j).kernel();
    for (int tries = 0; tries < 200; ++tries) {
      const double size = std::pow(10.0, random.uniform(-6, 0));
      Posture other = a.velocity;
      for (int c = 0; c < kernel.cols(); ++c) other += size * random.uniform(-1, 1) * kernel.col(c);
      if ((other.array() > q.upper.array()).any() || (other.array() < q.lower.array()).any())
        continue;
      CHECK(distance(other) >= distance(a.velocity) - 1e-9);
    }
  }
}

TEST_CASE("velocity step: off course, no velocity in the box is nearer to the commanded line") {
  RandomStream random(23);
  int seen = 0;
  for (int round = 0; round < 200; ++round) {
    const StepQuestion q = random_question(random, 6, 6);
    StepAnswer a;
    velocity_step(q, FollowMode::limited, a);
    if (a.on_course) continue;
    ++seen;
    const auto miss = [&](const Posture& u, double scale) {
      double square = 0.0;
      for (std::size_t i = 0; i < 6; ++i) {
        double sum = -scale * q.command[i] - q.correction[i];
        for (int k = 0; k < 6; ++k) sum += q.jacobian[i][static_cast<std::size_t>(k)] * u[k];
        square += sum * sum;
      }
      return square;
    };
    const double least = miss(a.velocity, a.scale);
    for (int tries = 0; tries < 300; ++tries) {
      const double size = std::pow(10.0, random.uniform(-4, 0));
      Posture other = a.velocity;
      for (double& u : other) u += size * random.uniform(-1, 1);
      other = other.cwiseMax(q.lower).cwiseMin(q.upper);
      const double scale = std::clamp(a.scale + size * random.uniform(-1, 1), 0.0, 1.0);
      CHECK(miss(other, scale) >= least - 1e-4);  // the least but for what keeps it unique
    }
  }
  CHECK(seen > 20);
}

TEST_CASE(
    "velocity step: pseudo is the shortest, damped strays near a singularity, plain inverts") {
  RandomStream random(24);
  const StepQuestion q = random_question(random, 6, 6);
  StepAnswer pseudo;
  StepAnswer plain;
  velocity_step(q, FollowMode::pseudo, pseudo);
  velocity_step(q, FollowMode::plain, plain);
  CHECK(row_error(q, pseudo) < 1e-9);
  CHECK((pseudo.velocity - plain.velocity).norm() < 1e-9);
  StepQuestion singular = q;
  for (std::size_t k = 0; k < 6; ++k)
    singular.jacobian[5][k] = singular.jacobian[4][k] + 1e-6 * random.uniform(-1, 1);
  StepAnswer damped;
  velocity_step(singular, FollowMode::damped, damped);
  velocity_step(singular, FollowMode::plain, plain);
  CHECK(plain.velocity.norm() > 1e4);
  CHECK(damped.velocity.norm() < 100.0);
  CHECK(row_error(singular, damped) > 1e-3);
}

TEST_CASE("velocity step: allocates nothing") {
  RandomStream random(25);
  StepAnswer a;
  JointBox box;
  const Arm arm = test::wrist_arm();
  const Posture zero = Posture::Zero(6);
  TrackedTool tracked(arm, arm.tool("tip"), {});
  const Pose at = tool_pose(arm, arm.tool("tip"), zero);
  StepQuestion question = random_question(random, 6, 6);
  const StepQuestion six = random_question(random, 6, 6);
  const StepQuestion seven = random_question(random, 7, 6);
  const long before = test::allocations();
  for (const FollowMode mode : {FollowMode::limited, FollowMode::damped, FollowMode::pseudo}) {
    velocity_step(six, mode, a);
    velocity_step(seven, mode, a);
  }
  joint_box(arm.limits(), zero, zero, 0.001, box);
  tracked.rows(zero, at, zero, 0.001, at, at, 0.001, 20.0, question);
  velocity_step(question, FollowMode::limited, a);
  CHECK(test::allocations() == before);
}

TEST_CASE("joint box: driven at random, no joint leaves its range or breaks a limit") {
  const Arm arm = test::wrist_arm();
  const Limits& limits = arm.limits();
  RandomStream random(26);
  for (const double period : {0.001, 0.02}) {
    Posture q = Posture::Zero(6);
    Posture v = Posture::Zero(6);
    Posture sense = Posture::Ones(6);
    JointBox box;
    double furthest = 0.0;
    for (int i = 0; i < 40000; ++i) {
      joint_box(limits, q, v, period, box);
      for (int k = 0; k < 6; ++k) {
        REQUIRE(box.lower[k] <= box.upper[k]);
        if (random.index(3000) == 0) sense[k] = -sense[k];
        const double u = sense[k] > 0.0 ? box.upper[k] : box.lower[k];
        REQUIRE(std::abs(u) <= limits.velocity[k] * (1.0 + 1e-12));
        REQUIRE(std::abs(u - v[k]) <= limits.acceleration[k] * period * (1.0 + 1e-9));
        v[k] = u;
        q[k] += period * u;
        REQUIRE(q[k] <= limits.upper[k] + 1e-12);
        REQUIRE(q[k] >= limits.lower[k] - 1e-12);
        furthest = std::max(furthest, q[k]);
      }
    }
    CHECK(furthest > limits.upper[0] - 1e-3);  // and yet the ends are reached
  }
}

}  // namespace
}  // namespace er
