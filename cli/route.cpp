#include "elbowroom/files/csv.hpp"
#include "elbowroom/files/write_file.hpp"
#include "route_question.hpp"

namespace er::cli {

Verb add_route(VerbParser parser) {
  auto question = std::make_shared<RouteQuestion>();
  add_route_question(parser, *question);
  add_out(parser, question->a, ".csv (waypoints, SI)");
  parser.footer(
      "examples:\n"
      "  elbowroom route demo/glaze.cell.yaml --from over_board --to before_kiln\n"
      "  elbowroom route demo/glaze.cell.yaml --targets demo/kiln.targets.yaml --target upper_2 "
      "--clearance \"10 mm\"");
  return {parser, [question] {
            check_endings(question->a, {".csv"});
            const Cell cell = read_cell(question->a);
            const CellQuery query =
                for_option("--arm", [&] { return CellQuery(cell, question->a.arm); });
            const auto route = answer_route_question(query, *question);
            if (!route) return no(route.reason());
            for (const std::string& file : question->a.outs)
              write_file(file, route_csv(*route, query.arm()));
            return Answer{
                Exit::yes,
                route->summary(query) + "\n" + route->report(query) + wrote(question->a.outs),
                json_of(query, *route)};
          }};
}

}  // namespace er::cli
