#include "elbowroom/collision/inspection.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "verb.hpp"

namespace er::cli {

Verb add_inspect(CLI::App& tool) {
  auto a = std::make_shared<Arguments>();
  CLI::App* app = tool.add_subcommand("inspect", "what a cell says, and everything suspicious about it");
  add_cell(*app, *a);
  app->footer(
      "The exit code is 1 when something is wrong (not when it is only missing or odd).\n"
      "examples:\n"
      "  elbowroom inspect demo/glaze.cell.yaml\n"
      "  elbowroom inspect demo/glaze.cell.yaml --json");
  return {app, [a] {
            const Inspection inspection = inspect(load_cell(a->cell));
            const bool wrong = std::any_of(
                inspection.findings.begin(), inspection.findings.end(),
                [](const Finding& f) { return f.severity == Severity::wrong; });
            return Answer{wrong ? Exit::no : Exit::yes, inspection.report(), json_of(inspection)};
          }};
}

}  // namespace er::cli
