#include "route_question.hpp"

#include <fmt/format.h>

#include <filesystem>

#include "elbowroom/files/roadmap_file.hpp"
#include "elbowroom/files/route_reading.hpp"
#include "elbowroom/files/target_reading.hpp"
#include "elbowroom/files/write_file.hpp"

namespace er::cli {
namespace {

// The roadmap of a file, fit for the question, and what to say of it.
class RoadmapOfFile {
 public:
  RoadmapOfFile(const CellQuery& query, const std::string& file, double clearance)
      : file_(file),
        from_(origin_of(ELBOWROOM_VERSION, query)),
        roadmap_(std::filesystem::exists(file) ? read(query, clearance) : make(query, clearance)) {}

  [[nodiscard]] Roadmap& roadmap() { return roadmap_; }
  [[nodiscard]] const std::string& notes() const { return notes_; }
  void save() const { write_file(file_, roadmap_json(from_, roadmap_)); }

 private:
  Roadmap make(const CellQuery& query, double clearance) {
    Roadmap made =
        Roadmap::build(query, {.clearance = clearance}, {.progress = progress_bar(), .stop = {}});
    notes_ = fmt::format("  made the roadmap {}: {}\n", file_, made.text());
    return made;
  }
  Roadmap read(const CellQuery& query, double clearance) {
    const SavedRoadmap found = load_roadmap(file_);
    if (found.from.arm != from_.arm || found.postures.front().size() != query.arm().dof())
      throw InputError(fmt::format("--roadmap: '{}' is of arm '{}', the question of '{}'", file_,
                                   found.from.arm, from_.arm),
                       "give each arm a roadmap of its own");
    Roadmap roadmap = found.roadmap();
    if (found.from.cell_digest != from_.cell_digest || found.clearance != clearance) {
      const RoadmapRepair repair =
          roadmap.repair(query, clearance, {.progress = progress_bar(), .stop = {}});
      notes_ = fmt::format(
          "  the roadmap {} was of {}, and is repaired: {}\n", file_,
          found.from.cell_digest != from_.cell_digest ? "another cell" : "another clearance",
          repair.text());
    }
    notes_ += fmt::format("  roadmap {}: {}\n", file_, roadmap.text());
    return roadmap;
  }

  std::string file_;
  Origin from_;
  std::string notes_;
  Roadmap roadmap_;
};

}  // namespace

void add_route_question(VerbParser& parser, RouteQuestion& question) {
  add_cell(parser, question.a);
  parser.text("--from", question.from, "the start: a stance or joint values");
  parser.text("--to", question.to, "the end: a stance or joint values; or give a target");
  add_target(parser, question.a);
  add_clearance(parser, question.a);
  parser.number("--seed", question.seed, "of the random search");
  parser.number("--tries", question.tries, "random postures tried before giving up");
  parser.number("--searches", question.searches,
                "searches that race; the cheapest route of those found in time is kept");
  parser.number("--improve", question.improve,
                "rounds of going on for a cheaper route; it ends sooner when little is gained");
  parser.text("--time", question.time, "begin nothing new after so long, such as \"200 ms\"");
  parser.texts("--cost", question.costs,
               "what the route should be short of, beside joint travel (rad): \"tool = 2\" (per m "
               "of the tool's way), \"swing = 2\" (per m of the joints' way), \"near = 3\" (of the "
               "travel nearer than \"near_within = 50 mm\" beyond the clearance), \"bends = 1\" "
               "(per rad turned at waypoints); may be repeated");
  parser.texts("--keep", question.keeps,
               "what has to hold on the whole way, as under require: in a target file: "
               "\"direction: {axis: z, along: [0, 0, -1], angle: 5 deg}\", or, once time is put on "
               "it, how fast a frame may be: \"{speed: 250 mm/s, of: wrist}\"; may be repeated");
  parser.goes_with("--in", {"--keep"}).goes_with("--tool", {"--keep"});
  parser.text(
      "--roadmap", question.roadmap,
      "a .json file of postures and proved lines, to be looked through first: made when it is "
      "not there, repaired when the cell has changed, learning from each question");
}

KeptRules kept_rules(const CellQuery& query, const RouteQuestion& question) {
  return for_option("--keep", [&] {
    return read_kept(question.keeps, "--keep", query.cell(), query.arm(),
                     {.tool = question.a.tool, .frame = question.a.frame});
  });
}

RouteOptions route_options(const CellQuery& query, const RouteQuestion& question) {
  if (question.tries < 0) throw InputError("--tries: it must be zero or more");
  if (question.searches < 1) throw InputError("--searches: at least one is made");
  if (question.improve < 0) throw InputError("--improve: rounds are zero or more");
  RouteOptions options{.clearance = read_clearance(question.a),
                       .seed = question.seed,
                       .tries = question.tries,
                       .searches = question.searches};
  if (!question.costs.empty())
    options.cost = read_route_cost(settings_as_node(question.costs, "--cost", "tool = 2"));
  options.rules = kept_rules(query, question).rules;
  if (question.improve > 0) {
    options.planner = RoutePlanner::improving;
    options.rounds = question.improve;
  }
  if (!question.time.empty()) {
    options.seconds =
        for_option("--time", [&] { return parse_quantity(question.time, dimension::time); });
    if (!(options.seconds > 0.0))
      throw InputError("--time: a search needs time", "leave it out to search without a limit");
  }
  return options;
}

AskedRoute read_asked_route(const CellQuery& query, const RouteQuestion& question) {
  const Arm& arm = query.arm();
  AskedRoute asked;
  asked.start = read_posture_argument(arm, question.from, "--from");
  asked.targets = read_any_target(query.cell(), arm, question.a);
  if (asked.targets.empty() == question.to.empty())
    throw InputError(
        question.to.empty() ? "no end is given" : "two ends are given, --to and a target",
        "give --to STANCE, or a target");
  if (!question.to.empty()) asked.end = read_posture_argument(arm, question.to, "--to");
  return asked;
}

Verdict<RouteAnswer> answer_route_question(const CellQuery& query, const RouteQuestion& question) {
  RouteOptions options = route_options(query, question);
  if (!question.roadmap.empty()) {
    check_endings("--roadmap", {question.roadmap}, {".json"});
  }
  const AskedRoute asked = read_asked_route(query, question);
  const auto ready = make_ready(query, asked, options.clearance);
  if (!ready) return ready.reason();
  std::optional<RoadmapOfFile> roadmap;
  if (!question.roadmap.empty()) {
    roadmap.emplace(ready->query, question.roadmap, options.clearance);
    options.roadmap = &roadmap->roadmap();
  }
  const auto found = find_route(*ready, options, {.progress = progress_bar(), .stop = {}});
  if (roadmap) roadmap->save();
  if (!found) return found.reason();
  RouteAnswer out{*found, ready->query};
  if (asked.targets.size() > 1)
    out.notes = fmt::format("  ends at target {}\n",
                            asked.targets[ready->target_of_goal[found->goal]].name());
  if (roadmap) out.notes += roadmap->notes();
  return out;
}

}  // namespace er::cli
