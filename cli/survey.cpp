#include "elbowroom/survey/survey.hpp"

#include "elbowroom/files/csv.hpp"
#include "elbowroom/files/target_file.hpp"
#include "elbowroom/files/write_file.hpp"
#include "verb.hpp"

namespace er::cli {

Verb add_survey(VerbParser parser) {
  struct Own {
    Arguments a;
    std::string from = "home";
    bool no_routes = false;
  };
  auto own = std::make_shared<Own>();
  add_cell(parser, own->a);
  parser.text("TARGETS", own->a.targets, "the target file");
  parser.text("--from", own->from, "the stance that routes begin at");
  parser.flag("--no-routes", own->no_routes, "ask only for postures");
  parser.not_beside("--from", {"--no-routes"});
  add_clearance(parser, own->a);
  add_out(parser, own->a, ".csv");
  parser.footer(
      "The exit code is 1 unless every target can be reached.\n"
      "examples:\n"
      "  elbowroom survey demo/glaze.cell.yaml demo/kiln.targets.yaml\n"
      "  elbowroom survey demo/glaze.cell.yaml demo/kiln.targets.yaml --no-routes --out "
      "survey.csv");
  return {
      parser, [own] {
        check_endings(own->a, {".csv"});
        const Cell cell = read_cell(own->a);
        const auto targets = load_targets(own->a.targets, cell);
        const CellQuery query = for_option("--arm", [&] { return CellQuery(cell, own->a.arm); });
        const Survey found = for_option("--from", [&] {
          return survey(
              query, targets,
              {.clearance = read_clearance(own->a), .from = own->from, .routes = !own->no_routes},
              {.progress = progress_bar(), .stop = {}});
        });
        for (const std::string& file : own->a.outs) write_file(file, survey_csv(found));
        const bool all = found.reached() == static_cast<int>(targets.size());
        return Answer{all ? Exit::yes : Exit::no,
                      found.summary(own->from) + "\n" + found.report() + wrote(own->a.outs),
                      json_of(found)};
      }};
}

}  // namespace er::cli
