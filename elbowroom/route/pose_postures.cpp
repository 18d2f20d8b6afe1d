#include "elbowroom/route/pose_postures.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <optional>

#include "elbowroom/base/units.hpp"
#include "elbowroom/reach/closed_form.hpp"
#include "elbowroom/reach/full_turns.hpp"
#include "elbowroom/reach/one_held.hpp"
#include "elbowroom/reach/seven_centres.hpp"

namespace er {
namespace {

constexpr int kAngles = 32;  // of the elbow, over a full turn: neighbours can be joined
constexpr int kHeld = 32;    // steps of a joint that is held, over its range

}  // namespace

struct PosePostures::Forms {
  std::optional<ClosedForm> closed;
  std::optional<SevenCentres> seven;
  std::optional<OneHeld> held;
};

PosePostures::PosePostures(const Arm& arm, const Tool& tool, const Posture& rest)
    : arm_(arm), rest_(rest) {
  auto forms = std::make_shared<Forms>();
  if (const auto chain = screw_chain(arm, tool)) {
    forms->closed = ClosedForm::of(*chain);
    if (!forms->closed) forms->seven = SevenCentres::of(*chain);
    if (!forms->closed && !forms->seven) forms->held = OneHeld::of(*chain);
  }
  forms_ = std::move(forms);
}

bool PosePostures::can() const { return forms_->closed || forms_->seven || forms_->held; }

bool PosePostures::is_in_range(const Posture& posture) const {
  constexpr double kSlack = 1e-9;  // rad or m
  return (posture.array() >= arm_.limits().lower.array() - kSlack).all() &&
         (posture.array() <= arm_.limits().upper.array() + kSlack).all();
}

void PosePostures::at(const Pose& tip, std::vector<Posture>& out) const {
  const auto take = [&](const ScrewChain& chain, const ClosedSolution& one) {
    Posture posture = rest_;
    for (std::size_t i = 0; i < chain.screws.size(); ++i)
      if (chain.screws[i].posture_index >= 0)
        posture[chain.screws[i].posture_index] = one.values[i];
    const std::size_t first = out.size();
    append_full_turns(arm_, arm_.limits().lower, arm_.limits().upper, posture, rest_, out);
    // Joints that slide may be out of their ranges.
    out.erase(std::remove_if(out.begin() + static_cast<std::ptrdiff_t>(first), out.end(),
                             [&](const Posture& turned) { return !is_in_range(turned); }),
              out.end());
  };
  if (forms_->closed) {
    ClosedSolutions solutions;
    forms_->closed->solve(tip, solutions);
    for (const ClosedSolution& one : solutions) take(forms_->closed->chain(), one);
  } else if (forms_->seven) {
    std::array<double, kAngles> angles{};
    for (std::size_t i = 0; i < angles.size(); ++i)
      angles[i] = -std::numbers::pi + kTurn * (static_cast<double>(i) + 0.5) / kAngles;
    SevenSweep sweep;
    forms_->seven->sweep(tip, angles, sweep);
    ClosedSolution one;
    for (int i = 0; i < sweep.count(); ++i)
      for (int branch = 0; branch < SevenSweep::kBranches; ++branch)
        if (sweep.posture(i, branch, one)) take(forms_->seven->chain(), one);
  } else if (forms_->held) {
    const OneHeld& form = *forms_->held;
    const int entry = form.chain()[form.joint()].posture_index;
    const double from = arm_.search_lower()[entry];
    const double to = arm_.search_upper()[entry];
    for (int i = 0; i < kHeld; ++i) {  // not at its ends, which a curve along them would leave
      ClosedSolutions solutions;
      form.solve(tip, from + (to - from) * (i + 0.5) / kHeld, solutions);
      for (const ClosedSolution& one : solutions) take(form.chain(), one);
    }
  }
}

}  // namespace er
