#include "elbowroom/reach/parallel_axes.hpp"

#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/subproblems.hpp"
#include "elbowroom/reach/three_turns.hpp"

namespace er {

ParallelAxes::ParallelAxes(const ScrewChain& chain) : chain_(chain) {
  for (int i = 0; i < chain.size(); ++i) {
    if (chain[i].turns)
      turns_.push_back(static_cast<std::size_t>(i));
    else
      slide_ = i;
  }
}

std::optional<ParallelAxes> ParallelAxes::of(const ScrewChain& chain) {
  const int turning = chain.size() - chain.slides();
  if (turning < 1 || turning > 3 || chain.slides() > 1) return std::nullopt;
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
  const Pose moved = chain_.motion_to(tip);
  const auto screw = [&](std::size_t turn) -> const Screw& { return chain_.screws[turns_[turn]]; };
  const Vector3& along = screw(0).axis;
  ClosedSolution one;
  if (slide_ >= 0)
    one.values[static_cast<std::size_t>(slide_)] =
        chain_[slide_].axis.dot(moved * screw(0).point - screw(0).point);
  const auto add = [&](const std::array<double, 3>& angles) {
    for (std::size_t i = 0; i < turns_.size(); ++i) one.values[turns_[i]] = angles[i];
    out.add(one);
  };
  if (turns_.size() == 3) {
    ThreeJoints ways;
    turns_in_plane(screw(0), screw(1), screw(2), moved, ways);
    for (int i = 0; i < ways.count; ++i) add(ways.ways[static_cast<std::size_t>(i)].value);
    return;
  }
  const double whole = turn_of(along, moved.rotation);
  if (turns_.size() == 1) return add({whole, 0.0, 0.0});
  // The last turn leaves its own axis where it is; the first brings it there.
  const Vector3 goal = moved * screw(1).point - screw(0).point;
  const double turn = turn_onto(along, screw(1).point - screw(0).point, goal);
  add({turn, screw(1).axis.dot(along) * (whole - turn), 0.0});
}

}  // namespace er
