#include <fmt/format.h>

#include "clearances.hpp"
#include "elbowroom/collision/clearance_profile.hpp"
#include "elbowroom/collision/still_free.hpp"
#include "elbowroom/files/geometry_text.hpp"
#include "elbowroom/files/route_file.hpp"
#include "elbowroom/rehearse/check_certificate.hpp"
#include "verb.hpp"

namespace er::cli {
namespace {

struct AuditQuestion {
  Arguments a;
  std::string route;
  std::vector<std::string> clearances;
};

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

Answer answer(const AuditQuestion& question) {
  check_clearances(question.clearances);
  const SavedRoute saved = load_route(question.route);
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

}  // namespace

Verb add_audit(VerbParser parser) {
  auto question = std::make_shared<AuditQuestion>();
  add_cell(parser, question->a);
  parser.text("ROUTE", question->route, "a route saved with route --out FILE.json");
  add_clearances(parser, question->clearances);
  parser.footer(
      "examples:\n"
      "  elbowroom route demo/glaze.cell.yaml --from home --to before_kiln --out kiln.json\n"
      "  elbowroom audit demo/glaze.cell.yaml kiln.json --clearances near.png");
  return {parser, [question] { return answer(*question); }};
}

}  // namespace er::cli
