// Routes and their evidence, by the tool.
#include <algorithm>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "run_tool.hpp"

using namespace er::test;
using Catch::Contains;
using Catch::StartsWith;
using Json = nlohmann::json;

namespace {

// From beside the splash wall, and a short way.
const std::string kWall = "route glaze.cell.yaml --from over_board --to before_kiln --out ";
const std::string kKiln = "route glaze.cell.yaml --from home --to before_kiln --out ";

std::string audit_of(const std::string& file) { return "audit glaze.cell.yaml " + file; }

}  // namespace

TEST_CASE("audit: a saved route is checked again, and the first line says that it holds") {
  const Folder folder;
  const std::string file = folder / "wall.json";
  REQUIRE(tool(kWall + file).exit == 0);
  const Json saved = Json::parse(read_file(file));
  CHECK(saved.at("elbowroom") == "route/1");
  CHECK(saved.at("arm") == "teasel");
  CHECK(saved.at("seed") == 1);
  CHECK(saved.at("instruction_set").is_string());
  CHECK(saved.at("waypoints").size() >= 3);

  const Run audit = tool(audit_of(file));
  CHECK(audit.exit == 0);
  CHECK_THAT(audit.out, StartsWith("yes: ") && Contains("keep 5.0 mm throughout, checked again") &&
                            Contains("tightest: teasel.gripper and splash_wall"));
  const Json answer = Json::parse(tool(audit_of(file) + " --json").out);
  CHECK(answer.at("verdict") == "yes");
  CHECK(answer.at("same_cell") == true);
  CHECK(answer.at("clearance_proved") == 0.005);
  CHECK(answer.at("tightest").at("left").get<double>() > 0.0);

  // The same question, the same bytes.
  REQUIRE(tool(kWall + (folder / "again.json")).exit == 0);
  CHECK(read_file(file) == read_file(folder / "again.json"));
}

TEST_CASE(
    "audit: what does not hold is a no with its place, what is broken an error with its key") {
  const Folder folder;
  const std::string file = folder / "kiln.json";
  REQUIRE(tool(kKiln + file).exit == 0);
  const Json good = Json::parse(read_file(file));
  const auto answer_to = [&](const std::string& text) {
    return tool(audit_of(folder.write("bad.json", text)));
  };
  Json changed = good;
  changed["stretches"][3][8] = 5.0;
  const Run lied = answer_to(changed.dump());
  CHECK(lied.exit == 1);
  CHECK_THAT(lied.out, StartsWith("no: the certificate does not hold: a distance in it is false") &&
                           Contains("of move 1"));
  changed = good;
  changed["stretches"] = Json::array();
  CHECK_THAT(answer_to(changed.dump()).out, Contains("it has no evidence for teasel."));
  changed = good;
  changed["stretches"][3] = {1, 2};
  CHECK_THAT(answer_to(changed.dump()).err, Contains("'stretches[3]' is missing or not"));
  changed = good;
  changed.erase("seed");
  CHECK_THAT(answer_to(changed.dump()).err, Contains("'seed' is missing or not"));
  changed = good;
  changed["waypoints"][0] = {0.0, 1.0};
  CHECK_THAT(answer_to(changed.dump()).err, Contains("has 2 values, arm 'teasel' has 6"));
  const Run cut = answer_to(good.dump(1).substr(0, 500));
  CHECK(cut.exit == 2);
  CHECK_THAT(cut.err, Contains("bad.json:") && Contains("this is no whole JSON"));
  CHECK_THAT(answer_to("{}").err, Contains("is no saved route"));
  CHECK_THAT(answer_to("[1, 2]").err, Contains("is no saved route"));
  CHECK_THAT(tool(audit_of(folder / "none.json")).err,
             Contains("none.json: there is no such file"));
}

TEST_CASE("audit: in a changed cell the route is looked at anew") {
  const Folder folder;
  const std::string file = folder / "kiln.json";
  REQUIRE(tool(kKiln + file).exit == 0);
  const auto audit_with = [&](const std::string& fixture) {
    std::string changed = read_file(DEMO_DIR "/glaze.cell.yaml");
    const std::string heading = "\nfixtures:\n";
    const auto at = changed.find(heading);
    REQUIRE(at != std::string::npos);
    changed.insert(at + heading.size(), "  - {name: new_post, " + fixture + "}\n");
    return tool("audit " + folder.write("changed.cell.yaml", changed) + " " + file);
  };
  const Run elsewhere =
      audit_with("at: {position: [3 m, 3 m, 1 m]}, parts: [{sphere: {radius: 20 mm}}]");
  CHECK(elsewhere.exit == 0);
  CHECK_THAT(elsewhere.out, Contains("not the one that the route was found in"));
  const Run in_the_way = audit_with("parts: [{box: {size: [3 m, 3 m, 3 m]}}]");
  CHECK(in_the_way.exit == 1);
  CHECK_THAT(in_the_way.out,
             StartsWith("no: the cell has changed, and the route is not free in it: no move still "
                        "stands whole; then ") &&
                 Contains("new_post") && Contains("at 0.00 % of move 1"));
}

TEST_CASE("route: a saved route is repaired for a cell in which it is blocked") {
  const Folder folder;
  const std::string file = folder / "wall.json";
  REQUIRE(tool(kWall + file).exit == 0);
  // A lamp hangs where the tool came by, half-way along the last move.
  const Json waypoints = Json::parse(read_file(file)).at("waypoints");
  const Json& last = waypoints.back();
  const Json& before = waypoints.at(waypoints.size() - 2);
  std::string there;
  for (std::size_t k = 0; k < last.size(); ++k)
    there += (k == 0 ? "" : ", ") +
             std::to_string(0.5 * (last[k].get<double>() + before[k].get<double>())) + " rad";
  const Json place = Json::parse(tool("where glaze.cell.yaml --at '" + there + "' --json").out)
                         .at("pose")
                         .at("position");
  std::string text = read_file(DEMO_DIR "/glaze.cell.yaml");
  std::string at;
  for (const Json& value : place)
    at += (at.empty() ? "" : ", ") + std::to_string(value.get<double>()) + " m";
  text.insert(text.find("\nfixtures:\n") + 11,
              "  - {name: lamp, at: [" + at + "], parts: [{sphere: {radius: 30 mm}}]}\n");
  const std::string cell = folder.write("changed.cell.yaml", text);
  const Run audit = tool("audit " + cell + " " + file);
  const Run repaired =
      tool("route " + cell + " --repair " + file + " --out " + (folder / "new.json"));
  INFO(audit.out << repaired.out << repaired.err);
  const std::size_t stood = waypoints.size() - 2;
  const std::string stands = (stood == 1 ? "move 1 still stands"
                                         : "moves 1 to " + std::to_string(stood) + " still stand") +
                             "; then teasel.gripper and lamp come within 5.0 mm at ";
  CHECK(audit.exit == 1);
  CHECK_THAT(audit.out,
             StartsWith("no: the cell has changed, and the route is not free in it: " + stands) &&
                 Contains("route --repair"));
  CHECK(repaired.exit == 0);
  CHECK_THAT(repaired.out, StartsWith("yes: ") && Contains("of the saved route " + stands) &&
                               Contains(std::to_string(stood) + " kept before and 0 after them"));
  const Json facts =
      Json::parse(tool("route " + cell + " --repair " + file + " --json").out).at("repaired");
  CHECK(facts.at("moves_still_free") == stood);
  CHECK(facts.at("kept_before") == stood);
  CHECK(facts.at("first_contact").at("second") == "lamp");
  CHECK(tool("audit " + cell + " " + (folder / "new.json")).exit == 0);
  const Run both = tool("route " + cell + " --repair " + file + " --to home");
  CHECK(both.exit == 2);
  CHECK_THAT(both.err, Contains("--repair and --to cannot go together"));
}

namespace {

const std::string kIntoBucket =
    " --place '50 mm, 680 mm, 60 mm' --rpy '180 deg, 0, 0' --leave 'turn = free' --clearance '3 "
    "mm'";

}  // namespace

TEST_CASE("route: into a bucket that is a mesh, not into its hull") {
  const Folder folder;
  const std::string file = folder / "bucket.json";
  const Run into = tool("route measured.cell.yaml" + kIntoBucket + " --out " + file);
  CHECK(into.exit == 0);
  CHECK_THAT(into.out, StartsWith("yes: "));
  const Json saved = Json::parse(read_file(file));
  const auto of_elements = [](const Json& stretch) { return stretch.size() == 14; };
  CHECK(std::any_of(saved.at("stretches").begin(), saved.at("stretches").end(), of_elements));
  const Run audit = tool("audit measured.cell.yaml " + file);
  CHECK(audit.exit == 0);
  CHECK_THAT(audit.out, StartsWith("yes: ") && Contains("keep 3.0 mm throughout"));

  for (const char* name : {"bucket.ply", "ware.csv", "bracken.cell.yaml", "bracken.arm.yaml"})
    folder.write(name, read_file(std::string(DEMO_DIR) + "/" + name));
  std::string text = read_file(std::string(DEMO_DIR) + "/measured.cell.yaml");
  text.replace(text.find("{mesh: "), 7, "{hull: ");
  const Run filled = tool("route " + folder.write("filled.cell.yaml", text) + kIntoBucket);
  CHECK(filled.exit == 1);
  CHECK_THAT(filled.out, StartsWith("no: ") && Contains("bracken.peel and bucket"));
  CHECK(tool("audit " + (folder / "filled.cell.yaml") + " " + file).exit == 1);
}

TEST_CASE("draw and inspect: the balls that cover an arm") {
  const Folder folder;
  CHECK(
      tool("draw glaze.cell.yaml --width 320 --height 200 --out " + (folder / "plain.png")).exit ==
      0);
  CHECK(tool("draw glaze.cell.yaml --covers --width 320 --height 200 --out " +
             (folder / "covers.png"))
            .exit == 0);
  CHECK(read_file(folder / "covers.png") != read_file(folder / "plain.png"));
  const Json covers =
      Json::parse(tool("inspect bracken.cell.yaml --json").out).at("arms").at(0).at("covers");
  CHECK(covers.at("balls").get<int>() > 50);
  CHECK(covers.at("bulge").get<double>() > 0.0);
  CHECK(covers.at("widest_at") == "base");
}

TEST_CASE("audit and pace: how near things come to each link, as a table and a plot") {
  const Folder folder;
  const std::string file = folder / "kiln.json";
  REQUIRE(tool(kKiln + file).exit == 0);
  const Run audit = tool(audit_of(file) + " --clearances " + (folder / "near.csv") +
                         " --clearances " + (folder / "near.svg"));
  CHECK(audit.exit == 0);
  CHECK_THAT(audit.out, Contains("least clearance seen: teasel.forearm and teasel.flange, 30.4 mm "
                                 "apart at 0.0 % of move 1") &&
                            Contains("wrote " + (folder / "near.csv")));
  const Json facts =
      Json::parse(tool(audit_of(file) + " --json --clearances " + (folder / "near.csv")).out)
          .at("clearances");
  CHECK(facts.at("least").at("first") == "teasel.forearm");
  CHECK(facts.at("between").get<double>() <= 5e-4);
  const std::string table = read_file(folder / "near.csv");
  CHECK_THAT(table, StartsWith("at,base_clearance_m,base_nearest,turret_clearance_m"));
  CHECK(std::count(table.begin(), table.end(), '\n') > 1000);
  CHECK_THAT(read_file(folder / "near.svg"), Contains("<svg") && Contains("upper_arm"));
  const Run paced = tool("pace glaze.cell.yaml --from home --to before_kiln --clearances " +
                         (folder / "paced.csv"));
  CHECK(paced.exit == 0);
  CHECK_THAT(paced.out, Contains("apart at 0.000 s; "));
  const Run misspelt = tool(audit_of(file) + " --clearances near.txt");
  CHECK(misspelt.exit == 2);
  CHECK_THAT(misspelt.err, Contains("--clearances near.txt: the ending '.txt'"));
}

TEST_CASE("route: what it should be short of, how long it may search, and going on") {
  const std::string way = "route glaze.cell.yaml --from over_board --to before_kiln";
  const Json plain = Json::parse(tool(way + " --json").out);
  const Json improved = Json::parse(tool(way + " --improve 5 --cost 'tool = 5' --json").out);
  CHECK(plain.at("cost") == plain.at("length"));
  CHECK(plain.at("costs").empty());
  CHECK(improved.at("cost").get<double>() > improved.at("length").get<double>());
  CHECK(improved.at("costs").size() >= 2);
  CHECK(improved.at("out_of_time") == false);
  CHECK_THAT(tool(way + " --improve 5").out, Contains("improved in"));
  const Run hurried = tool(way + " --time '1e-9 s'");
  CHECK(hurried.exit == 1);
  CHECK_THAT(hurried.out,
             StartsWith("no: no route found in 0 tries, for which there were 1e-09 s"));

  const auto error = [&](const std::string& more) {
    const Run run = tool(way + " " + more);
    CHECK(run.exit == 2);
    return run.err;
  };
  CHECK_THAT(error("--time '0 s'"), Contains("--time: a search needs time"));
  CHECK_THAT(error("--time '3 mm'"), Contains("--time"));
  CHECK_THAT(error("--cost tool"), Contains("'tool' does not say how much"));
  CHECK_THAT(error("--cost 'tol = 1'"), Contains("did you mean 'tool'?"));
  CHECK_THAT(error("--cost 'tool = -1'"), Contains("zero or more"));
  CHECK_THAT(error("--searches 0"), Contains("--searches: at least one"));
  CHECK_THAT(error("--roadmap way.txt"), Contains("'.txt'"));
  CHECK_THAT(error("--many stances.questions.yaml"),
             Contains("--many and --from cannot go together"));
}

TEST_CASE("route: a roadmap is made, used again, and repaired for another cell") {
  const Folder folder;
  const std::string file = folder / "way.json";
  const std::string way = " --from over_board --to before_kiln --roadmap " + file;
  const Run made = tool("route glaze.cell.yaml" + way);
  CHECK(made.exit == 0);
  CHECK_THAT(made.out, Contains("made the roadmap " + file) && Contains("along the roadmap"));
  const Json saved = Json::parse(read_file(file));
  CHECK(saved.at("elbowroom") == "roadmap/1");
  CHECK(saved.at("arm") == "teasel");
  const Run again = tool("route glaze.cell.yaml" + way + " --json");
  CHECK(Json::parse(again.out).at("from_roadmap") == true);
  const Run wider = tool("route glaze.cell.yaml" + way + " --clearance '8 mm'");
  CHECK(wider.exit == 0);
  CHECK_THAT(wider.out, Contains("was of another clearance, and is repaired: ") &&
                            Contains("proved to keep 8.0 mm"));
  std::string text = read_file(std::string(DEMO_DIR) + "/glaze.cell.yaml");
  const std::size_t wall = text.find("name: splash_wall");
  const std::size_t at = text.find("at: [", wall);
  REQUIRE(at != std::string::npos);
  text.replace(at, 5, "at: [5 mm + ");
  const Run moved = tool("route " + folder.write("moved.cell.yaml", text) + way);
  CHECK(moved.exit == 0);
  CHECK_THAT(moved.out, Contains("was of another cell, and is repaired: "));
  const Run other = tool("route bracken.cell.yaml --from home --to home --roadmap " + file);
  CHECK(other.exit == 2);
  CHECK_THAT(other.err, Contains("is of arm 'teasel', the question of 'bracken'"));
}

TEST_CASE("route --many: a file of questions, answered and timed") {
  const Folder folder;
  const Run many =
      tool("route glaze.cell.yaml --many stances.questions.yaml --out " + (folder / "ways.csv"));
  CHECK(many.exit == 1);  // the back rows of the kiln
  CHECK_THAT(many.out, StartsWith("no: 25 of 31 questions have a route"));
  CHECK_THAT(read_file(folder / "ways.csv"), StartsWith("question,verdict,moves,length_rad"));
  const Json facts =
      Json::parse(tool("route glaze.cell.yaml --many stances.questions.yaml --json").out);
  CHECK(facts.at("found") == 25);
  CHECK(facts.at("answers").at(0).at("route").at("waypoints").size() >= 2);
}

TEST_CASE("route: to any of several targets") {
  const Run any = tool(
      "route glaze.cell.yaml --from before_kiln --targets kiln.targets.yaml --target 'upper_7, "
      "upper_2'");
  CHECK(any.exit == 0);
  CHECK_THAT(any.out, Contains("ends at target upper_2"));
}

TEST_CASE("tune: settings compared, as a table, rows, a chart and the paths") {
  const Folder folder;
  const Run run = tool(
      "tune glaze.cell.yaml --from over_board --to before_kiln --seeds 4 --try 'searches = [1, 3]' "
      "--try 'shortcuts = [0, 400]' --out " +
      (folder / "tune.csv") + " --out " + (folder / "tune.svg"));
  CHECK(run.exit == 0);
  CHECK_THAT(run.out, StartsWith("yes: keep searches ") && Contains("searches 1, shortcuts 0") &&
                          Contains("4 of 4"));
  const std::string rows = read_file(folder / "tune.csv");
  CHECK(std::count(rows.begin(), rows.end(), '\n') == 1 + 4 * 4);
  CHECK_THAT(read_file(folder / "tune.svg"),
             Contains("<svg") && Contains("searches 3, shortcuts 400"));
  const Run misspelt =
      tool("tune glaze.cell.yaml --from home --to before_kiln --try 'serches = [1]'");
  CHECK(misspelt.exit == 2);
  CHECK_THAT(misspelt.err, Contains("searches"));
  CHECK(tool("tune glaze.cell.yaml --from home --to before_kiln --seeds 0").exit == 2);
}

TEST_CASE("route: rules that hold on the whole way") {
  const std::string way = "route glaze.cell.yaml --from over_board --to over_bucket --keep ";
  const Run level =
      tool(way + "'{name: level, direction: {axis: z, along: [0, 0, -1], angle: 5 deg}}'");
  CHECK(level.exit == 0);
  CHECK_THAT(level.out,
             Contains("rule 'level': its z at up to 5 deg to direction [0, 0, -1]; proved"));
  const Json facts =
      Json::parse(tool(way + "'direction: {axis: z, along: [0, 0, -1], angle: 5 deg}' --json").out);
  CHECK(facts.at("kept").size() == 1);
  CHECK_THAT(facts.at("kept").at(0).get<std::string>(), StartsWith("'direction 1'"));
  const Folder folder;
  const std::string saved = folder / "level.json";
  CHECK_THAT(
      tool(way + "'direction: {axis: z, along: [0, 0, -1], angle: 5 deg}' --out " + saved).out,
      Contains("  wrote " + saved));
  CHECK(tool("audit glaze.cell.yaml " + saved).exit == 0);
  const Run exact = tool(way + "'direction: {axis: z, along: [0, 0, -1]}'");
  CHECK(exact.exit == 2);
  CHECK_THAT(exact.err, Contains("holds a direction exactly, and a route needs room"));
  const Run broken = tool(
      "route glaze.cell.yaml --to before_kiln --keep 'direction: {axis: z, along: [0, 0, -1], "
      "angle: "
      "5 deg}'");
  CHECK(broken.exit == 1);
  CHECK_THAT(broken.out, StartsWith("no: at the goal: rule 'direction 1' is not kept"));
  CHECK(tool(way + "'direction: {axs: z}'").exit == 2);
}

TEST_CASE("route: another posture in place, with the room it takes") {
  const Run run = tool("route glaze.cell.yaml --from over_bucket --branch any");
  CHECK(run.exit == 0);
  CHECK_THAT(run.out, Contains("from 'front, up, +' to 'front, up, -'") &&
                          Contains("the tool ends where it began, and is up to") &&
                          Contains("room that the arm takes up on the way: x "));
  const Json facts =
      Json::parse(tool("route glaze.cell.yaml --from over_bucket --branch=- --json").out);
  CHECK(facts.at("to_branch") == "front, up, -");
  CHECK(facts.at("room").at("low").size() == 3);
  const Run none = tool("route glaze.cell.yaml --from over_bucket --branch back");
  CHECK(none.exit == 1);
  CHECK_THAT(none.out, Contains("there are: front, up, -"));
  CHECK(tool("route glaze.cell.yaml --from home --to home --branch any").exit == 2);
}

TEST_CASE("route and pace: the moving cell as glTF") {
  const Folder folder;
  CHECK(tool("route glaze.cell.yaml --to before_kiln --out " + (folder / "way.glb")).exit == 0);
  CHECK(read_file(folder / "way.glb").substr(0, 4) == "glTF");
  CHECK(tool("pace glaze.cell.yaml --to before_kiln --out " + (folder / "way.gltf")).exit == 0);
  const Json scene = Json::parse(read_file(folder / "way.gltf"));
  CHECK(scene.at("asset").at("version") == "2.0");
  CHECK(scene.at("animations").at(0).at("channels").size() >= 2);
}

TEST_CASE("pace: a list of waypoints keeps no rule, and says so") {
  const Run run = tool(
      "pace glaze.cell.yaml --through 'home, over_bucket' --keep 'direction: {axis: z, along: [0, "
      "0, -1], angle: 5 deg}'");
  CHECK(run.exit == 2);
  CHECK_THAT(run.err, Contains("--through and --waypoints only put time on what they list"));
}

TEST_CASE("route: rules are saved with it, audited by other means, and kept when it is repaired") {
  const Folder folder;
  const std::string file = folder / "level.json";
  const Run run = tool(
      "route glaze.cell.yaml --from over_board --to over_bucket --keep '{name: level, direction: "
      "{axis: z, along: [0, 0, -1], angle: 10 deg}}' --keep '{speed: 1 m/s}' --out '" +
      file + "'");
  CHECK(run.exit == 0);
  const Json saved = Json::parse(read_file(file));
  CHECK(saved.at("rules").at("keep").size() == 1);
  const Run audit = tool("audit glaze.cell.yaml '" + file + "'");
  CHECK(audit.exit == 0);
  CHECK_THAT(audit.out,
             Contains("  rule 'level': its z at up to 10 deg to direction [0, 0, -1]; kept "
                      "at all points of the route"));
  // Somebody says it keeps more than it does.
  Json tighter = saved;
  tighter["rules"]["keep"][0] =
      "{name: level, direction: {axis: z, along: [0, 0, -1], angle: 0.01 deg}}";
  const Run no = tool("audit glaze.cell.yaml " + folder.write("tighter.json", tighter.dump()));
  CHECK(no.exit == 1);
  CHECK_THAT(no.out, StartsWith("no: rule 'level' is not kept at "));
  Json unknown = saved;
  unknown["rules"]["keep"][0] =
      "{direction: {axis: z, along: [0, 0, -1], angle: 9 deg}, of: nobody}";
  const Run error = tool("audit glaze.cell.yaml " + folder.write("unknown.json", unknown.dump()));
  CHECK(error.exit == 2);
  CHECK_THAT(error.err, Contains("unknown tool or link 'nobody'"));
  // Repaired where nothing has changed, it is the same, and still keeps it.
  const std::string again = folder / "again.json";
  CHECK_THAT(tool("route glaze.cell.yaml --repair '" + file + "' --out '" + again + "'").out,
             Contains("rule 'level'"));
  CHECK(Json::parse(read_file(again)).at("rules") == saved.at("rules"));
  // And what is asked of it anew is found anew.
  const Run other =
      tool("route glaze.cell.yaml --repair '" + file +
           "' --keep '{name: level, direction: {axis: z, along: [0, 0, -1], angle: 0.05 deg}}'");
  CHECK(other.exit == 0);
  CHECK_THAT(other.out, Contains("of it does not keep rule 'level'") && Contains("found anew"));
}
