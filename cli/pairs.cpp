#include "elbowroom/collision/pair_audit.hpp"

#include "verb.hpp"

namespace er::cli {

Verb add_pairs(VerbParser parser) {
  struct Own {
    Arguments a;
    PairAuditOptions options;
    bool all = false;
  };
  auto own = std::make_shared<Own>();
  add_cell(parser, own->a);
  parser.number("--samples", own->options.samples, "postures to look at");
  parser.flag("--all", own->all, "every pair on a line of its own");
  parser.number("--seed", own->options.seed, "of the draw of postures");
  parser.footer(
      "Proofs hold for every posture within the ranges; what was only sampled says so.\n"
      "examples:\n"
      "  elbowroom pairs demo/glaze.cell.yaml\n"
      "  elbowroom pairs demo/glaze.cell.yaml --samples 100000 --json");
  return {parser, [own] {
            const Cell cell = read_cell(own->a);
            const Arm& arm = for_option("--arm", [&]() { return std::cref(cell.arm(own->a.arm)); });
            PairAuditOptions options = own->options;
            options.supervision.progress = progress_bar();
            const PairAudit audit = audit_pairs(cell, arm.name(), options);
            return Answer{Exit::yes, audit.report(arm, own->all), json_of(audit)};
          }};
}

}  // namespace er::cli
