#include "elbowroom/reach/solver_text.hpp"

#include <fmt/format.h>

#include "elbowroom/reach/one_held.hpp"
#include "elbowroom/reach/seven_centres.hpp"

namespace er {

std::string solver_text(const Arm& arm, const Tool& tool) {
  const auto chain = screw_chain(arm, tool);
  if (!chain) return "numeric starts (a joint of the chain moves two of its links)";
  if (const auto form = ClosedForm::of(*chain)) return form->text();
  if (SevenCentres::of(*chain))
    return "shoulder and wrist of seven joints (axes 1 to 3 meet in one point, axes 5 to 7 in "
           "another; the elbow angle is free)";
  if (const auto held = OneHeld::of(*chain)) return held->text();
  if (is_singular_everywhere({*chain, 0, chain->size()}))
    return "numeric starts (the six joints do less than six joints can, in every posture)";
  return fmt::format("numeric starts (no closed form for this chain of {} joint{})", chain->size(),
                     chain->size() == 1 ? "" : "s");
}

}  // namespace er
