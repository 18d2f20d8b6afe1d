#include "elbowroom/reach/closed_form.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/reach/polish.hpp"
#include "elbowroom/reach/seven_centres.hpp"

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

PosedAxes posed(const ScrewChain& chain, const Vector3& wrist, const double* values) {
  PosedAxes out;
  Pose motion;
  for (int i = 0; i < 6; ++i) {
    Screw& screw = out.axes[static_cast<std::size_t>(i)];
    screw.axis = motion.rotation * chain[i].axis;
    screw.point = motion * chain[i].point;
    motion = motion * chain.motion(i, values[i]);
    if (i == 2) out.wrist = motion * wrist;
  }
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
    return ClosedForm({chain, *form, false, true, "spherical wrist",
                       std::string("axes 4, 5 and 6 meet in one point; ") + form->arm().path(),
                       form->centre()});
  if (auto form = SphericalWrist::of(back))
    return ClosedForm(
        {chain, *form, true, true, "spherical shoulder", "axes 1, 2 and 3 meet in one point"});
  if (auto form = ThreeParallel::of(chain))
    return ClosedForm({chain, *form, false, true, "three parallel axes",
                       "axes 2, 3 and 4 are parallel, axes 5 and 6 meet", chain[3].point});
  if (auto form = ThreeParallel::of(back))
    return ClosedForm({chain, *form, true, true, "three parallel axes",
                       "axes 3, 4 and 5 are parallel, axes 1 and 2 meet"});
  if (auto form = ParallelAxes::of(chain))
    return ClosedForm(
        {chain, *form, false, true, "parallel axes",
         fmt::format("all axes are parallel: {} turn{}{}", form->turning(),
                     form->turning() == 1 ? "s" : "", form->slides() ? ", one slides" : "")});
  if (auto form = GeneralSix::of(chain))
    return ClosedForm({chain, *form, false, false, "six turning joints of general geometry",
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
  const Vector3& along = at.axes[1].axis;
  const auto across = [&](const Vector3& v) { return Vector3(v - along.dot(v) * along); };
  const Vector3 line = across(at.wrist - at.axes[1].point);
  const Vector3 elbow = across(at.axes[2].point - at.axes[1].point);
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
  std::visit([&](const auto& form) { form.solve(wanted, out); }, data_->form);
  int kept = 0;
  for (int i = 0; i < out.count; ++i) {
    ClosedSolution one = out.all[static_cast<std::size_t>(i)];
    if (data_->reversed) {
      std::reverse(one.values.begin(), one.values.begin() + chain().size());
      if (one.free_joint >= 0) one.free_joint = chain().size() - 1 - one.free_joint;
    }
    const Polished left = polish(chain(), tip, one.values, -1, 3);
    if (left.position > kMet || left.angle > kMet) continue;
    for (double& value : one.values) value = std::remainder(value, 2.0 * std::numbers::pi);
    out.all[static_cast<std::size_t>(kept++)] = one;
  }
  out.count = kept;
}

}  // namespace er
