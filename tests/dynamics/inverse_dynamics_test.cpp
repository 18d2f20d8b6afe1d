#include "elbowroom/dynamics/inverse_dynamics.hpp"

#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/dynamics/gravity.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "support/allocations.hpp"
#include "support/cells.hpp"
#include "support/instruction_sets.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

namespace {

constexpr double kGravity = 9.80665;

Matrix3 random_inertia(RandomStream& random) {
  Matrix3 m;
  for (int i = 0; i < 9; ++i) m(i / 3, i % 3) = random.uniform(-0.1, 0.1);
  return m * m.transpose() + 0.01 * Matrix3::Identity();
}

Arm heavy_arm(RandomStream& random, int links) {
  ArmDescription description = random_arm(random, links).description();
  for (Link& link : description.links)
    link.inertial = {
        random.uniform(0.5, 3.0),
        {random.uniform(-0.1, 0.1), random.uniform(-0.1, 0.1), random.uniform(-0.1, 0.1)},
        random_inertia(random)};
  return Arm::build(description);
}

// The second formulation: masses moved by Jacobians.
MassMatrix mass_by_jacobians(const Arm& arm, const Posture& q) {
  MassMatrix m = MassMatrix::Zero(arm.dof(), arm.dof());
  const auto poses = link_poses(arm, q);
  for (std::size_t i = 0; i < arm.links().size(); ++i) {
    const Inertial& inertial = arm.links()[i].inertial;
    Jacobian j;
    frame_jacobian(arm, static_cast<int>(i), Pose::at(inertial.centre), q, j);
    const Matrix3 inertia = poses[i].rotation * inertial.inertia * poses[i].rotation.transpose();
    m += inertial.mass * j.topRows<3>().transpose() * j.topRows<3>() +
         j.bottomRows<3>().transpose() * inertia * j.bottomRows<3>();
  }
  return m;
}

// d/dt dL/dv - dL/dq of L = v M v / 2 - V, differences of the fourth order.
Posture by_lagrange(const Arm& arm, const Posture& q, const Posture& v, const Posture& a) {
  constexpr double kStep = 2e-3;
  const auto derivative = [&](int k) -> MassMatrix {
    const auto at = [&](double by) {
      Posture moved = q;
      moved[k] += by;
      return mass_by_jacobians(arm, moved);
    };
    return (8.0 * (at(kStep) - at(-kStep)) - (at(2 * kStep) - at(-2 * kStep))) / (12.0 * kStep);
  };
  Posture out = mass_by_jacobians(arm, q) * a + gravity_load(arm, q);
  for (int k = 0; k < arm.dof(); ++k) {
    const MassMatrix d = derivative(k);
    out += v[k] * (d * v);
    out[k] -= 0.5 * v.dot(d * v);
  }
  return out;
}

Posture random_values(RandomStream& random, int count, double most) {
  return random.between(Posture::Constant(count, -most), Posture::Constant(count, most));
}

}  // namespace

TEST_CASE("two links in a vertical plane: the textbook's closed form") {
  // L. Sciavicco and B. Siciliano, "Modelling and Control of Robot Manipulators", section 4.3, for
  // axes along y, about which a positive turn leads down.
  const double l1 = 0.4, c1 = 0.25, c2 = 0.2, m1 = 3.0, m2 = 1.7, i1 = 0.05, i2 = 0.02;
  ArmDescription d{.name = "two"};
  Link base;
  base.name = "base";
  Link upper = turning("upper", {0, 0, 0}, Vector3::UnitY());
  upper.inertial = {m1, {c1, 0, 0}, Vector3(0.1, i1, 0.1).asDiagonal()};
  Link fore = turning("fore", {l1, 0, 0}, Vector3::UnitY());
  fore.inertial = {m2, {c2, 0, 0}, Vector3(0.1, i2, 0.1).asDiagonal()};
  d.links = {base, upper, fore};
  const Arm arm = Arm::build(d);
  RandomStream random(7);
  for (int i = 0; i < 50; ++i) {
    const Posture q = random_values(random, 2, 3.0), v = random_values(random, 2, 2.0),
                  a = random_values(random, 2, 5.0);
    const double b11 =
        i1 + i2 + m1 * c1 * c1 + m2 * (l1 * l1 + c2 * c2 + 2 * l1 * c2 * std::cos(q[1]));
    const double b12 = i2 + m2 * (c2 * c2 + l1 * c2 * std::cos(q[1]));
    const double b22 = i2 + m2 * c2 * c2;
    const double h = -m2 * l1 * c2 * std::sin(q[1]);
    const double g1 =
        -kGravity * ((m1 * c1 + m2 * l1) * std::cos(q[0]) + m2 * c2 * std::cos(q[0] + q[1]));
    const double g2 = -kGravity * m2 * c2 * std::cos(q[0] + q[1]);
    const Posture expected =
        values({b11 * a[0] + b12 * a[1] + h * (2 * v[0] * v[1] + v[1] * v[1]) + g1,
                b12 * a[0] + b22 * a[1] - h * v[0] * v[0] + g2});
    CHECK((inverse_dynamics(arm, q, v, a) - expected).norm() < 1e-12 * (1.0 + expected.norm()));
  }
}

Posture check_lagrange(RandomStream& random, const Arm& arm) {
  const Posture q = random_posture(random, arm), v = random_values(random, arm.dof(), 2.0),
                a = random_values(random, arm.dof(), 5.0);
  const Posture expected = by_lagrange(arm, q, v, a);
  INFO(expected.transpose());
  CHECK((inverse_dynamics(arm, q, v, a) - expected).norm() < 2e-9 * (1.0 + expected.norm()));
  return q;
}

TEST_CASE("inverse dynamics of any tree is Lagrange's, and its mass matrix that of the Jacobians") {
  RandomStream random(8);
  for (int n = 0; n < 12; ++n) {
    const Arm arm = heavy_arm(random, 8);
    const Posture q = check_lagrange(random, arm);
    const MassMatrix m = ArmDynamics(arm).mass_matrix(q);
    const MassMatrix other = mass_by_jacobians(arm, q);
    CHECK((m - other).norm() < 1e-11 * other.norm());
    // At rest only gravity is left.
    const Posture still = Posture::Zero(arm.dof());
    CHECK((inverse_dynamics(arm, q, still, still) - gravity_load(arm, q)).norm() < 1e-10);
  }
}

// Axes that are parallel or at right angles, most of them through a frame's origin or along an axis
// from it: what has shortcuts of its own. Some slide, some links carry two others.
Arm square_arm(RandomStream& random, int links) {
  const auto quarter = [&] { return 0.5 * 3.14159265358979323846 * random.index(4); };
  const auto axis = [&]() -> Vector3 { return Vector3::Unit(random.index(3)); };
  ArmDescription arm{.name = "square", .links = {{.name = "l0"}}};
  for (int i = 1; i < links; ++i) {
    const std::string name = "l" + std::to_string(i);
    const Vector3 onward = random.index(3) == 0 ? Vector3::Zero() : Vector3(0.3 * axis());
    Link link =
        random.index(4) == 0 ? sliding(name, onward, axis()) : turning(name, onward, axis());
    link.joint.origin.rotation = rotation_from_rpy(quarter(), quarter(), quarter());
    if (random.index(4) == 0) link.parent = "l" + std::to_string(random.index(i));
    arm.links.push_back(link);
  }
  for (Link& link : arm.links)
    link.inertial = {random.uniform(0.5, 3.0), 0.1 * axis(), random_inertia(random)};
  return Arm::build(arm);
}

TEST_CASE("inverse dynamics of arms with right angles is Lagrange's, too") {
  RandomStream random(11);
  for (int n = 0; n < 20; ++n) check_lagrange(random, square_arm(random, 8));
}

TEST_CASE("a payload is as good as a heavier link, and friction holds against the motion") {
  RandomStream random(9);
  const Arm arm = heavy_arm(random, 6);
  const Posture q = random_posture(random, arm), v = random_values(random, arm.dof(), 2.0),
                a = random_values(random, arm.dof(), 5.0);
  const int last = static_cast<int>(arm.links().size()) - 1;
  const Inertial carried{2.0, {0.05, 0.0, 0.1}, random_inertia(random)};
  ArmDescription heavier = arm.description();
  heavier.links.back().inertial = joined(heavier.links.back().inertial, carried);
  CHECK((inverse_dynamics(arm, q, v, a, {.payload = Payload{last, carried}}) -
         inverse_dynamics(Arm::build(heavier), q, v, a))
            .norm() < 1e-9);

  ArmDescription rough = arm.description();
  const int first = arm.moving_link(0);
  rough.links[static_cast<std::size_t>(first)].joint.damping = 0.7;
  rough.links[static_cast<std::size_t>(first)].joint.friction = 1.3;
  const Arm with = Arm::build(rough);
  const Posture more = inverse_dynamics(with, q, v, a) - inverse_dynamics(arm, q, v, a);
  CHECK(more[0] == Approx(0.7 * v[0] + std::copysign(1.3, v[0])));
  CHECK(more.tail(more.size() - 1).norm() < 1e-12);
  CHECK((inverse_dynamics(with, q, v, a, {.friction = false}) - inverse_dynamics(arm, q, v, a))
            .norm() < 1e-12);
}

TEST_CASE("inverse dynamics allocates nothing, and says which link has no mass") {
  RandomStream random(10);
  const Arm arm = heavy_arm(random, 7);
  const ArmDynamics dynamics(arm);
  const Posture q = random_posture(random, arm);
  const long before = allocations();
  const Posture effort = dynamics.inverse(q, q, q);
  const MassMatrix m = dynamics.mass_matrix(q);
  CHECK(allocations() == before);
  CHECK(effort.allFinite());
  CHECK(m.allFinite());
  CHECK_NOTHROW(require_masses(arm));
  ArmDescription light = arm.description();
  light.links.back().name = "feather";
  light.links.back().parts = {{Sphere{0.1}}};
  light.links.back().inertial = {};
  CHECK_THROWS_WITH(require_masses(Arm::build(light)),
                    Contains("link 'feather'") && Contains("states no mass"));
}

TEST_CASE("many postures at once ask what each asks alone, on every instruction set") {
  RandomStream random(11);
  const Arm arm = heavy_arm(random, 7);
  const ArmDynamics dynamics(arm);
  PostureRows q(21, arm.dof()), v(q), a(q), effort(q);
  for (int i = 0; i < 21; ++i) {
    q.row(i) = random_posture(random, arm).transpose();
    v.row(i) = random_values(random, arm.dof(), 2.0).transpose();
    a.row(i) = random_values(random, arm.dof(), 5.0).transpose();
  }
  PostureRows first;
  on_each_instruction_set([&](const std::string& name) {
    INFO(name);
    dynamics.inverse(q, v, a, effort);
    for (int i = 0; i < 21; ++i) {
      const Posture alone =
          dynamics.inverse(q.row(i).transpose(), v.row(i).transpose(), a.row(i).transpose());
      CHECK((effort.row(i).transpose() - alone).norm() < 1e-12 * (1.0 + alone.norm()));
    }
    if (first.size() == 0) first = effort;
    CHECK(effort == first);
  });
}

TEST_CASE(
    "along a path: held, by the square of the rate and by its growth, on every instruction set") {
  RandomStream random(96);
  for (int n = 0; n < 4; ++n) {
    const Arm arm = heavy_arm(random, 5 + n);
    const ArmDynamics dynamics(arm, {.friction = false});
    constexpr Eigen::Index kRows = 11;
    PostureRows position(kRows, arm.dof()), slope(position), curvature(position);
    for (Eigen::Index i = 0; i < kRows; ++i) {
      position.row(i) = random_posture(random, arm).transpose();
      slope.row(i) = random_posture(random, arm).transpose();
      curvature.row(i) = random_posture(random, arm).transpose();
    }
    on_each_instruction_set([&](const std::string& name) {
      INFO(name);
      PostureRows held, by_square, by_growth, again, too;
      dynamics.along(position, slope, curvature, held, by_square, &by_growth);
      dynamics.along(position, slope, curvature, again, too, nullptr);
      CHECK(again == held);
      CHECK(too == by_square);
      for (const double rate : {0.0, 1.0, -0.7})
        for (const double growth : {0.0, 2.0, -1.3})
          for (Eigen::Index i = 0; i < kRows; ++i) {
            const Posture q = position.row(i).transpose();
            const Posture v = rate * slope.row(i).transpose();
            const Posture a =
                growth * slope.row(i).transpose() + rate * rate * curvature.row(i).transpose();
            const Posture expected = dynamics.inverse(q, v, a);
            const Posture found =
                (held.row(i) + rate * rate * by_square.row(i) + growth * by_growth.row(i))
                    .transpose();
            CHECK((found - expected).norm() <= 1e-11 * (1.0 + expected.norm()));
          }
    });
  }
}
