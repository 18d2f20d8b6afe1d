#include "elbowroom/route/tool_path.hpp"

#include <catch2/catch.hpp>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "support/cells.hpp"

using namespace er;
using namespace er::test;
using Catch::Contains;

TEST_CASE("an arc goes through its three points, always as far from its centre") {
  RandomStream random(41);
  for (int n = 0; n < 50; ++n) {
    const auto point = [&] {
      return Vector3(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1));
    };
    const Pose from{rotation_about(random_direction(random), 0.7), point()};
    const Pose to{rotation_about(random_direction(random), 0.4), point()};
    const Vector3 through = point();
    const ToolArc arc(from, through, to);
    CHECK(error_between(arc.at(0.0), from).position < 1e-12);
    CHECK(error_between(arc.at(arc.end()), to).position < 1e-9);
    CHECK(error_between(arc.at(arc.end()), to).angle < 1e-9);
    // The three sides and the angle at the far point give the radius (law of sines).
    const Vector3 a = from.position - through, b = to.position - through;
    const double sine = a.cross(b).norm() / (a.norm() * b.norm());
    CHECK(arc.radius() == Approx((to.position - from.position).norm() / (2.0 * sine)));
    double nearest = 1e9, way = 0.0;
    constexpr int kSteps = 4000;
    for (int i = 0; i <= kSteps; ++i) {
      const Vector3 at = arc.at(arc.end() * i / kSteps).position;
      nearest = std::min(nearest, (at - through).norm());
      if (i > 0) way += (at - arc.at(arc.end() * (i - 1) / kSteps).position).norm();
    }
    CHECK(nearest < arc.end() / kSteps);
    CHECK(way == Approx(arc.length()).epsilon(1e-6));
  }
  const Pose at = Pose::at({1, 0, 0});
  CHECK_THROWS_WITH(ToolArc(Pose::at({0, 0, 0}), {0.5, 0, 0}, at), Contains("one straight line"));
  CHECK_THROWS_WITH(ToolArc(Pose::at({0, 0, 0}), {0, 0, 0}, at), Contains("are the same"));
}

TEST_CASE("a trace passes its poses, and its parameter is the way of the tip") {
  std::vector<Pose> poses;
  for (int i = 0; i <= 12; ++i) {
    const double t = 0.5 * i;
    poses.push_back({rotation_about(Vector3::UnitZ(), 0.2 * t),
                     Vector3(0.3 * std::cos(t), 0.2 * std::sin(t), 0.02 * t * t)});
  }
  const ToolTrace trace(poses);
  const ToolPath path(trace);
  CHECK(path.kind() == "trace");
  for (const Pose& pose : poses) {
    double nearest = 1e9;
    for (int i = 0; i <= 5000; ++i)
      nearest =
          std::min(nearest, (trace.at(trace.end() * i / 5000).position - pose.position).norm());
    CHECK(nearest < trace.end() / 5000);
  }
  // Turns count a little across it: 10 mm a radian.
  for (int i = 0; i < 200; ++i) {
    const double s = trace.end() * i / 200, step = 1e-4;
    CHECK((trace.at(s + step).position - trace.at(s).position).norm() ==
          Approx(step).epsilon(2e-3));
  }
  CHECK(trace.length() == Approx(trace.end()).epsilon(1e-3));
  CHECK_THROWS_WITH(ToolTrace({poses[0], poses[0]}), Contains("are the same"));
}

TEST_CASE("how far a pose is off a path: beside it, turned, and where") {
  RandomStream random(42);
  const Pose from = Pose::at({0.1, 0.2, 0.3});
  const Pose to{rotation_about(Vector3::UnitX(), 0.5), {0.5, -0.1, 0.4}};
  for (const ToolPath& path :
       {ToolPath(ToolLine(from, to)), ToolPath(ToolArc(from, {0.35, 0.2, 0.5}, to))})
    for (int n = 0; n < 30; ++n) {
      const double s = random.uniform(0.1, 0.9) * path.end();
      const Pose on = path.at(s);
      const Vector3 along = (path.at(s + 1e-6).position - on.position).normalized();
      const Vector3 beside = along.cross(random_direction(random)).normalized() * 0.003;
      const Pose off{on.rotation * rotation_about(Vector3::UnitY(), 0.02), on.position + beside};
      const ToolPath::Deviation found = path.deviation_of(off, s + random.uniform(-0.02, 0.02));
      CHECK(found.beside == Approx(0.003).epsilon(2e-3));
      CHECK(found.turned == Approx(0.02).epsilon(1e-2));
      CHECK(found.parameter == Approx(s).margin(2e-5));
    }
  // A turn in place is seen in the turn.
  const ToolPath turn(ToolLine(from, {rotation_about(Vector3::UnitZ(), 0.8), from.position}));
  const Pose at{rotation_about(Vector3::UnitZ(), 0.3), from.position + Vector3(0.001, 0, 0)};
  CHECK(turn.deviation_of(at, 0.1).parameter == Approx(0.3));
  CHECK(turn.deviation_of(at, 0.1).beside == Approx(0.001));
  CHECK(turn.deviation_of(at, 0.1).turned < 1e-9);
  CHECK_THROWS_WITH(ToolLine(from, from), Contains("no length"));
}

TEST_CASE("a turn about an axis keeps the distance to it, and the tool turns with it or stays") {
  RandomStream random(43);
  for (int n = 0; n < 50; ++n) {
    const Pose from{rotation_about(random_direction(random), 0.9),
                    Vector3(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1))};
    const Vector3 axis = random_direction(random);
    const Vector3 point(random.uniform(-1, 1), random.uniform(-1, 1), random.uniform(-1, 1));
    const double angle = random.uniform(-9.0, 9.0);
    const ToolTurn turning(from, point, 2.0 * axis, angle, true);
    const ToolTurn staying(from, point, axis, angle, false);
    CHECK(turning.length() == Approx(turning.radius() * std::abs(angle)));
    for (int i = 0; i <= 20; ++i) {
      const double at = turning.end() * i / 20;
      const Pose pose = turning.at(at);
      const Vector3 out = pose.position - point;
      CHECK((out - axis.dot(out) * axis).norm() == Approx(turning.radius()));
      CHECK(axis.dot(out) == Approx(axis.dot(from.position - point)).margin(1e-12));
      // As a rigid body: where the axis was as the tool saw it, it still is.
      CHECK((pose.inverse() * point - from.inverse() * point).norm() < 1e-12);
      CHECK((staying.at(at).position - pose.position).norm() < 1e-12);
      CHECK((staying.at(at).rotation - from.rotation).norm() < 1e-12);
    }
  }
  const Pose here = Pose::at({1, 0, 0});
  const ToolTurn in_place(here, here.position, Vector3::UnitZ(), -0.5, true);
  CHECK(in_place.length() == 0.0);
  CHECK(in_place.end() == Approx(0.5));
  CHECK(error_between(in_place.at(0.25), {rotation_about(Vector3::UnitZ(), -0.25), here.position})
            .angle < 1e-12);
  CHECK_THROWS_WITH(ToolTurn(here, here.position, Vector3::UnitX(), 1.0, false),
                    Contains("a circle of no radius"));
  CHECK_THROWS_WITH(ToolTurn(here, {0, 0, 0}, Vector3::Zero(), 1.0, true),
                    Contains("an axis of no length"));
  CHECK_THROWS_WITH(ToolTurn(here, {0, 0, 0}, Vector3::UnitX(), 0.0, true),
                    Contains("by no angle"));
}

TEST_CASE("what is left open turns the tool beside its path, and moves it nowhere") {
  const ToolLine line(Pose::at({0, 0, 0}), Pose::at({1, 0, 0}));
  const ToolFreed freed(ToolPath(line),
                        lines_through({values({0, 0, 0}), values({0.1, -0.2, 0.6})}));
  CHECK(freed.end() == 1.0);
  const Pose half = freed.at(0.5);
  CHECK((half.position - Vector3(0.5, 0, 0)).norm() < 1e-12);
  // Leaning by the given angles, whatever the turn.
  CHECK(std::acos(half.rotation(2, 2)) == Approx(std::hypot(0.05, 0.1)));
  CHECK((half.rotation - rotation_offset(0.05, -0.1, 0.3)).norm() < 1e-12);
  CHECK((rotation_offset(0.0, 0.0, 0.3) - rotation_about(Vector3::UnitZ(), 0.3)).norm() < 1e-15);
}
