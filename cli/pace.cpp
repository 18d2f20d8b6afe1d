#include "elbowroom/pace/pace.hpp"

#include <fmt/format.h>

#include "clearances.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/gltf.hpp"
#include "elbowroom/draw/plot.hpp"
#include "elbowroom/files/csv.hpp"
#include "elbowroom/files/write_file.hpp"
#include "elbowroom/route/turn_notes.hpp"
#include "route_question.hpp"

namespace er::cli {
namespace {

struct Own {
  RouteQuestion route;
  std::string through;
  std::string profile = "quintic";
  double speed = 100.0;
  double rate = 1000.0;
  std::vector<std::string> clearances;
};

Answer run(const Own& own) {
  check_endings(own.route.a, {".csv", ".png", ".svg", ".glb", ".gltf"});
  check_clearances(own.clearances);
  const Cell cell = read_cell(own.route.a);
  CellQuery query = for_option("--arm", [&] { return CellQuery(cell, own.route.a.arm); });
  const Arm arm = query.arm();
  const PaceOptions options{
      .profile = for_option("--profile", [&] { return profile_named(own.profile); }),
      .speed = own.speed / 100.0};
  std::vector<Posture> waypoints;
  std::string proof;
  if (!own.through.empty()) {
    if (!own.route.keeps.empty() || !own.route.costs.empty() || !own.route.roadmap.empty() ||
        own.route.improve > 0)
      throw InputError(
          "--through only puts time on stances: --keep, --cost, --improve and --roadmap are for "
          "routes",
          "leave them out, or give --from and --to");
    const std::vector<std::string> names = split_at_commas(own.through);
    for (const std::string& name : names)
      waypoints.push_back(for_option("--through", [&] { return arm.stance(name); }));
    for (const std::string& jump : large_jumps(arm, waypoints, names))
      proof += "  a large jump: " + jump + "\n";
    proof += "  only timed: nothing was checked for collisions (route and rehearse do that)\n";
  } else {
    const auto route = answer_route_question(query, own.route);
    if (!route) return no(route.reason());
    query = route->query;
    waypoints = route->route.waypoints;
    proof = "  route: " + route->route.summary(query).substr(5) + "\n" + route->notes;
  }
  const auto paced = pace(waypoints, query, options);
  if (!paced) return no(paced.reason());
  for (const std::string& file : own.route.a.outs) {
    if (file.ends_with(".csv"))
      write_file(file, motion_csv(paced->motion, arm, own.rate));
    else if (file.ends_with(".glb") || file.ends_with(".gltf"))
      write_gltf(file, query.cell(), arm, timed_postures(paced->motion));
    else
      plot_motion(file, paced->motion, arm,
                  {.title = fmt::format("{}: {} motion, {}", arm.name(), own.profile,
                                        text_time(paced->motion.duration()))});
  }
  const std::string title = fmt::format("{}: clearances of a {} motion", arm.name(), own.profile);
  const Clearances near =
      write_clearances(own.clearances, query,
                       {.curve = paced->motion,
                        .title = title,
                        .asked = own.through.empty() ? read_clearance(own.route.a) : 0.0});
  return {
      Exit::yes,
      paced->summary() + "\n" + paced->report(arm) + proof + wrote(own.route.a.outs) + near.text,
      with_clearances(json_of(arm, *paced), near)};
}

}  // namespace

Verb add_pace(VerbParser parser) {
  auto own = std::make_shared<Own>();
  add_route_question(parser, own->route);
  parser.text("--through", own->through, "instead of a route: stances with commas between");
  parser.text("--profile", own->profile, "quintic or trapezoid");
  parser.number("--speed", own->speed, "percent of the velocity limits to use");
  parser.number("--rate", own->rate, "rows per second in a .csv");
  add_out(parser, own->route.a,
          ".csv (t, q, qd, qdd of every joint, SI), .png or .svg (plots), .glb or .gltf (the cell "
          "with the arm moving)");
  add_clearances(parser, own->clearances);
  parser.footer(
      "examples:\n"
      "  elbowroom pace demo/glaze.cell.yaml --from home --to before_kiln --out motion.csv\n"
      "  elbowroom pace demo/glaze.cell.yaml --through \"home, over_bucket, home\" "
      "--profile trapezoid --out motion.png");
  return {parser, [own] { return run(*own); }};
}

}  // namespace er::cli
