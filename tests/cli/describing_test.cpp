// What the tool says of descriptions: their faults, their steps, their pairs, their other forms.
#include <catch2/catch.hpp>

#include "run_tool.hpp"

using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;
using nlohmann::json;

TEST_CASE("inspect: the other demo cells are sound") {
  for (const char* cell : {"bracken.cell.yaml", "sedge.cell.yaml"}) {
    const Run run = tool(std::string("inspect ") + cell);
    CHECK(run.exit == 0);
    CHECK_THAT(first_line(run.out), Contains("nothing wrong, missing or odd found"));
  }
  CHECK_THAT(tool("inspect bracken.cell.yaml").out,
             Contains("shoulder meets above 104.25 deg: bracken.turret, bracken.upper_arm") &&
                 Contains("shoulder      revolute  y") && Contains("mass 25.7 kg"));
}

TEST_CASE("inspect: a half-finished chain is fine to look at, its mistakes come with places") {
  const Folder folder;
  const std::string file =
      folder.write("half.cell.yaml",
                   "elbowroom: cell/1\n"
                   "values: {spare: 2 mm}\n"
                   "arms:\n"
                   "  - name: half\n"
                   "    links:\n"
                   "      - name: foot\n"
                   "      - name: bar\n"
                   "        joint: {axis: [0, 0, 1], range: [-90 rad, 90 rad]}\n");
  const Run run = tool("inspect '" + file + "'");
  CHECK(run.exit == 0);  // nothing is wrong, only missing and odd
  CHECK_THAT(first_line(run.out), Contains("0 wrong, 3 missing, 4 odd"));
  CHECK_THAT(run.out, Contains("missing half, joint foot_to_bar: no velocity is stated (") &&
                          Contains("half.cell.yaml:7:9)") &&
                          Contains("pace and rehearse cannot do without; add velocity:"));
  CHECK_THAT(run.out,
             Contains("value 'spare': nothing uses it") && Contains("half.cell.yaml:2:10"));
  CHECK_THAT(run.out, Contains("nothing moves when it moves"));
}

TEST_CASE("where: every step, and what a change does") {
  const Run steps = tool("where glaze.cell.yaml --at home --steps");
  CHECK(steps.exit == 0);
  CHECK_THAT(steps.out, Contains("3. joint shoulder: turns -20.00 deg about y") &&
                            Contains("rotation: Ry(-20.000 deg)") && Contains("9. tip of grip"));
  const json answer = json::parse(tool("where glaze.cell.yaml --at home --steps --json").out);
  CHECK(answer["steps"].size() == 9);
  for (std::size_t i = 0; i < 3; ++i)
    CHECK(answer["steps"][8]["total"]["position"][i].get<double>() ==
          Approx(answer["pose"]["position"][i].get<double>()).margin(1e-12));
  const Run change = tool("where glaze.cell.yaml --at home --change 'z - 20 mm'");
  CHECK_THAT(change.out, Contains("920.877 mm   900.877 mm  -20.000 mm"));
  const Run far = tool("where glaze.cell.yaml --at home --change 'x + 2 m'");
  CHECK(far.exit == 1);
  CHECK_THAT(far.out, StartsWith("no: from this posture the tool does not get there"));
  const Run wrong = tool("where glaze.cell.yaml --at home --change 'elbo + 2 deg'");
  CHECK(wrong.exit == 2);
  CHECK_THAT(wrong.err, Contains("did you mean 'elbow'?"));
  const Run order = tool("where bracken.cell.yaml --at home");
  CHECK_THAT(order.out, Contains("moving_zyx: turned about z, then about the new y, then about the "
                                 "newest x"));
  const Run asked = tool("where glaze.cell.yaml --at home --rotation moving_zyzz");
  CHECK_THAT(asked.err, Contains("--rotation: unknown order of rotations"));
}

TEST_CASE("arithmetic on the command line") {
  const Run sum = tool("where glaze.cell.yaml --at '0, -pi/9 rad, 1/18 turn, 0, 2 * 45 deg, 0'");
  CHECK(first_line(sum.out) == first_line(tool("where glaze.cell.yaml --at home").out));
  const Run least =
      tool("where glaze.cell.yaml --at '0, max(-20 deg, -1 rad), 20 deg, 0, 90 deg, 0'");
  CHECK(first_line(least.out) == first_line(sum.out));
  const Run wrong = tool("where glaze.cell.yaml --at '0, 5*pi/6, 0, 0, 0, 0'");
  CHECK(wrong.exit == 2);
  CHECK_THAT(wrong.err, Contains("expected an angle (such as 90 deg), found '5*pi/6', which is a "
                                 "plain number"));
}

TEST_CASE("joints that are held stay where they are, and stations must be known") {
  // A place that one posture with the held value reaches, so there is an answer.
  const json there = json::parse(
      tool("where bracken.cell.yaml --at '0, 30 deg, 20 deg, 60 deg, 10 deg, 40 deg, 0' --json")
          .out);
  const auto triple = [&](const char* key, const char* unit) {
    std::string text;
    for (const json& value : there["pose"][key])
      text += (text.empty() ? "" : ", ") + value.dump() + " " + unit;
    return text;
  };
  const json answer =
      json::parse(tool("reach bracken.cell.yaml --place '" + triple("position", "m") + "' --rpy '" +
                       triple("rpy", "rad") + "' --hold 'arm_turn = 20 deg' --json")
                      .out);
  REQUIRE(answer["verdict"] == "yes");
  for (const json& solution : answer["solutions"])
    CHECK(solution["posture"][2].get<double>() == Approx(0.3490658504));
  const Run wrong = tool("reach bracken.cell.yaml --place '0, 0, 1 m' --hold 'arm_trun = 2 deg'");
  CHECK(wrong.exit == 2);
  CHECK_THAT(wrong.err, Contains("did you mean 'arm_turn'?"));
  const Run nowhere = tool("inspect glaze.cell.yaml --station left");
  CHECK_THAT(nowhere.err, Contains("--station: unknown station of arm 'teasel' 'left'"));
}

TEST_CASE("pairs: what can meet and what is proved apart") {
  const Run run = tool("pairs sedge.cell.yaml --samples 4000");
  CHECK(run.exit == 0);
  CHECK_THAT(first_line(run.out), StartsWith("sedge: ") && Contains("are proved apart"));
  CHECK_THAT(run.out,
             Contains("with 95 % confidence a pair not seen to meet meets in under 0.075 %"));
  const json answer = json::parse(tool("pairs sedge.cell.yaml --samples 4000 --json").out);
  int apart = 0;
  for (const json& pair : answer["pairs"]) {
    apart += pair["verdict"] == "kept apart" ? 1 : 0;
    if (pair["verdict"] == "kept apart")
      CHECK(pair["nearest"].get<double>() >= pair["proved_distance"].get<double>());
  }
  CHECK(apart > 0);
}

TEST_CASE("convert: there and back, with what is lost") {
  const Folder folder;
  const std::string links = folder / "links.cell.yaml";
  const Run first = tool("convert glaze.cell.yaml --out '" + links + "'");
  CHECK(first_line(first.out) == "yes: as links, nothing lost");
  CHECK(tool("convert glaze.cell.yaml --same-as '" + links + "'").exit == 0);
  // The whole cell comes back, not the arm alone.
  CHECK(json::parse(tool("inspect '" + links + "' --json").out)["standing_parts"] ==
        json::parse(tool("inspect glaze.cell.yaml --json").out)["standing_parts"]);
  const std::string again = folder / "again.cell.yaml";
  tool("convert '" + links + "' --out '" + again + "'");
  CHECK(read_file(again) == read_file(links));

  for (const char* cell : {"bracken.cell.yaml", "sedge.cell.yaml", "glaze.cell.yaml"}) {
    for (const char* form : {"dh_standard", "dh_modified"}) {
      const std::string table = folder / "table.cell.yaml";
      const Run run =
          tool(std::string("convert ") + cell + " --to " + form + " --out '" + table + "'");
      CHECK(run.exit == 0);
      CHECK_THAT(run.out, Contains("the shapes of its links"));
      const json same = json::parse(
          tool(std::string("convert ") + cell + " --same-as '" + table + "' --json").out);
      CHECK(same["comparison"]["worst_position"].get<double>() < 1e-9);
      CHECK(same["comparison"]["worst_angle"].get<double>() < 1e-9);
    }
  }
  const std::string xml = folder / "arm.xml";
  const Run to_xml = tool("convert glaze.cell.yaml --to robot_xml --out '" + xml + "'");
  CHECK_THAT(to_xml.out, Contains("4 stances; the format has no word for it"));
  const Run compared = tool("convert glaze.cell.yaml --same-as '" + xml + "'");
  CHECK(compared.exit == 1);
  CHECK_THAT(compared.out, Contains("joint waist: acceleration 600.00 deg/s^2 against not stated"));
  CHECK_THAT(compared.out, !Contains("axis") && !Contains("mass"));
  const Run back = tool("convert '" + xml + "'");
  CHECK_THAT(back.out, Contains("- name: elbow_block"));
}

TEST_CASE("convert: kinematics as code, written by the ending of its file") {
  const Folder folder;
  const std::string code = folder / "teasel.hpp";
  const Run run = tool("convert glaze.cell.yaml --out '" + code + "'");
  CHECK(run.exit == 0);
  CHECK(first_line(run.out) == "yes: as cpp; 1 thing cannot be held there");
  CHECK_THAT(run.out, Contains("limits, masses, shapes and stances: only what places frames"));
  const json answer = json::parse(tool("convert glaze.cell.yaml --to cpp --json").out);
  CHECK(answer["form"] == "cpp");
  CHECK(answer["text"] == read_file(code));
  CHECK_THAT(answer["text"].get<std::string>(), Contains("namespace teasel_kinematics {") &&
                                                    Contains("constexpr int kJoints = 6;") &&
                                                    Contains("inline void grip_jacobian("));
}

TEST_CASE("convert: what makes no sense is refused") {
  const Folder folder;
  const std::string xml = folder / "a.xml";
  const Run two_forms =
      tool("convert glaze.cell.yaml --out '" + xml + "' --out '" + (folder / "a.hpp") + "'");
  CHECK(two_forms.exit == 2);
  CHECK_THAT(two_forms.err, Contains("a.xml would be robot_xml, and") &&
                                Contains("a.hpp would be cpp") && Contains("one form at a time"));
  CHECK_FALSE(std::filesystem::exists(xml));
  CHECK_THAT(tool("convert glaze.cell.yaml --to dh").err,
             Contains("unknown form of description for --to 'dh'"));
  CHECK_THAT(tool("convert glase.cell.yaml").err, Contains("did you mean 'glaze.cell.yaml'?"));
  CHECK_THAT(tool("convert glaze.cell.yaml --to robot_xml --arm tesel").err,
             Contains("did you mean 'teasel'?"));
}

TEST_CASE("inspect: a recording is held against the model") {
  const Run run = tool("inspect glaze.cell.yaml --recorded teasel.recorded.csv --fit zeros");
  CHECK(run.exit == 1);  // the recorded arm is more than a millimetre off
  CHECK_THAT(first_line(run.out), StartsWith("16 recorded poses against the model: worst 8.6"));
  CHECK_THAT(run.out, Contains("the zero of joint elbow is elsewhere, by 0.80 deg"));
  const json answer = json::parse(
      tool("inspect glaze.cell.yaml --recorded teasel.recorded.csv --fit zeros --json").out);
  CHECK(answer["fit"]["values"][2]["change"].get<double>() == Approx(0.0139626).margin(1e-4));
  CHECK(answer["fit"]["after"]["worst_position"].get<double>() < 1e-4);
  const Run wrong = tool("inspect glaze.cell.yaml --recorded teasel.recorded.csv --fit all");
  CHECK_THAT(wrong.err, Contains("unknown freedom for --fit 'all'"));
  CHECK_THAT(
      tool("inspect glaze.cell.yaml --fit zeros").err,
      Contains("--fit says nothing without --recorded\n  add --recorded, or leave --fit out"));
}

TEST_CASE("inspect: a joint in a strip of pictures") {
  const Folder folder;
  const Run run =
      tool("inspect sedge.cell.yaml --joint hand_servo --out '" + (folder / "s.png") + "'");
  CHECK(run.exit == 0);
  CHECK_THAT(run.out, Contains("joint hand_servo from left to right") && Contains("-100.00 deg") &&
                          Contains("100.00 deg"));
  CHECK(read_file(folder / "s.png").substr(1, 3) == "PNG");
  CHECK_THAT(tool("inspect sedge.cell.yaml --joint hand --out x.png").err,
             Contains("did you mean 'hand_servo'?") || Contains("known: lower_bar_servo"));
  CHECK_THAT(tool("inspect sedge.cell.yaml --joint hand_servo").err,
             Contains("add --out strip.png"));
  CHECK_THAT(tool("inspect sedge.cell.yaml --out x.png").err,
             Contains("--out needs something to draw"));
}

TEST_CASE("inspect --watch looks at included files wherever they are") {
  const Folder folder;
  const Folder elsewhere;
  const std::string shared =
      elsewhere.write("sizes.yaml", "elbowroom: shared/1\nvalues: {height: 100 mm}\n");
  const std::string file = folder.write(
      "w.cell.yaml", "elbowroom: cell/1\ninclude: [" + shared +
                         "]\nfixtures: [{name: post, parts: [{box: {size: [height, height, "
                         "height]}}]}]\n");
  const std::string script =
      folder.write("save.sh", "sleep 1\necho 'elbowroom: shared/1\nvalues: {height: oops}' > '" +
                                  shared + "'\n");
  REQUIRE(std::system(("sh '" + script + "' &").c_str()) == 0);  // NOLINT: the test's own text
  const Run run = tool("inspect '" + file + "' --watch --rounds 2");
  CHECK_THAT(run.out, Contains("1 fixture"));
  CHECK_THAT(run.out, Contains("sizes.yaml:2"));
}

TEST_CASE("inspect --watch: again at every save, and a bad save keeps the last picture") {
  const Folder folder;
  const std::string file =
      folder.write("w.cell.yaml", read_file(std::string(DEMO_DIR) + "/sedge.cell.yaml"));
  folder.write("sedge.arm.yaml", read_file(std::string(DEMO_DIR) + "/sedge.arm.yaml"));
  const std::string picture = folder / "w.png";
  // A good file, a bad save, a good save again.
  const std::string script =
      folder.write("saves.sh", "while [ ! -e '" + picture + "' ]; do sleep 0.1; done\n" +
                                   "echo 'elbowroom: cell/1\narms: [{name: }]' > '" + file +
                                   ".new'\nmv '" + file + ".new' '" + file + "'\nsleep 4\ncp '" +
                                   DEMO_DIR + "/sedge.cell.yaml' '" + file + ".new'\nmv '" + file +
                                   ".new' '" + file + "'\n");
  REQUIRE(std::system(("sh '" + script + "' &").c_str()) == 0);  // NOLINT: the test's own text
  const Run run = tool("inspect '" + file + "' --watch --rounds 3 --out '" + picture + "'");
  CHECK_THAT(run.out, Contains("sedge at the tile bench: 1 arm"));
  CHECK_THAT(run.out, Contains("the last good picture is kept"));
  const auto first = run.out.find("sedge at the tile bench");
  const auto second = run.out.find("sedge at the tile bench", first + 1);
  CHECK(second != std::string::npos);
  CHECK(run.out.find("is kept") < second);
  CHECK(read_file(picture).substr(1, 3) == "PNG");
}
