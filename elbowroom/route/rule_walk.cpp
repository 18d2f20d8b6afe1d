#include "elbowroom/route/rule_walk.hpp"

namespace er {
namespace {

constexpr double kRuleStep = 0.4;  // rad or m, 2-norm
constexpr int kMostSteps = 40;
constexpr double kNearer = 0.1;       // of a step: less is not worth going on
constexpr double kMostOfAStep = 2.0;  // a step that is brought back further leads elsewhere

}  // namespace

std::vector<Posture> walk_by_rules(const Posture& from, const Posture& to, LineProver& prover) {
  std::vector<Posture> out;
  Posture at = from;
  for (int i = 0; i < kMostSteps; ++i) {
    const Posture way = to - at;
    const double left = way.norm();
    if (left <= kRuleStep) {
      if (prover.is_free(at, to)) out.push_back(to);
      return out;
    }
    const auto next = prover.rules()->projected(at + kRuleStep / left * way);
    if (!next || (*next - at).norm() > kMostOfAStep * kRuleStep ||
        (to - *next).norm() > left - kNearer * kRuleStep || !prover.is_free(at, *next))
      return out;
    out.push_back(*next);
    at = *next;
  }
  return out;
}

}  // namespace er
