#include "elbowroom/collision/inspection.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/files/recorded_file.hpp"
#include "verb.hpp"

namespace er::cli {
namespace {

struct InspectArguments {
  Arguments a;
  std::string recorded;
  std::string fit;
  std::string touching;
  std::string rotation;
};

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

Answer answer_inspect(const InspectArguments& own) {
  const Inspection inspection = inspect(read_cell(own.a));
  const bool wrong = std::any_of(inspection.findings.begin(), inspection.findings.end(),
                                 [](const Finding& f) { return f.severity == Severity::wrong; });
  return {wrong ? Exit::no : Exit::yes, inspection.report(), json_of(inspection)};
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
  parser.footer(
      "The exit code is 1 when something is wrong (not when it is only missing or odd), and when "
      "a\n"
      "recorded pose is more than 1 mm from the model's.\n"
      "examples:\n"
      "  elbowroom inspect demo/glaze.cell.yaml\n"
      "  elbowroom inspect demo/glaze.cell.yaml --recorded demo/teasel.recorded.csv --fit zeros");
  return {parser, [own] {
            if (!own->recorded.empty()) return answer_recorded(*own);
            if (!own->touching.empty()) return answer_touching(*own);
            if (!own->fit.empty())
              throw InputError("--fit fits a recording, but none is given", "add --recorded FILE");
            return answer_inspect(*own);
          }};
}

}  // namespace er::cli
