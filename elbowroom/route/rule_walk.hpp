// Going towards a posture while rules are kept.
#pragma once

#include <vector>

#include "elbowroom/route/line_prover.hpp"

namespace er {

/// From a posture towards another in short straight lines, each end brought back to where the rules
/// are kept; every line is proved. The postures after the first; the last is `to` itself where it
/// gets there. Ends where it is blocked or comes no nearer. After D. Berenson, S. Srinivasa, D.
/// Ferguson and J. Kuffner, "Manipulation planning on constraint manifolds", 2009, section IV.
std::vector<Posture> walk_by_rules(const Posture& from, const Posture& to, LineProver& prover);

}  // namespace er
