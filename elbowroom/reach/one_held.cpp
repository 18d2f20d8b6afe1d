#include "elbowroom/reach/one_held.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace er {
namespace {

constexpr int kJoints = 7;

ScrewChain without(const ScrewChain& chain, int joint) {
  ScrewChain out = chain;
  out.screws.erase(out.screws.begin() + joint);
  return out;
}

}  // namespace

std::optional<OneHeld> OneHeld::of(const ScrewChain& chain) {
  if (chain.size() != kJoints) return std::nullopt;
  std::optional<OneHeld> best;
  const auto rank = [&](const OneHeld& one) {
    return (chain[one.joint_].turns ? 0 : 2) + (one.others_.is_special() ? 1 : 0);
  };
  for (const int joint : {0, kJoints - 1}) {
    auto form = ClosedForm::of(without(chain, joint));
    if (!form) continue;
    OneHeld one(chain, joint, std::move(*form));
    if (!best || rank(one) > rank(*best)) best = std::move(one);
  }
  return best;
}

std::string OneHeld::text() const {
  return fmt::format(
      "joint {} at values over its range, the others each time by their closed form: {}",
      joint_ + 1, others_.text());
}

void OneHeld::solve(const Pose& tip, double value, ClosedSolutions& out) const {
  // The others bring the tip to where the held one, taken back, leaves it to them.
  const Pose back = motion_of(chain_[joint_], -value);
  others_.solve(joint_ == 0 ? back * tip : tip * chain_.tip.inverse() * back * chain_.tip, out);
  for (int i = 0; i < out.count; ++i) {
    ClosedSolution& one = out.all[static_cast<std::size_t>(i)];
    const auto held = one.values.begin() + joint_;
    std::copy_backward(held, one.values.end() - 1, one.values.end());
    *held = value;
    if (one.free_joint >= joint_) ++one.free_joint;
  }
}

}  // namespace er
