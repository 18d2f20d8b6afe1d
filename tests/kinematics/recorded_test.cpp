// A recording made from an arm with one known mistake: is the mistake found, and by how much?
#include "elbowroom/kinematics/recorded.hpp"

#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/recorded_file.hpp"
#include "elbowroom/kinematics/model_fit.hpp"
#include "elbowroom/kinematics/touch_fit.hpp"
#include "support/cells.hpp"

using namespace er;
using Catch::Contains;

namespace {

// What the real arm would record, with noise of so many metres.
Recording record(const Arm& real, int rows, const RotationOrder& order = {}, double noise = 0.0) {
  RandomStream random(51);
  Recording recording;
  recording.order = order;
  for (int i = 0; i < rows; ++i) {
    RecordedPose row;
    row.posture = 0.6 * test::random_posture(random, real);
    row.pose = tool_pose(real, real.tool("tip"), row.posture);
    for (int k = 0; k < 3; ++k) row.pose.position[k] += random.uniform(-noise, noise);
    row.angles = angles_of(order, row.pose.rotation);
    row.has_angles = true;
    recording.rows.push_back(row);
  }
  return recording;
}

std::string best_cause(const Arm& model, const Recording& recording) {
  const RecordedComparison found = compare_recorded(model, model.tool("tip"), recording);
  return found.causes.empty() ? "none" : found.causes.front().text;
}

}  // namespace

TEST_CASE("recorded: the model's own recording leaves nothing to explain") {
  const Arm arm = test::wrist_arm();
  const RecordedComparison found = compare_recorded(arm, arm.tool("tip"), record(arm, 20));
  CHECK(found.errors.worst_position < 1e-12);
  CHECK(found.causes.empty());
  CHECK_THAT(found.report(record(arm, 20)), Contains("the model says what was recorded"));
}

TEST_CASE("recorded: each kind of mistake is named with its amount") {
  const Arm model = test::wrist_arm();
  ArmDescription d = model.description();
  set_zero_and_sense(d.links[3].joint, 0.035, false);
  CHECK(best_cause(model, record(Arm::build(d), 20)) ==
        "the zero of joint l2_to_l3 is elsewhere, by 2.01 deg");
  d = model.description();
  set_zero_and_sense(d.links[4].joint, 0.0, true);
  CHECK(best_cause(model, record(Arm::build(d), 20)) == "joint l3_to_l4 counts the other way");
  d = model.description();
  d.tools[0].tip.position += Vector3(0.005, 0, 0.02);
  CHECK_THAT(best_cause(model, record(Arm::build(d), 20, {}, 1e-4)),
             Contains("the tip lies elsewhere on the tool, by [4.99") && Contains(", 19.99"));
  d = model.description();
  d.mount = Pose{rotation_about(Vector3::UnitZ(), 0.1), {0.01, 0, 0}};
  CHECK_THAT(best_cause(model, record(Arm::build(d), 20)),
             Contains("the base stands elsewhere, by [10.000, 0.000, 0.000] mm, rpy [0.000, 0.000, "
                      "5.730] deg"));
  // Recorded about moving axes, read as fixed ones.
  Recording other = record(model, 20, rotation_order_named("moving_zyz"));
  other.order = {};
  for (RecordedPose& row : other.rows) row.pose.rotation = rotation_from({}, row.angles);
  CHECK(best_cause(model, other) == "the angles are in the order moving_zyz, not fixed_xyz");
}

TEST_CASE("recorded: a fit finds several zeros at once, and lengths with them") {
  const Arm model = test::wrist_arm();
  ArmDescription d = model.description();
  set_zero_and_sense(d.links[2].joint, 0.01, false);
  set_zero_and_sense(d.links[5].joint, -0.02, false);
  const Arm real = Arm::build(d);
  const Recording recording = record(real, 30);
  const ModelFit zeros = fit_recorded(model, model.tool("tip"), recording, FitFreedom::zeros);
  CHECK(zeros.before.worst_position > 5e-3);
  CHECK(zeros.after.worst_position < 1e-9);
  CHECK(zeros.values[1].change == Approx(0.01).margin(1e-8));
  CHECK(zeros.values[4].change == Approx(-0.02).margin(1e-8));
  CHECK(zeros.values[0].change == Approx(0.0).margin(1e-8));
  CHECK_THAT(zeros.report(), Contains("zero of joint l1_to_l2    +0.5730 deg"));

  d.links[3].joint.origin.position.z() += 0.004;  // a longer upper arm
  const Recording longer = record(Arm::build(d), 30);
  CHECK(fit_recorded(model, model.tool("tip"), longer, FitFreedom::zeros).after.worst_position >
        1e-3);
  const ModelFit lengths =
      fit_recorded(model, model.tool("tip"), longer, FitFreedom::zeros_and_lengths);
  CHECK(lengths.after.worst_position < 1e-6);
  // Postures that were not recorded are right, too: the fit is of the arm, not of the rows.
  CHECK_THROWS_WITH(
      fit_recorded(model, model.tool("tip"), record(real, 2), FitFreedom::zeros_and_lengths),
      Contains("2 rows are too few to fit 24 figures"));
}

TEST_CASE("recorded: a tool centre point from poses that touch one point") {
  RandomStream random(52);
  const Vector3 tip(0.03, -0.01, 0.12);
  const Vector3 point(0.5, 0.2, 0.3);
  std::vector<Pose> poses;
  for (int i = 0; i < 6; ++i) {
    Pose pose;
    pose.rotation = rotation_from_rpy(random.uniform(-0.6, 0.6), random.uniform(-0.6, 0.6),
                                      random.uniform(-1, 1));
    pose.position = point - pose.rotation * tip;
    poses.push_back(pose);
  }
  const auto fit = fit_touching(poses);
  REQUIRE(fit);
  CHECK((fit->tip - tip).norm() < 1e-12);
  CHECK((fit->point - point).norm() < 1e-12);
  CHECK(fit->worst < 1e-12);
  poses[2].position.x() += 0.001;
  CHECK(fit_touching(poses)->worst > 1e-4);
  for (Pose& pose : poses) pose.rotation = rotation_about(Vector3::UnitZ(), random.uniform(-1, 1));
  const auto flat = fit_touching(poses);
  REQUIRE_FALSE(flat);
  CHECK_THAT(flat.reason().text, Contains("turned too little"));
  poses.resize(3);
  CHECK_THROWS_AS(fit_touching(poses), InputError);
}

TEST_CASE("recorded: tables name their columns and units") {
  const Arm arm = test::planar_arm();
  const auto file =
      std::filesystem::temp_directory_path() / ("recorded_" + std::to_string(::getpid()) + ".csv");
  const auto load = [&](const std::string& text) {
    std::ofstream(file) << text;
    return load_recording(file, arm, rotation_order_named("moving_zyx"));
  };
  const std::string head =
      "base_to_upper deg, upper_to_fore (deg), x mm, y mm, z mm, a deg, b deg, c deg\n";
  const Recording recording = load("# a comment\n" + head + "90, 0, 0, 700, 0, 90, 0, 0\r\n\n");
  REQUIRE(recording.rows.size() == 1);
  CHECK(compare_recorded(arm, arm.tool("tip"), recording).errors.worst_position < 1e-12);
  CHECK(compare_recorded(arm, arm.tool("tip"), recording).errors.worst_angle < 1e-12);
  CHECK_THROWS_WITH(load(head + "90, 0, 0, 700, 0, 90, 0\n"),
                    Contains(":2:1: this line has 7 values, the heading 8"));
  CHECK_THROWS_WITH(load(head + "90, 0, 0, seven, 0, 90, 0, 0\n"),
                    Contains(":2:10: expected a number with a unit, found 'seven'"));
  CHECK_THROWS_WITH(load("base_to_uper deg, upper_to_fore deg, x mm, y mm, z mm\n1,2,3,4,5\n"),
                    Contains("did you mean 'base_to_uper'?"));
  CHECK_THROWS_WITH(load("base_to_upper mm, upper_to_fore deg, x mm, y mm, z mm\n1,2,3,4,5\n"),
                    Contains("column 'base_to_upper' is in mm, which is a length"));
  CHECK_THROWS_WITH(load(head), Contains("a heading and no rows"));
  std::filesystem::remove(file);
}
