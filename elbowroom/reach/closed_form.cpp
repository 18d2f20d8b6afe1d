#include "elbowroom/reach/closed_form.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/reach/polish.hpp"
#include "elbowroom/reach/seven_centres.hpp"
#include "elbowroom/reach/subproblems.hpp"

namespace er {
namespace {

constexpr double kMet = 1e-9;  // m and rad; what a closed form must come to

// The chain seen from the tip: its joints in the other order, for the inverse of the tip's pose.
ScrewChain reversed(const ScrewChain& chain) {
  ScrewChain out;
  out.tip = chain.tip.inverse();
  for (auto screw = chain.screws.rbegin(); screw != chain.screws.rend(); ++screw) {
    Screw turned = *screw;
    turned.axis = -(out.tip.rotation * screw->axis);
    turned.point = out.tip * screw->point;
    out.screws.push_back(turned);
  }
  return out;
}

// Where the axes of a chain and its wrist are in a posture.
struct PosedAxes {
  std::array<Screw, 6> axes;
  Vector3 wrist;
};

// The wrist is carried by joint 3.
PosedAxes posed(const ScrewChain& chain, const Vector3& wrist, const double* values) {
  PosedAxes out;
  chain.place(values, out.axes);
  out.wrist = wrist;
  for (int i = 2; i >= 0; --i) out.wrist = motion_of(chain[i], values[i]) * out.wrist;
  return out;
}

// Above zero when the wrist is before axis 1 as axis 2 sees it, below when behind.
double frontness(const PosedAxes& at) {
  return at.axes[1].axis.dot(at.axes[0].axis.cross(at.wrist - at.axes[0].point));
}

}  // namespace

std::optional<ClosedForm> ClosedForm::of(const ScrewChain& chain) {
  const ScrewChain back = reversed(chain);
  if (auto form = SphericalWrist::of(chain))
    return ClosedForm({chain, chain.in_lanes(), *form, false, "spherical wrist",
                       std::string("axes 4, 5 and 6 meet in one point; ") + form->path(),
                       form->centre()});
  if (auto form = SphericalWrist::of(back))
    return ClosedForm({chain, chain.in_lanes(), *form, true, "spherical shoulder",
                       "axes 1, 2 and 3 meet in one point"});
  if (auto form = ThreeParallel::of(chain))
    return ClosedForm({chain, chain.in_lanes(), *form, false, "three parallel axes",
                       "axes 2, 3 and 4 are parallel, axes 5 and 6 meet", chain[3].point});
  if (auto form = ThreeParallel::of(back))
    return ClosedForm({chain, chain.in_lanes(), *form, true, "three parallel axes",
                       "axes 3, 4 and 5 are parallel, axes 1 and 2 meet"});
  if (auto form = ParallelAxes::of(chain))
    return ClosedForm(
        {chain, chain.in_lanes(), *form, false, "parallel axes",
         fmt::format("all axes are parallel: {} turn{}{}", form->turning(),
                     form->turning() == 1 ? "s" : "", form->slides() ? ", one slides" : "")});
  if (auto form = GeneralSix::of(chain))
    return ClosedForm({chain, chain.in_lanes(), *form, false,
                       "six turning joints of general geometry",
                       "no three axes meet or are parallel in a way that helps"});
  return std::nullopt;
}

std::optional<ClosedForm> ClosedForm::of(const Arm& arm, const Tool& tool) {
  const auto chain = screw_chain(arm, tool);
  if (!chain) return std::nullopt;
  return of(*chain);
}

std::string ClosedForm::branch(const ClosedSolution& solution) const {
  if (!data_->wrist) return {};
  static constexpr std::array<double, 6> kZero{};
  const PosedAxes at = posed(chain(), *data_->wrist, solution.values.data());
  const double zero = frontness(posed(chain(), *data_->wrist, kZero.data()));
  const bool front = frontness(at) * (zero < -1e-3 ? -1.0 : 1.0) >= 0.0;
  // The elbow against the line from the shoulder to the wrist, seen along axis 2.
  const Screw& shoulder = at.axes[1];
  const Vector3 line = across(shoulder.axis, at.wrist - shoulder.point);
  const Vector3 elbow = across(shoulder.axis, at.axes[2].point - shoulder.point);
  const double share = line.squaredNorm() > 0.0 ? elbow.dot(line) / line.squaredNorm() : 0.0;
  const bool up = (elbow - share * line).z() >= 0.0;
  const double bend = at.axes[4].axis.dot(at.axes[3].axis.cross(at.axes[5].axis));
  return fmt::format("{}, {}, {}", front ? "front" : "back", up ? "up" : "down",
                     bend >= 0.0 ? '+' : '-');
}

std::string solver_text(const Arm& arm, const Tool& tool) {
  const auto chain = screw_chain(arm, tool);
  if (!chain) return "numeric starts (a joint of the chain moves two of its links)";
  if (const auto form = ClosedForm::of(*chain)) return form->text();
  if (SevenCentres::of(*chain))
    return "shoulder and wrist of seven joints (axes 1 to 3 meet in one point, axes 5 to 7 in "
           "another; the elbow angle is free)";
  return fmt::format("numeric starts (no closed form for this chain of {} joint{})", chain->size(),
                     chain->size() == 1 ? "" : "s");
}

void ClosedForm::solve(const Pose& tip, ClosedSolutions& out) const {
  const Pose wanted = data_->reversed ? tip.inverse() : tip;
  out.complete = true;  // but for what the form itself says
  std::visit([&](const auto& form) { form.solve(wanted, out); }, data_->form);
  // Parallel axes give candidates for what such a chain may be unable to do; others give postures.
  const bool all_are_postures = !std::holds_alternative<ParallelAxes>(data_->form);
  if (data_->reversed)
    for (int i = 0; i < out.count; ++i) {
      ClosedSolution& one = out.all[static_cast<std::size_t>(i)];
      std::reverse(one.values.begin(), one.values.begin() + chain().size());
      if (one.free_joint >= 0) one.free_joint = chain().size() - 1 - one.free_joint;
    }
  std::array<Polished, kMostClosedSolutions> left;
  polish(data_->lanes, tip, out, 3, left.data());
  int kept = 0;
  for (int i = 0; i < out.count; ++i) {
    const auto at = static_cast<std::size_t>(i);
    if (left[at].position > kMet || left[at].angle > kMet) {
      // Axes that miss each other by a hair, and a singularity that polishing does not get past.
      if (all_are_postures) out.complete = false;
      continue;
    }
    ClosedSolution one = out.all[at];
    for (int k = 0; k < chain().size(); ++k) {
      double& value = one.values[static_cast<std::size_t>(k)];
      if (chain()[k].turns && std::abs(value) > std::numbers::pi) value = wrapped(value);
    }
    out.all[static_cast<std::size_t>(kept++)] = one;
  }
  out.count = kept;
}

}  // namespace er
