#include "elbowroom/collision/inspection.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/base/table.hpp"
#include "elbowroom/draw/joint_strip.hpp"
#include "elbowroom/files/mesh_file.hpp"
#include "elbowroom/files/recorded_file.hpp"
#include "elbowroom/kinematics/model_fit.hpp"
#include "elbowroom/kinematics/touch_fit.hpp"
#include "elbowroom/model/posture_text.hpp"
#include "elbowroom/reach/solver_text.hpp"
#include "inspect_mesh.hpp"
#include "picture.hpp"
#include "verb.hpp"
#include "watch.hpp"

namespace er::cli {
namespace {

struct InspectArguments {
  Arguments a;
  std::string recorded;
  std::string fit;
  std::string touching;
  std::string rotation;
  std::string joint;
  std::string at;
  int random = 0;
  int rounds = 0;
  std::uint64_t seed = 1;
  bool watch = false;
  std::vector<std::string> more;  // mesh files
  InspectMesh mesh;
};

constexpr int kTiles = 8;

RotationOrder order_of(const InspectArguments& own, const Arm& arm) {
  if (own.rotation.empty()) return arm.rotations();
  return for_option("--rotation", [&] { return rotation_order_named(own.rotation); });
}

// The model held against what was recorded on the real arm.
Answer answer_recorded(const InspectArguments& own) {
  const Cell cell = read_cell(own.a);
  const Arm& arm = for_option("--arm", [&]() { return std::cref(cell.arm(own.a.arm)); });
  const Tool tool = for_option("--tool", [&] { return arm.tool(own.a.tool); });
  const Pose frame = for_option("--in", [&] { return cell.frame(own.a.frame); });
  const Recording recording = load_recording(own.recorded, arm, order_of(own, arm));
  const RecordedComparison comparison = compare_recorded(arm, tool, recording, frame);
  std::string text = comparison.report(recording);
  std::vector<std::pair<std::string, std::string>> json{
      {"rows", json_of(static_cast<double>(recording.rows.size()))},
      {"recorded", json_of(comparison)}};
  if (!own.fit.empty()) {
    if (own.fit != "zeros" && own.fit != "lengths")
      throw unknown_name("freedom for --fit", own.fit,
                         std::vector<std::string>{"zeros", "lengths"});
    const ModelFit fit =
        fit_recorded(arm, tool, recording,
                     own.fit == "zeros" ? FitFreedom::zeros : FitFreedom::zeros_and_lengths, frame);
    text += fit.report();
    json.emplace_back("fit", json_of(fit));
  }
  constexpr double kBelievable = 1e-3;  // m; what arms are calibrated to
  return {comparison.errors.worst_position <= kBelievable ? Exit::yes : Exit::no, text,
          json_object(json)};
}

Answer answer_touching(const InspectArguments& own) {
  const Cell cell = read_cell(own.a);
  const Arm& arm = for_option("--arm", [&]() { return std::cref(cell.arm(own.a.arm)); });
  const auto fit = fit_touching(load_poses(own.touching, order_of(own, arm)));
  if (!fit) return no(fit.reason());
  const Vector3 mm = fit->tip * 1e3;
  const Vector3 point = fit->point * 1e3;
  return {
      Exit::yes,
      fmt::format("the tip is at [{:.3f}, {:.3f}, {:.3f}] mm in the flange's frame; worst {:.3f} "
                  "mm, mean {:.3f} mm off\n  it touched [{:.3f}, {:.3f}, {:.3f}] mm\n",
                  mm.x(), mm.y(), mm.z(), fit->worst * 1e3, fit->mean * 1e3, point.x(), point.y(),
                  point.z()),
      json_object({{"tip", json_of(Posture(fit->tip))},
                   {"point", json_of(Posture(fit->point))},
                   {"worst", json_of(fit->worst)},
                   {"mean", json_of(fit->mean)}})};
}

// A joint swept, or random postures, as a strip of pictures.
Answer answer_strip(const InspectArguments& own) {
  if (own.a.outs.empty()) throw InputError("no file to draw to is given", "add --out strip.png");
  const Cell cell = read_cell(own.a);
  const Arm& arm = for_option("--arm", [&]() { return std::cref(cell.arm(own.a.arm)); });
  Posture posture = arm.home_or_zero();
  if (!own.at.empty()) posture = read_posture_argument(arm, own.at, "--at");
  Strip strip;
  std::string text;
  if (!own.joint.empty()) {
    std::vector<std::string> known;
    for (int k = 0; k < arm.dof(); ++k) known.push_back(arm.moving_joint(k).name);
    const auto found = std::find(known.begin(), known.end(), own.joint);
    if (found == known.end()) throw unknown_name("moving joint for --joint", own.joint, known);
    const auto joint = static_cast<int>(found - known.begin());
    strip = joint_strip(arm, joint, posture, {.tiles = kTiles});
    text = fmt::format("joint {} from left to right, the upper row first:", own.joint);
    for (const Posture& q : strip.postures)
      text += fmt::format(" {}", text_value(arm.moving_joint(joint), q[joint]));
    text +=
        "\n  the arrow is its axis; a positive turn goes clockwise for who looks along it, from "
        "the "
        "grey mark\n  (value zero) to the orange one; frames: x red, y green, z blue\n";
  } else {
    strip = random_strip(arm, own.seed, {.tiles = own.random});
    text =
        fmt::format("{} random postures, from left to right, the upper row first:\n", own.random);
    Table table(joint_headings(arm));
    for (const Posture& q : strip.postures) table.row(joint_cells(arm, q));
    text += table.text();
  }
  for (const std::string& file : own.a.outs) write_png(file, strip.image);
  std::vector<std::string> postures;
  for (const Posture& q : strip.postures) postures.push_back(json_of(q));
  return {Exit::yes, text + wrote(own.a.outs),
          json_object({{"files", json_of(own.a.outs)},
                       {"postures", fmt::format("[{}]", fmt::join(postures, ","))}})};
}

// What answers questions about the tools of each arm, and why.
std::vector<std::pair<std::string, std::string>> solvers(const Cell& cell) {
  std::vector<std::pair<std::string, std::string>> out;
  for (const Arm& arm : cell.arms()) {
    for (const Tool& tool : arm.tools())
      out.emplace_back(arm.name() + "." + tool.name, solver_text(arm, tool));
  }
  return out;
}

std::string solver_lines(const Cell& cell) {
  std::string out;
  for (const auto& [tool, text] : solvers(cell))
    out += fmt::format("  targets of {}: {}\n", tool, text);
  return out.empty() ? out : "\n" + out;
}

// The inspection, and the picture of the cell if one is asked for.
std::string inspect_and_draw(const InspectArguments& own) {
  const Cell cell = read_cell(own.a);
  std::string text = inspect(cell).report() + solver_lines(cell);
  if (own.a.outs.empty() || cell.arms().empty()) return text;
  const Arm& arm = cell.arms().front();
  const Posture posture = arm.home_or_zero();
  const Scene scene(cell, postures_with(cell, arm, posture));
  // Coarser than a picture to keep, so that it is there within the second.
  const Image image = render(scene, best_view(scene),
                             {.width = 960, .height = 600, .edge_samples = 3, .light_samples = 3});
  for (const std::string& file : own.a.outs) write_png(file, image);
  return text + wrote(own.a.outs);
}

Answer answer_inspect(const InspectArguments& own) {
  if (own.watch) {
    watch(own.a.cell, own.rounds, [&] { return inspect_and_draw(own); });
    return {Exit::yes, "", "{}"};
  }
  const Cell cell = read_cell(own.a);
  const Inspection inspection = inspect(cell);
  std::vector<std::string> forms;
  for (const auto& [tool, text] : solvers(cell))
    forms.push_back(json_object({{"tool", json_of(tool)}, {"solver", json_of(text)}}));
  const bool wrong = std::any_of(inspection.findings.begin(), inspection.findings.end(),
                                 [](const Finding& f) { return f.severity == Severity::wrong; });
  return {wrong ? Exit::no : Exit::yes, inspection.report() + solver_lines(cell),
          json_joined({json_of(inspection),
                       json_object({{"solvers", fmt::format("[{}]", fmt::join(forms, ","))}})})};
}

void refuse_beside_mesh(const VerbParser& parser, const InspectArguments& own) {
  parser.refuse({"--recorded", "--touching", "--joint", "--random", "--watch", "--station",
                 "--hold", "--holding"},
                fmt::format("goes with a cell file, and '{}' is a mesh", own.a.cell),
                "leave it out, or name the cell file in place of the mesh");
}

void refuse_without_mesh(const VerbParser& parser, const InspectArguments& own) {
  if (!own.more.empty())
    throw InputError(fmt::format("one cell file at a time: '{}' is one more", own.more.front()),
                     "only mesh files can be inspected together");
  parser.refuse({"--unit", "--density", "--within", "--cell", "--apart"},
                fmt::format("goes with a mesh file, and '{}' is none", own.a.cell),
                "name a mesh file in place of the cell file, or leave it out");
}

}  // namespace

Verb add_inspect(VerbParser parser) {
  auto own = std::make_shared<InspectArguments>();
  add_cell(parser, own->a);
  parser.text("--recorded", own->recorded,
              "hold a table of recorded postures and poses (.csv) against the model instead");
  parser.text("--fit", own->fit, "with --recorded: fit zeros, or lengths and zeros");
  parser.text("--touching", own->touching,
              "find the tool centre point from flange poses (.csv) that touch one point instead");
  parser.text("--rotation", own->rotation,
              "the order of the angles in those tables, such as moving_zyx (the arm's own)");
  parser.text("--tool", own->a.tool, "with --recorded: whose tip was recorded (the arm's first)");
  parser.text("--in", own->a.frame, "with --recorded: the frame of its poses (world)");
  parser.text("--joint", own->joint,
              "sweep this joint in a strip of pictures, with its axis and marks (--out)");
  parser.text("--at", own->at, "with --joint: how the others stand (home)");
  parser.number("--random", own->random, "so many random postures in a strip of pictures (--out)");
  parser.number("--seed", own->seed, "of the random postures");
  parser.flag("--watch", own->watch,
              "do it again at every save in the cell file's folder, with the picture (--out)");
  parser.number("--rounds", own->rounds, "with --watch: end after so many (0: when interrupted)");
  parser.more("MORE", own->more, "with a mesh file: others of the same arm, from the base outward");
  parser.text("--unit", own->mesh.unit, "of a mesh file: its unit, such as mm (m)");
  parser.text("--density", own->mesh.density, "of a mesh file: what it is made of, 2700 kg/m^3");
  parser.text(
      "--within", own->mesh.within,
      "of a mesh file: find the simplest shapes that stand out of each body by no more, 5mm");
  parser.text("--cell", own->mesh.cell,
              "of a mesh file: the cell whose arm it is of, in the arm's base frame, all joints at "
              "zero");
  parser.number("--apart", own->mesh.apart,
                "of a mesh file: draw the bodies moved apart by so many times their distance");
  add_out(parser, own->a, ".png");
  const std::vector<std::string> tables{"--recorded", "--touching"};
  parser.goes_with("--fit", {"--recorded"})
      .goes_with("--rotation", tables)
      .goes_with("--tool", {"--recorded"})
      .goes_with("--in", {"--recorded"})
      .goes_with("--at", {"--joint"})
      .goes_with("--seed", {"--random"})
      .goes_with("--rounds", {"--watch"})
      .goes_with("--apart", {"--out"})
      .goes_with("--arm", {"--recorded", "--touching", "--joint", "--random", "--station", "--hold",
                           "--holding", "--cell"})
      .not_beside("--recorded", {"--touching", "--joint", "--random", "--watch"})
      .not_beside("--touching", {"--joint", "--random", "--watch"})
      .not_beside("--watch", {"--joint", "--random"})
      .not_beside("--joint", {"--random"});
  parser.footer(
      "In place of a cell file a mesh file (.stl, .obj, .ply, .gltf, .glb, .dae) is taken apart: "
      "its "
      "bodies,\n"
      "whether each is closed, what is inside of what; with --cell also which link each belongs "
      "to, "
      "and\n"
      "whether the joints' axes are where its bores and bosses are.\n"
      "The exit code is 1 when something is wrong (not when it is only missing or odd), and when "
      "a\n"
      "recorded pose is more than 1 mm from the model's.\n"
      "examples:\n"
      "  elbowroom inspect demo/glaze.cell.yaml\n"
      "  elbowroom inspect demo/glaze.cell.yaml --joint elbow --out elbow.png\n"
      "  elbowroom inspect demo/glaze.cell.yaml --recorded demo/teasel.recorded.csv --fit zeros\n"
      "  elbowroom inspect demo/teasel.stl --unit mm --cell demo/glaze.cell.yaml --out bodies.png");
  return {parser, [own, parser] {
            check_endings(own->a, {".png"});
            if (is_mesh_file(own->a.cell)) {
              refuse_beside_mesh(parser, *own);
              own->mesh.files = own->more;
              own->mesh.files.insert(own->mesh.files.begin(), own->a.cell);
              for (const std::string& file : own->more)
                if (!is_mesh_file(file))
                  throw InputError(fmt::format("'{}' is no mesh file, as the first is", file),
                                   "name mesh files alone, and the cell by --cell");
              return answer_mesh(own->mesh, own->a);
            }
            refuse_without_mesh(parser, *own);
            if (!own->joint.empty() || own->random > 0) return answer_strip(*own);
            if (!own->a.outs.empty() && !own->watch)
              throw InputError(
                  "--out needs something to draw",
                  "add --joint NAME, --random N or --watch; the cell itself is drawn by "
                  "elbowroom draw");
            if (!own->recorded.empty()) return answer_recorded(*own);
            if (!own->touching.empty()) return answer_touching(*own);
            return answer_inspect(*own);
          }};
}

}  // namespace er::cli
