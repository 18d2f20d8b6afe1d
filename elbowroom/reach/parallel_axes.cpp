#include "elbowroom/reach/parallel_axes.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/subproblems.hpp"

namespace er {

ParallelAxes::ParallelAxes(const ScrewChain& chain)
    : chain_(chain), tip_inverse_(chain.tip.inverse()) {
  for (int i = 0; i < chain.size(); ++i) {
    if (chain[i].turns)
      turns_.push_back(static_cast<std::size_t>(i));
    else
      slide_ = i;
  }
}

std::optional<ParallelAxes> ParallelAxes::of(const ScrewChain& chain) {
  const auto turning = std::count_if(chain.screws.begin(), chain.screws.end(),
                                     [](const Screw& s) { return s.turns; });
  if (turning < 1 || turning > 3 || chain.size() - turning > 1) return std::nullopt;
  for (const Screw& screw : chain.screws)
    if (!are_parallel(screw, chain[0])) return std::nullopt;
  // Two turns about one line are one turn too many.
  ParallelAxes form(chain);
  for (std::size_t i = 1; i < form.turns_.size(); ++i)
    for (std::size_t k = 0; k < i; ++k)
      if (distance_from(chain.screws[form.turns_[i]], chain.screws[form.turns_[k]].point) <
          kAxisTolerance)
        return std::nullopt;
  return form;
}

void ParallelAxes::solve(const Pose& tip, ClosedSolutions& out) const {
  out.count = 0;
  const Pose moved = tip * tip_inverse_;
  const Screw& first = chain_.screws[turns_[0]];
  const Vector3& along = first.axis;
  const auto sense = [&](std::size_t joint) {
    return chain_.screws[joint].axis.dot(along) > 0.0 ? 1.0 : -1.0;
  };
  const auto flat = [&](const Vector3& v) { return Vector3(v - along.dot(v) * along); };
  ClosedSolution one;
  if (slide_ >= 0) {
    const auto slide = static_cast<std::size_t>(slide_);
    one.values[slide] = sense(slide) * along.dot(moved * first.point - first.point);
  }
  const Vector3 across = any_perpendicular(along);
  const double whole = turn_onto(along, across, moved.rotation * across);
  const auto add = [&](const std::array<double, 3>& angles) {
    for (std::size_t i = 0; i < turns_.size(); ++i)
      one.values[turns_[i]] = std::remainder(sense(turns_[i]) * angles[i], 2.0 * std::numbers::pi);
    out.add(one);
  };
  if (turns_.size() == 1) return add({whole, 0.0, 0.0});
  // The last turn leaves its own axis where it is; the others bring it there.
  const Screw& last = chain_.screws[turns_.back()];
  const Vector3 centre = flat(first.point);
  const Vector3 goal = flat(moved * last.point) - centre;
  if (turns_.size() == 2) {
    const double turn = turn_onto(along, flat(last.point) - centre, goal);
    return add({turn, whole - turn, 0.0});
  }
  const Vector3 elbow = flat(chain_.screws[turns_[1]].point);
  const TwoAngles bends =
      turns_to_distance(along, flat(last.point) - elbow, centre - elbow, goal.norm());
  for (int i = 0; i < bends.count; ++i) {
    const Vector3 there =
        elbow + rotation_about(along, bends.angle[i]) * (flat(last.point) - elbow) - centre;
    const double turn = turn_onto(along, there, goal);
    add({turn, bends.angle[i], whole - turn - bends.angle[i]});
  }
}

}  // namespace er
