#include "elbowroom/reach/standing_joints.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/base/random.hpp"
#include "elbowroom/base/trigonometric.hpp"
#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/family.hpp"
#include "elbowroom/reach/settle.hpp"

namespace er {
namespace {

constexpr double kStands = 1e-5;  // rad; what a joint that stands may seem to turn by
constexpr int kMostSteps = 4;

// How far apart things are in a chain; some length where everything is in one point.
double extent_of(const ScrewChain& chain) {
  double size = 0.0;
  for (const Screw& screw : chain.screws)
    size = std::max(size, (screw.point - chain.tip.position).norm());
  return size > 1e-3 ? size : 1.0;
}

// With joints behind the last.
std::vector<ScrewChain> longer_behind(const ScrewChain& chain) {
  const Screw& last = chain[chain.size() - 1];
  const Screw& before = chain[chain.size() - 2];
  const bool is_near = before.turns && last.turns && !are_parallel(before, last);
  const Vector3 near = is_near ? common_normal(before, last).on_second : last.point;
  const double extent = extent_of(chain);
  const Vector3 beside = near + 0.3 * extent * last.axis;
  const Vector3 side = any_perpendicular(last.axis);
  const Vector3 other = last.axis.cross(side);
  // Askew to all that is at a right angle.
  const std::array<Vector3, 3> ways{Vector3(std::cos(0.9) * side + std::sin(0.9) * other),
                                    Vector3(std::cos(0.7) * last.axis + std::sin(0.7) * other),
                                    Vector3(std::cos(0.6) * side + std::sin(0.6) * last.axis)};
  const auto through = [&](const Vector3& first, const Vector3& second) {
    ScrewChain longer = chain;
    for (std::size_t i = 0; longer.size() < 6; ++i)
      longer.screws.push_back({ways[i], i == 0 ? first : second, true, -1});
    return longer;
  };
  const Vector3 off = beside + 0.2 * extent * side;
  // Three that are added are a wrist of their own, where the arm's joints all move it.
  if (chain.size() == 3) return {through(off, off)};
  return {through(near, near), through(beside, beside), through(off, near)};
}

}  // namespace

bool is_singular_everywhere(const StandingJoints& six) {
  constexpr int kPostures = 8;
  if (six.chain.size() != 6) return false;
  RandomStream random(1);
  for (int i = 0; i < kPostures; ++i) {
    std::array<double, 6> values;
    for (int k = 0; k < 6; ++k)
      values[static_cast<std::size_t>(k)] =
          six.stands(k) ? 0.0 : random.uniform(-std::numbers::pi, std::numbers::pi);
    if (!is_singular(six.chain, values.data())) return false;
  }
  return true;
}

std::vector<StandingJoints> with_standing_joints(const ScrewChain& chain) {
  const int own = chain.size();
  std::vector<StandingJoints> out;
  const std::vector<ScrewChain> behind = longer_behind(chain);
  const std::vector<ScrewChain> before = longer_behind(chain.reversed());
  for (std::size_t i = 0; i < behind.size(); ++i) {
    out.push_back({behind[i], 0, own});
    out.push_back({before[i].reversed(), 6 - own, own});
  }
  return out;
}

void keep_standing(const StandingJoints& six, const ScrewChain& own, const Pose& wanted,
                   ClosedSolutions& solutions) {
  const ClosedSolutions all = solutions;
  solutions.count = 0;
  for (const ClosedSolution& whole : all) {
    bool stands = true;
    for (int k = 0; k < six.chain.size(); ++k)
      stands = stands && (!six.stands(k) ||
                          std::abs(wrapped(whole.values[static_cast<std::size_t>(k)])) < kStands);
    if (!stands) {
      if (whole.free_joint >= 0) solutions.complete = false;  // another of the family may stand
      continue;
    }
    ClosedSolution one;
    std::copy_n(whole.values.begin() + six.first, six.own, one.values.begin());
    if (whole.free_joint >= 0 && !six.stands(whole.free_joint))
      one.free_joint = whole.free_joint - six.first;
    // Beside a singularity of the six the arm alone may be far from any: so it is left to itself.
    if (settle(own, wanted, kMostSteps, one) > kClosedMet) continue;
    if (solutions.has(one)) continue;
    if (one.free_joint < 0) one.free_joint = free_joint_of(own, one);
    solutions.add(one);
  }
  if (solutions.count == 0) solutions.complete = false;
}

}  // namespace er
