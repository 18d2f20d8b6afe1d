#include "elbowroom/reach/closed_solutions.hpp"

#include <algorithm>
#include <cmath>

#include "elbowroom/base/trigonometric.hpp"

namespace er {
namespace {

constexpr double kSame = 1e-7;  // rad and m

// Slides are compared as turns are: equal turns leave them no choice.
bool are_same(const ClosedSolution& a, const ClosedSolution& b) {
  for (std::size_t k = 0; k < a.values.size(); ++k)
    if (std::abs(wrapped(a.values[k] - b.values[k])) > kSame) return false;
  return true;
}

}  // namespace

bool ClosedSolutions::has(const ClosedSolution& one) const {
  return std::any_of(begin(), end(),
                     [&](const ClosedSolution& other) { return are_same(one, other); });
}

}  // namespace er
