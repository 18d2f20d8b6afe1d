#include "elbowroom/route/pose_postures.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <optional>

#include "elbowroom/base/units.hpp"
#include "elbowroom/reach/closed_form.hpp"
#include "elbowroom/reach/seven_centres.hpp"

namespace er {
namespace {

constexpr int kAngles = 32;  // of the elbow, over a full turn: neighbours can be joined

}  // namespace

struct PosePostures::Forms {
  std::optional<ClosedForm> closed;
  std::optional<SevenCentres> seven;
};

PosePostures::PosePostures(const Arm& arm, const Tool& tool, const Posture& rest)
    : arm_(arm), rest_(rest) {
  auto forms = std::make_shared<Forms>();
  if (const auto chain = screw_chain(arm, tool)) {
    forms->closed = ClosedForm::of(*chain);
    if (!forms->closed) forms->seven = SevenCentres::of(*chain);
  }
  forms_ = std::move(forms);
}

bool PosePostures::can() const { return forms_->closed || forms_->seven; }

void PosePostures::with_full_turns(const Posture& posture, std::vector<Posture>& out) const {
  const Limits& limits = arm_.limits();
  std::vector<Posture> all{posture};
  for (int k = 0; k < arm_.dof(); ++k) {
    const double lower = limits.lower[k] - 1e-9;
    const double upper = limits.upper[k] + 1e-9;
    const bool turns = arm_.moving_joint(k).kind == JointKind::revolute;
    std::vector<Posture> next;
    for (const Posture& one : all) {
      if (!turns || !std::isfinite(upper - lower)) {
        if (one[k] >= lower && one[k] <= upper) next.push_back(one);
        continue;
      }
      const double lowest = one[k] - kTurn * std::floor((one[k] - lower) / kTurn);
      for (double value = lowest; value <= upper; value += kTurn) {
        next.push_back(one);
        next.back()[k] = std::clamp(value, limits.lower[k], limits.upper[k]);
      }
    }
    all = std::move(next);
  }
  out.insert(out.end(), all.begin(), all.end());
}

void PosePostures::at(const Pose& tip, std::vector<Posture>& out) const {
  const auto take = [&](const ScrewChain& chain, const ClosedSolutions& solutions) {
    for (const ClosedSolution& one : solutions) {
      Posture posture = rest_;
      for (std::size_t i = 0; i < chain.screws.size(); ++i)
        if (chain.screws[i].posture_index >= 0)
          posture[chain.screws[i].posture_index] = one.values[i];
      with_full_turns(posture, out);
    }
  };
  if (forms_->closed) {
    ClosedSolutions solutions;
    forms_->closed->solve(tip, solutions);
    take(forms_->closed->chain(), solutions);
  } else if (forms_->seven) {
    std::array<double, kAngles> angles{};
    std::array<ClosedSolutions, kAngles> solutions;
    for (std::size_t i = 0; i < angles.size(); ++i)
      angles[i] = -std::numbers::pi + kTurn * (static_cast<double>(i) + 0.5) / kAngles;
    forms_->seven->solve(tip, angles.data(), kAngles, solutions.data());
    for (const ClosedSolutions& some : solutions) take(forms_->seven->chain(), some);
  }
}

}  // namespace er
