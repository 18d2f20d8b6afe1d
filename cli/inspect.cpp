#include "elbowroom/collision/inspection.hpp"
#include "verb.hpp"

namespace er::cli {

Verb add_inspect(VerbParser parser) {
  auto a = std::make_shared<Arguments>();
  add_cell(parser, *a);
  parser.footer(
      "The exit code is 1 when something is wrong (not when it is only missing or odd).\n"
      "examples:\n"
      "  elbowroom inspect demo/glaze.cell.yaml\n"
      "  elbowroom inspect demo/glaze.cell.yaml --json");
  return {parser, [a] {
            const Inspection inspection = inspect(read_cell(*a));
            const bool wrong =
                std::any_of(inspection.findings.begin(), inspection.findings.end(),
                            [](const Finding& f) { return f.severity == Severity::wrong; });
            return Answer{wrong ? Exit::no : Exit::yes, inspection.report(), json_of(inspection)};
          }};
}

}  // namespace er::cli
