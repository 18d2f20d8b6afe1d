#include "elbowroom/files/json.hpp"
#include "elbowroom/files/pair_cache.hpp"
#include "verb.hpp"

namespace er::cli {

Verb add_pairs(VerbParser parser) {
  struct Own {
    Arguments a;
    PairAuditOptions options;
    bool all = false;
    bool fresh = false;
  };
  auto own = std::make_shared<Own>();
  add_cell(parser, own->a);
  parser.number("--samples", own->options.samples, "postures to look at");
  parser.flag("--all", own->all, "every pair on a line of its own");
  parser.flag("--fresh", own->fresh, "do not use what an earlier run found for the same geometry");
  parser.number("--seed", own->options.seed, "of the draw of postures");
  parser.footer(
      "Proofs hold for every posture within the ranges; what was only sampled says so. Other arms\n"
      "move through their ranges, too. Findings are kept (in XDG_CACHE_HOME or ~/.cache) until "
      "the\n"
      "geometry changes.\n"
      "examples:\n"
      "  elbowroom pairs demo/glaze.cell.yaml\n"
      "  elbowroom pairs demo/glaze.cell.yaml --samples 100000 --json");
  return {parser, [own] {
            const Cell cell = read_cell(own->a);
            const Arm& arm = for_option("--arm", [&]() { return std::cref(cell.arm(own->a.arm)); });
            PairAuditOptions options = own->options;
            options.supervision.progress = progress_bar();
            std::optional<PairAudit> kept;
            if (!own->fresh) kept = kept_audit(cache_folder(), cell, arm.name(), options);
            const PairAudit audit = kept ? *kept : audit_pairs(cell, arm.name(), options);
            if (!kept) keep_audit(cache_folder(), cell, arm.name(), options, audit);
            std::string text = audit.report(arm, own->all);
            if (kept)
              text += "  kept from an earlier run on the same geometry; --fresh finds it anew\n";
            return Answer{Exit::yes, text, json_of(audit)};
          }};
}

}  // namespace er::cli
