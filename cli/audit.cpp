#include <fmt/format.h>

#include "clearances.hpp"
#include "elbowroom/collision/clearance_profile.hpp"
#include "elbowroom/collision/still_free.hpp"
#include "elbowroom/files/geometry_text.hpp"
#include "elbowroom/files/motion_file.hpp"
#include "elbowroom/files/route_file.hpp"
#include "elbowroom/files/target_reading.hpp"
#include "elbowroom/rehearse/audit_motion.hpp"
#include "elbowroom/rehearse/check_certificate.hpp"
#include "elbowroom/rehearse/check_rules.hpp"
#include "elbowroom/rehearse/compare_motions.hpp"
#include "elbowroom/route/rules.hpp"
#include "verb.hpp"

namespace er::cli {
namespace {

struct AuditQuestion {
  Arguments a;
  std::string file;
  std::vector<std::string> clearances;
  bool jerk = false;
  std::string tool_speed;
  std::string recorded;
  std::vector<std::string> keeps;
};

// Of --keep: how fast frames may be.
std::vector<FrameSpeed> kept_speeds(const AuditQuestion& question, const CellQuery& query) {
  const KeptRules kept = for_option("--keep", [&] {
    return read_kept(question.keeps, "--keep", query.cell(), query.arm(),
                     {.tool = question.a.tool});
  });
  if (!kept.rules.empty())
    throw InputError("--keep: an audit measures speeds of frames; other rules hold along a route",
                     "write it like {speed: 250 mm/s, of: wrist}");
  return kept.speeds;
}

std::string contacts_of(const SavedRoute& route) {
  std::string text;
  for (const MeantContact& contact : route.contacts)
    text +=
        fmt::format("  contact that is meant on it: {} and {}\n", contact.first, contact.second);
  return text;
}

// In a changed cell: how far the route still goes.
Answer not_free_any_more(const CellQuery& query, const StillFree& still,
                         const Certificate& certificate) {
  return no({Cause::in_collision,
             "no: the cell has changed, and the route is not free in it: " +
                 still.text(query, certificate.clearance),
             {{"line", static_cast<double>(still.moves), ""},
              {"at", still.share, ""},
              {"distance", still.contact.distance, "m"}},
             {},
             {"route --repair keeps what still stands of it, and finds the rest anew"}});
}

Answer route_answer(const AuditQuestion& question) {
  const SavedRoute saved = load_route(question.file);
  const Cell cell = read_cell(question.a).with_contacts(saved.contacts);
  const Arm& arm = cell.arm(question.a.arm.empty() ? saved.from.arm : question.a.arm);
  const bool same = digest_of(geometry_text(cell)) == saved.from.cell_digest;
  std::string notes = contacts_of(saved);
  const Certificate* certificate = &saved.certificate;
  auto checked = check_certificate(cell, arm, *certificate);
  Certificate anew;
  if (!same) notes += "  the cell is not the one that the route was found in\n";
  if (!checked && !same && checked.reason().cause == Cause::not_proved) {
    // The evidence is of another cell; the route may still be free in this one.
    const CellQuery query(cell, arm.name());
    const StillFree still = still_free(query, certificate->waypoints, certificate->clearance);
    if (!still.is_all()) return not_free_any_more(query, still, *certificate);
    const auto evidence =
        certify(query, certificate->waypoints, {.clearance = certificate->clearance},
                {.progress = progress_bar(), .stop = {}});
    if (!evidence) return no(evidence.reason());
    anew = *evidence;
    certificate = &anew;
    checked = check_certificate(cell, arm, *certificate);
    notes += "  its evidence does not hold here; this is new evidence\n";
  }
  if (!checked) return no(checked.reason());
  const auto rules = rules_of(saved.rules, cell, arm);
  const auto kept = check_rules(arm, rules, certificate->waypoints);
  if (!kept) return no(kept.reason());
  for (const Requirement& rule : rules)
    notes += fmt::format("  rule {}; kept at all points of the route\n", kept_text(rule));
  const JointCurve way = lines_through(certificate->waypoints);
  Clearances near;
  if (!question.clearances.empty())
    near = write_clearances(question.clearances, CellQuery(cell, arm.name()),
                            {.curve = way,
                             .title = fmt::format("{}: clearances along a route", arm.name()),
                             .is_timed = false,
                             .asked = certificate->clearance});
  return {Exit::yes,
          fmt::format("{}\n{}  {} looks at pairs of parts; found by {} on {}, seed {}\n{}",
                      checked->summary(*certificate), notes, checked->looks, saved.from.version,
                      saved.from.instruction_set, saved.seed, near.text),
          with_clearances(json_of(*checked, *certificate, same), near)};
}

// A motion, as it was saved or as a table of samples.
SavedMotion read_motion(const std::string& file, const Cell& cell, const std::string& arm) {
  if (!file.ends_with(".csv")) return load_motion(file);
  SavedMotion out;
  out.from.arm = cell.arm(arm).name();
  out.motion = load_motion_csv(file, cell.arm(arm));
  return out;
}

Answer motion_answer(const AuditQuestion& question) {
  const Cell plain = read_cell(question.a);
  const SavedMotion saved = read_motion(question.file, plain, question.a.arm);
  const Cell cell = plain.with_contacts(saved.contacts);
  const CellQuery query(cell, question.a.arm.empty() ? saved.from.arm : question.a.arm);
  MotionAuditOptions options{.clearance = read_clearance(question.a),
                             .sampled = question.file.ends_with(".csv"),
                             .jerk = question.jerk,
                             .tool = question.a.tool,
                             .frame_speeds = kept_speeds(question, query)};
  if (!question.tool_speed.empty()) {
    options.tool_speed = for_option("--tool-speed", [&] {
      return parse_quantity(question.tool_speed, per(dimension::length, 1));
    });
    if (!(options.tool_speed > 0.0)) throw InputError("--tool-speed: a limit is above zero");
  }
  const MotionAudit audit = audit_motion(query, saved.motion, options);
  std::string text = audit.summary() + "\n" + audit.report(query.arm());
  if (!saved.from.cell_digest.empty() && digest_of(geometry_text(cell)) != saved.from.cell_digest)
    text += "  the cell is not the one that the motion was made in\n";
  std::optional<MotionComparison> compared;
  if (!question.recorded.empty()) {
    const SavedMotion other = read_motion(question.recorded, plain, query.arm().name());
    compared = compare_motions(query.arm(), saved.motion, other.motion, {.tool = question.a.tool});
    text += compared->text(query.arm());
  }
  const Clearances near =
      write_clearances(question.clearances, query,
                       {.curve = saved.motion,
                        .title = fmt::format("{}: clearances of a motion", query.arm().name()),
                        .asked = options.clearance});
  return {audit.passed() ? Exit::yes : Exit::no, text + near.text,
          with_clearances(json_of(query.arm(), audit, compared ? &*compared : nullptr), near)};
}

bool is_motion(const std::string& file) {
  return file.ends_with(".csv") || read_text(file).find("\"motion/1\"") != std::string::npos;
}

Answer answer(const VerbParser& parser, const AuditQuestion& question) {
  check_clearances(question.clearances);
  if (is_motion(question.file)) return motion_answer(question);
  parser.refuse({"--clearance", "--tool", "--jerk", "--tool-speed", "--keep", "--recorded"},
                "is of a motion: a route has no time, and is checked by its evidence, at the "
                "clearance that it was saved with",
                "leave it out; or audit the motion that pace makes of the route");
  return route_answer(question);
}

}  // namespace

Verb add_audit(VerbParser parser) {
  auto question = std::make_shared<AuditQuestion>();
  add_cell(parser, question->a);
  parser.text("FILE", question->file,
              "a route or a motion, saved with route or pace --out FILE.json, or a motion as .csv");
  parser.text("--tool", question->a.tool, "whose speed is looked at; without it the first");
  add_clearance(parser, question->a);
  parser.flag("--jerk", question->jerk,
              "of a motion: jerk limits and jumps of acceleration count, too");
  parser.text("--tool-speed", question->tool_speed, "of a motion: of the tool at most");
  parser.texts("--keep", question->keeps,
               "of a motion: how fast a frame may be, \"{speed: 250 mm/s, of: wrist}\"; may be "
               "repeated");
  parser.text(
      "--recorded", question->recorded,
      "another motion (.json or .csv), such as what the arm really did: how far the two are "
      "apart, and how far the one is behind the other");
  add_clearances(parser, question->clearances);
  parser.footer(
      "A route is checked by its evidence, at the clearance that it was saved with.\n"
      "examples:\n"
      "  elbowroom audit demo/glaze.cell.yaml kiln.json --clearances near.png\n"
      "  elbowroom audit demo/glaze.cell.yaml motion.csv --tool-speed \"1 m/s\"");
  return {parser, [question, parser] { return answer(parser, *question); }};
}

}  // namespace er::cli
