#include "elbowroom/reach/numeric.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "elbowroom/base/symmetric.hpp"

namespace er {
namespace {

// Below it rounding takes over in directions that no requirement determines.
constexpr double kLeastDamping = 1e-12;

// A solve that does not gain so much in so many steps crawls along a valley, or has ended in a
// hollow that is not the target: another start is cheaper.
constexpr int kPatience = 6;
constexpr double kHope = 0.5;

using Held = std::array<bool, kMaxJoints>;

// The damped step -(A + damping I)^-1 b, with held joints left out. False when rounding spoils it.
bool damped_step(const NormalEquations& equations, int n, double damping, const Held& held,
                 Posture& step) {
  std::array<double, std::size_t{kMaxJoints} * kMaxJoints> a;
  step.resize(n);
  for (int i = 0; i < n; ++i) {
    const double* from = equations.a.data() + static_cast<std::ptrdiff_t>(i) * n;
    double* row = a.data() + static_cast<std::ptrdiff_t>(i) * n;
    const bool out = held[static_cast<std::size_t>(i)];
    for (int j = 0; j < i; ++j) row[j] = out || held[static_cast<std::size_t>(j)] ? 0.0 : from[j];
    row[i] = out ? 1.0 : from[i] + damping;
    step[i] = out ? 0.0 : -equations.b[static_cast<std::size_t>(i)];
  }
  return solve_positive(a.data(), n, n, step.data());
}

}  // namespace

NumericSolve solve_from(const TargetOnArm& target, const PostureRef& start,
                        const NumericOptions& options) {
  const int n = target.arm().dof();
  const Posture lower = target.lower().array() - options.wider;
  const Posture upper = target.upper().array() + options.wider;
  NumericSolve now;
  now.posture = start;
  std::array<NormalEquations, 2> memory;  // here, and where a step would lead
  NormalEquations* here = &memory[0];
  NormalEquations* there = &memory[1];
  double off = target.equations(now.posture, options.angle_weight, *here, now.error);
  double damping = 1e-3;
  double cost_before = here->cost;  // as it was kPatience steps ago
  for (; now.iterations < options.iterations && off > 0.1; ++now.iterations) {
    if (options.give_up_early && now.iterations % kPatience == kPatience - 1) {
      if (here->cost > kHope * cost_before) break;
      cost_before = here->cost;
    }
    Held held{};
    Posture step;
    bool solved = false;
    // A joint at its limit that the step would push further is held, and the step taken again.
    for (int pass = 0; pass < 3; ++pass) {
      solved = damped_step(*here, n, damping, held, step);
      bool again = false;
      for (int k = 0; solved && k < n; ++k) {
        const bool stuck = (now.posture[k] <= lower[k] && step[k] < 0.0) ||
                           (now.posture[k] >= upper[k] && step[k] > 0.0);
        again |= stuck && !held[static_cast<std::size_t>(k)];
        held[static_cast<std::size_t>(k)] |= stuck;
      }
      if (!again) break;
    }
    if (solved) {
      const double largest = step.cwiseAbs().maxCoeff();
      if (largest > 1.0) step /= largest;  // a turn of more than a radian at once leads astray
      Posture next = now.posture + step;
      next = next.cwiseMax(lower).cwiseMin(upper);
      TargetOnArm::Error error;
      const double next_off = target.equations(next, options.angle_weight, *there, error);
      if (there->cost < here->cost) {
        const bool stalled = there->cost > (1.0 - 2e-7) * here->cost;
        now.posture = next;
        now.error = error;
        off = next_off;
        std::swap(here, there);
        damping = std::max(damping * 0.2, kLeastDamping);
        if (stalled) break;
        continue;
      }
    }
    damping *= 8.0;
    if (damping > 1e6) break;
  }
  now.met = off <= 1.0;
  return now;
}

NumericSolve solve_from(const Arm& arm, const Target& target, const PostureRef& start,
                        const NumericOptions& options) {
  return solve_from(TargetOnArm(arm, target), start, options);
}

}  // namespace er
