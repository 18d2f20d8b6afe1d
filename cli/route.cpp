#include <fmt/format.h>

#include <optional>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/gltf.hpp"
#include "elbowroom/draw/route_picture.hpp"
#include "elbowroom/files/csv.hpp"
#include "elbowroom/files/question_file.hpp"
#include "elbowroom/files/route_file.hpp"
#include "elbowroom/files/write_file.hpp"
#include "elbowroom/route/many_routes.hpp"
#include "elbowroom/route/posture_change.hpp"
#include "elbowroom/route/repair.hpp"
#include "route_question.hpp"

namespace er::cli {
namespace {

// The route with the evidence that it is free; a no where that cannot be written down.
Verdict<std::string> route_file(const Cell& cell, const CellQuery& query, const Route& route,
                                std::uint64_t seed, const SavedRules& rules) {
  const auto evidence = certify(query, route.waypoints, {.clearance = route.clearance},
                                {.progress = progress_bar(), .stop = {}});
  if (!evidence) return evidence.reason();
  SavedRoute saved{
      .from = origin_of(ELBOWROOM_VERSION, query), .seed = seed, .certificate = *evidence};
  saved.contacts = contacts_beyond(cell, query);
  saved.rules = rules;
  return route_json(saved);
}

struct Own {
  RouteQuestion question;
  std::string repair;
  std::string many;
  std::string branch;
};

// Those of --keep that a route can keep; of a route that is repaired, its own where none are given.
SavedRules rules_to_keep(const CellQuery& query, const RouteQuestion& question,
                         const std::optional<SavedRoute>& repaired) {
  if (repaired && question.keeps.empty()) return repaired->rules;
  SavedRules out{{}, question.a.tool, question.a.frame};
  for (const std::string& keep : question.keeps) {
    RouteQuestion alone = question;
    alone.keeps = {keep};
    if (!kept_rules(query, alone).rules.empty()) out.keep.push_back(keep);
  }
  return out;
}

// What --repair keeps of a saved route, and what it finds anew.
Verdict<Repaired> repair(const CellQuery& query, const Own& own, const SavedRoute& saved,
                         std::string& notes) {
  RouteOptions options = route_options(query, own.question);
  if (own.question.keeps.empty()) options.rules = rules_of(saved.rules, query.cell(), query.arm());
  const double clearance = options.clearance;
  const auto repaired = repair_route(query, saved.certificate.waypoints, options,
                                     {.progress = progress_bar(), .stop = {}});
  if (!repaired) return repaired.reason();
  const Repaired& found = *repaired;
  notes = fmt::format("  of the saved route {}\n", found.before.text(query, clearance));
  if (!found.broken_rule.empty())
    notes +=
        fmt::format("  move {} of it does not keep rule '{}'\n", found.kept + 1, found.broken_rule);
  if (!found.before.is_all() || !found.broken_rule.empty()) {
    const std::size_t moves = found.route.waypoints.size() - 1;
    notes += fmt::format("  {} of {} moves found anew, {} kept before and {} after them\n",
                         moves - found.kept - found.again, moves, found.kept, found.again);
  }
  if (saved.certificate.clearance != clearance)
    notes += fmt::format("  the saved route kept {}, this one keeps {} (--clearance)\n",
                         text_length(saved.certificate.clearance), text_length(clearance));
  return found;
}

// Every question of a file.
Answer run_many(const Own& own) {
  const RouteQuestion& question = own.question;
  check_endings(question.a, {".csv"});
  const Cell cell = read_cell(question.a);
  const RouteQuestions asked = load_questions(own.many, cell);
  const CellQuery query = for_option("--arm", [&] {
    return CellQuery(cell, question.a.arm.empty() ? asked.arm : question.a.arm);
  });
  if (query.arm().name() != asked.arm)
    throw InputError(fmt::format("--arm: the questions are of arm '{}'", asked.arm));
  const ManyRoutes found = find_routes(query, asked.questions, route_options(query, question),
                                       {.progress = progress_bar(), .stop = {}});
  for (const std::string& file : question.a.outs) write_file(file, routes_csv(found));
  const bool all = found.found() == static_cast<int>(found.answers.size());
  return {all ? Exit::yes : Exit::no,
          found.summary() + "\n" + found.report(query) + wrote(question.a.outs),
          json_of(query, found)};
}

// Another posture with the tool where it is.
Verdict<PostureChange> change(const CellQuery& query, const Own& own, std::string& notes) {
  const RouteQuestion& question = own.question;
  const Posture start = read_posture_argument(query.arm(), question.from, "--from");
  const auto changed =
      change_posture(query, start, own.branch == "any" ? "" : own.branch,
                     route_options(query, question), {.progress = progress_bar(), .stop = {}});
  if (!changed) return changed;
  if (!changed->to.empty())
    notes = fmt::format("  from '{}' to '{}' ({})\n", changed->from, changed->to, changed->legend);
  notes += fmt::format("  the tool ends where it began, and is up to {} away from there\n",
                       text_length(changed->off));
  notes += fmt::format("  room that the arm takes up on the way: {}\n", text_of(changed->room));
  return changed;
}

Answer run(const Own& own) {
  if (!own.many.empty()) return run_many(own);
  const RouteQuestion& question = own.question;
  check_endings(question.a, {".csv", ".json", ".png", ".glb", ".gltf"});
  const Cell cell = read_cell(question.a);
  std::optional<SavedRoute> saved;
  if (!own.repair.empty()) {
    saved = load_route(own.repair);
  }
  const std::string& arm_name = saved && question.a.arm.empty() ? saved->from.arm : question.a.arm;
  CellQuery query = for_option("--arm", [&] {
    return CellQuery(saved ? cell.with_contacts(saved->contacts) : cell, arm_name);
  });
  std::string notes;
  std::string json;
  Route route;
  if (!own.branch.empty()) {
    const auto changed = change(query, own, notes);
    if (!changed) return no(changed.reason());
    route = changed->route;
    json = json_of(query, *changed);
  } else if (saved) {
    const auto repaired = repair(query, own, *saved, notes);
    if (!repaired) return no(repaired.reason());
    route = repaired->route;
    json = json_of(query, *repaired);
  } else {
    const auto found = answer_route_question(query, question);
    if (!found) return no(found.reason());
    query = found->query;
    route = found->route;
    notes = found->notes;
    json = json_of(query, route);
  }
  for (const FrameSpeed& rule : kept_rules(query, question).speeds)
    notes += fmt::format("  {}: a route has no time; pace keeps to that\n", rule.text());
  for (const std::string& file : question.a.outs) {
    if (file.ends_with(".csv")) {
      write_file(file, route_csv(route, query.arm()));
      continue;
    }
    if (file.ends_with(".glb") || file.ends_with(".gltf")) {
      write_gltf(file, query.cell(), query.arm(), timed_postures(route));
      continue;
    }
    if (file.ends_with(".png")) {
      write_png(file, render_route(query, route));
      continue;
    }
    const auto text =
        route_file(cell, query, route, question.seed, rules_to_keep(query, question, saved));
    if (!text) return no(text.reason());
    write_file(file, *text);
  }
  return {Exit::yes,
          route.summary(query) + "\n" + notes + route.report(query) + wrote(question.a.outs), json};
}

}  // namespace

Verb add_route(VerbParser parser) {
  auto own = std::make_shared<Own>();
  add_route_question(parser, own->question);
  parser.text("--repair", own->repair,
              "a route saved before the cell changed: keep what still stands of it, find the rest");
  parser.text("--branch", own->branch,
              "change the posture in place: the tool ends where it is at --from, the arm on a "
              "branch with these words, such as \"down\" or \"back, up\"; or any");
  parser.text(
      "--many", own->many,
      "a file of questions, each answered in its turn and timed, with all settings as here");
  // Where these begin and end, they know themselves.
  parser.not_beside("--many", {"--from", "--to", "--target", "--place", "--require", "--repair",
                               "--branch", "--roadmap"});
  parser.not_beside(
      "--repair", {"--from", "--to", "--target", "--place", "--require", "--branch", "--roadmap"});
  parser.not_beside("--branch", {"--to", "--target", "--place", "--require", "--roadmap"});
  add_out(parser, own->question.a,
          ".csv (waypoints, SI), .json (the route with the evidence that it is free, for audit), "
          ".png (a picture: the end solid, the way faintly, the tool's path, the tightest place), "
          ".glb or .gltf (the cell with the arm moving, a radian of joint travel a second)");
  parser.footer(
      "examples:\n"
      "  elbowroom route demo/glaze.cell.yaml --from over_board --to before_kiln\n"
      "  elbowroom route demo/glaze.cell.yaml --targets demo/kiln.targets.yaml --target upper_2 "
      "--clearance \"10 mm\" --out upper_2.json --out upper_2.png\n"
      "  elbowroom route demo/glaze.cell.yaml --from over_board --to before_kiln --improve 30 "
      "--cost "
      "\"tool = 2\"\n"
      "  elbowroom route demo/glaze.cell.yaml --from over_board --to over_bucket --keep "
      "\"direction: "
      "{axis: z, along: [0, 0, -1], angle: 5 deg}\"\n"
      "  elbowroom route demo/glaze.cell.yaml --many demo/stances.questions.yaml");
  return {parser, [own] { return run(*own); }};
}

}  // namespace er::cli
