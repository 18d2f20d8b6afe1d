#include "elbowroom/reach/closed_form.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

#include "elbowroom/base/random.hpp"
#include "elbowroom/base/row_reduction.hpp"
#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/polish.hpp"
#include "elbowroom/reach/seven_centres.hpp"
#include "elbowroom/reach/subproblems.hpp"

namespace er {
namespace {

constexpr double kMet = 1e-9;     // m and rad; what a closed form must come to
constexpr double kStands = 1e-7;  // rad; what a joint that is not the arm's own may turn by

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

// Six joints that together do less than six in every posture: two on one line, four through one
// point. All its postures come in families, and forms know a few of them only.
bool is_singular_everywhere(const ScrewChain& chain) {
  constexpr double kSingular = 1e-6;
  constexpr int kPostures = 8;
  if (!chain.is_turning(6)) return false;
  RandomStream random(1);
  for (int i = 0; i < kPostures; ++i) {
    std::array<double, 6> values;
    for (double& value : values) value = random.uniform(-std::numbers::pi, std::numbers::pi);
    std::array<Screw, 6> at;
    chain.place(values.data(), at);
    RowSystem twists;  // a row for each joint
    twists.rows = twists.columns = 6;
    for (std::size_t k = 0; k < at.size(); ++k) {
      const Vector3 moment = (at[k].point - at[0].point).cross(at[k].axis);
      std::copy_n(at[k].axis.data(), 3, twists.row[k].begin());
      std::copy_n(moment.data(), 3, twists.row[k].begin() + 3);
    }
    ReducedRows reduced;
    reduce_rows(twists, kSingular, reduced);
    if (reduced.rank == 6) return false;
  }
  return true;
}

}  // namespace

std::optional<ClosedForm> ClosedForm::of(const ScrewChain& chain) {
  if (chain.is_turning(4) || chain.is_turning(5)) return of_fewer(chain);
  if (is_singular_everywhere(chain)) return std::nullopt;
  const ScrewChain back = reversed(chain);
  const auto made = [&](Form form, bool is_reversed, std::string name, std::string why,
                        std::optional<Vector3> wrist = {}) {
    return ClosedForm({.chain = chain,
                       .lanes = chain.in_lanes(),
                       .form = std::move(form),
                       .reversed = is_reversed,
                       .name = std::move(name),
                       .why = std::move(why),
                       .wrist = wrist,
                       .joints = chain.size()});
  };
  if (auto form = SphericalWrist::of(chain))
    return made(*form, false, "spherical wrist",
                std::string("axes 4, 5 and 6 meet in one point; ") + form->path(), form->centre());
  if (auto form = SphericalWrist::of(back))
    return made(*form, true, "spherical shoulder", "axes 1, 2 and 3 meet in one point");
  if (auto form = ThreeParallel::of(chain))
    return made(*form, false, "three parallel axes",
                "axes 2, 3 and 4 are parallel, axes 5 and 6 meet", chain[3].point);
  if (auto form = ThreeParallel::of(back))
    return made(*form, true, "three parallel axes",
                "axes 3, 4 and 5 are parallel, axes 1 and 2 meet");
  if (auto form = ParallelAxes::of(chain))
    return made(*form, false, "parallel axes",
                fmt::format("all axes are parallel: {} turn{}{}", form->turning(),
                            form->turning() == 1 ? "s" : "", form->slides() ? ", one slides" : ""));
  if (auto form = GeneralSix::of(chain))
    return made(*form, false, "six turning joints of general geometry",
                "no three axes meet or are parallel in a way that helps");
  return std::nullopt;
}

// Joints behind the last that go through a point of its axis: with four of the arm's own the two
// make a wrist with it, with five they meet as the last two of other forms do.
std::optional<ClosedForm> ClosedForm::of_fewer(const ScrewChain& chain) {
  const Screw& last = chain[chain.size() - 1];
  const Screw& before = chain[chain.size() - 2];
  const Vector3 point =
      are_parallel(before, last) ? last.point : common_normal(before, last).on_second;
  ScrewChain longer = chain;
  const Vector3 side = any_perpendicular(last.axis);
  const Vector3 other = last.axis.cross(side);
  // Askew to all that is at a right angle.
  const std::array<Vector3, 2> ways{Vector3(std::cos(0.9) * side + std::sin(0.9) * other),
                                    Vector3(std::cos(0.7) * last.axis + std::sin(0.7) * other)};
  for (std::size_t i = 0; longer.size() < 6; ++i)
    longer.screws.push_back({ways[i], point, true, -1});
  auto form = of(longer);
  if (!form) return std::nullopt;
  Data data = *form->data_;
  data.joints = chain.size();
  data.others_stand = true;
  data.why = fmt::format("solved as six of which the last {}: {}",
                         chain.size() == 5 ? "stands still" : "two stand still", form->text());
  data.name = chain.size() == 5 ? "five turning joints" : "four turning joints";
  return ClosedForm(std::move(data));
}

std::optional<ClosedForm> ClosedForm::of_axis(const ScrewChain& chain, const Vector3& axis) {
  if (!chain.is_turning(5)) return std::nullopt;
  ScrewChain longer = chain;
  const Screw turn{chain.tip.rotation * axis, chain.tip.position, true, -1};
  if (are_parallel(turn, chain[4]) && distance_from(turn, chain[4].point) < kAxisTolerance)
    return std::nullopt;
  longer.screws.push_back(turn);
  auto form = of(longer);
  if (!form) return std::nullopt;
  Data data = *form->data_;
  data.joints = 5;
  data.why = "the tool's free turn as a sixth joint: " + form->text();
  data.name = "five turning joints";
  return ClosedForm(std::move(data));
}

std::optional<ClosedForm> ClosedForm::of(const Arm& arm, const Tool& tool) {
  const auto chain = screw_chain(arm, tool);
  if (!chain) return std::nullopt;
  return of(*chain);
}

std::string ClosedForm::branch_legend() const {
  if (data_->wrist && data_->others_stand) return "branch: the shoulder's side, the elbow";
  if (data_->wrist) return "branch: the shoulder's side, the elbow, the sign of the wrist's bend";
  return "branch: the sign of the bend";
}

// Of a chain whose branches are told apart by one bend.
std::string ClosedForm::bend(const ClosedSolution& solution) const {
  if (data_->joints != chain().size()) return {};
  std::array<Screw, kMostClosedJoints> at;
  chain().place(solution.values.data(), at);
  const auto sign = [](double bend) { return bend >= 0.0 ? "+" : "-"; };
  if (data_->reversed && std::holds_alternative<SphericalWrist>(data_->form))
    return sign(at[1].axis.dot(at[0].axis.cross(at[2].axis)));
  const auto* parallel = std::get_if<ParallelAxes>(&data_->form);
  if (parallel == nullptr || parallel->turning() != 3) return {};
  std::array<const Screw*, 3> turns{};
  std::size_t count = 0;
  for (int k = 0; k < chain().size(); ++k)
    if (chain()[k].turns) turns[count++] = &at[static_cast<std::size_t>(k)];
  const Vector3 upper = turns[1]->point - turns[0]->point;
  return sign(turns[1]->axis.dot(upper.cross(turns[2]->point - turns[1]->point)));
}

std::string ClosedForm::branch(const ClosedSolution& solution) const {
  if (!data_->wrist) return bend(solution);
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
  const std::string arm = fmt::format("{}, {}", front ? "front" : "back", up ? "up" : "down");
  if (data_->others_stand) return arm;  // the wrist's bend is not the arm's own
  const double bend = at.axes[4].axis.dot(at.axes[3].axis.cross(at.axes[5].axis));
  return fmt::format("{}, {}", arm, bend >= 0.0 ? '+' : '-');
}

std::string solver_text(const Arm& arm, const Tool& tool) {
  const auto chain = screw_chain(arm, tool);
  if (!chain) return "numeric starts (a joint of the chain moves two of its links)";
  if (const auto form = ClosedForm::of(*chain)) return form->text();
  if (SevenCentres::of(*chain))
    return "shoulder and wrist of seven joints (axes 1 to 3 meet in one point, axes 5 to 7 in "
           "another; the elbow angle is free)";
  if (is_singular_everywhere(*chain))
    return "numeric starts (the six joints do less than six joints can, in every posture)";
  return fmt::format("numeric starts (no closed form for this chain of {} joint{})", chain->size(),
                     chain->size() == 1 ? "" : "s");
}

void ClosedForm::solve(const Pose& tip, ClosedSolutions& out) const {
  const Pose wanted = data_->reversed ? tip.inverse() : tip;
  out.complete = true;  // but for what the form itself says
  std::visit([&](const auto& form) { form.solve(wanted, out); }, data_->form);
  if (data_->reversed)
    for (int i = 0; i < out.count; ++i) {
      ClosedSolution& one = out.all[static_cast<std::size_t>(i)];
      std::reverse(one.values.begin(), one.values.begin() + chain().size());
      if (one.free_joint >= 0) one.free_joint = chain().size() - 1 - one.free_joint;
    }
  // Parallel axes give candidates for what such a chain may be unable to do; others give postures,
  // but for axes that miss each other by a hair, and singularities that polishing does not get
  // past.
  const bool all_are_postures = !std::holds_alternative<ParallelAxes>(data_->form);
  const int dropped = keep_met(tip, 3, out);
  if (all_are_postures && dropped > 0) out.complete = false;
  if (data_->others_stand) keep_standing(tip, out);
}

// Polishes, and drops what does not meet the pose; how many.
int ClosedForm::keep_met(const Pose& tip, int polish_steps, ClosedSolutions& out) const {
  std::array<Polished, kMostClosedSolutions> left;
  polish(data_->lanes, tip, out, polish_steps, left.data());
  int kept = 0;
  for (int i = 0; i < out.count; ++i) {
    const auto at = static_cast<std::size_t>(i);
    if (left[at].position > kMet || left[at].chord > kMet) continue;
    if (kept < i) out.all[static_cast<std::size_t>(kept)] = out.all[at];
    ++kept;
  }
  return std::exchange(out.count, kept) - kept;
}

// Of six joints those postures in which the ones that are not the arm's own stand at zero.
void ClosedForm::keep_standing(const Pose& tip, ClosedSolutions& out) const {
  int kept = 0;
  for (int i = 0; i < out.count; ++i) {
    ClosedSolution one = out.all[static_cast<std::size_t>(i)];
    bool stands = true;
    for (int k = data_->joints; k < chain().size(); ++k) {
      double& value = one.values[static_cast<std::size_t>(k)];
      stands = stands && std::abs(wrapped(value)) < kStands;
      value = 0.0;
    }
    if (!stands && one.free_joint >= 0) out.complete = false;  // another of the family may stand
    if (one.free_joint >= data_->joints) one.free_joint = -1;
    if (stands) out.all[static_cast<std::size_t>(kept++)] = one;
  }
  out.count = kept;
  keep_met(tip, 0, out);
  // A pose that such an arm can do only to within a tolerance is not a pose that it cannot do.
  if (out.count == 0) out.complete = false;
}

}  // namespace er
