#include "elbowroom/base/instruction_set.hpp"
#include "elbowroom/draw/route_picture.hpp"
#include "elbowroom/files/csv.hpp"
#include "elbowroom/files/geometry_text.hpp"
#include "elbowroom/files/route_file.hpp"
#include "elbowroom/files/write_file.hpp"
#include "route_question.hpp"

namespace er::cli {
namespace {

// The route with the evidence that it is free; a no where that cannot be written down.
Verdict<std::string> route_file(const Cell& cell, const CellQuery& query, const Route& route,
                                std::uint64_t seed) {
  const auto evidence = certify(query, route.waypoints, {.clearance = route.clearance},
                                {.progress = progress_bar(), .stop = {}});
  if (!evidence) return evidence.reason();
  SavedRoute saved{.version = ELBOWROOM_VERSION,
                   .instruction_set = instruction_set(),
                   .seed = seed,
                   .arm = query.arm().name(),
                   .cell = cell.name(),
                   .cell_digest = digest_of(geometry_text(query.cell())),
                   .certificate = *evidence};
  const auto& all = query.cell().contacts();
  saved.contacts.assign(all.begin() + static_cast<std::ptrdiff_t>(cell.contacts().size()),
                        all.end());
  return route_json(saved);
}

}  // namespace

Verb add_route(VerbParser parser) {
  auto question = std::make_shared<RouteQuestion>();
  add_route_question(parser, *question);
  add_out(parser, question->a,
          ".csv (waypoints, SI), .json (the route with the evidence that it is free, for audit) or "
          ".png (a picture: the end solid, the way faintly, the tool's path, the tightest place)");
  parser.footer(
      "examples:\n"
      "  elbowroom route demo/glaze.cell.yaml --from over_board --to before_kiln\n"
      "  elbowroom route demo/glaze.cell.yaml --targets demo/kiln.targets.yaml --target upper_2 "
      "--clearance \"10 mm\" --out upper_2.json --out upper_2.png");
  return {parser, [question] {
            check_endings(question->a, {".csv", ".json", ".png"});
            const Cell cell = read_cell(question->a);
            CellQuery query = for_option("--arm", [&] { return CellQuery(cell, question->a.arm); });
            const auto route = answer_route_question(query, *question);
            if (!route) return no(route.reason());
            for (const std::string& file : question->a.outs) {
              if (file.ends_with(".csv")) {
                write_file(file, route_csv(*route, query.arm()));
                continue;
              }
              if (file.ends_with(".png")) {
                write_png(file, render_route(query, *route));
                continue;
              }
              const auto text = route_file(cell, query, *route, question->seed);
              if (!text) return no(text.reason());
              write_file(file, *text);
            }
            return Answer{
                Exit::yes,
                route->summary(query) + "\n" + route->report(query) + wrote(question->a.outs),
                json_of(query, *route)};
          }};
}

}  // namespace er::cli
