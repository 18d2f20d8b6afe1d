#include "elbowroom/reach/closed_form.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

#include "elbowroom/base/random.hpp"
#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/family.hpp"
#include "elbowroom/reach/polish.hpp"
#include "elbowroom/reach/seven_centres.hpp"
#include "elbowroom/reach/standing_joints.hpp"
#include "elbowroom/reach/subproblems.hpp"

namespace er {
namespace {

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

// Six joints that together do less than six in every posture in which those stand that stand: two
// on one line, four through one point. All its postures come in families, and forms know a few of
// them only.
bool is_singular_everywhere(const StandingJoints& six) {
  constexpr int kPostures = 8;
  if (!six.chain.is_turning(6)) return false;
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

// "first stands", "last two stand".
std::string who_stands(const StandingJoints& six) {
  return fmt::format("{} {}", six.stand_behind() ? "last" : "first",
                     six.own == 5 ? "stands" : "two stand");
}

}  // namespace

std::optional<ClosedForm> ClosedForm::of(const ScrewChain& chain) {
  if (chain.is_turning(4) || chain.is_turning(5)) return of_fewer(chain);
  const StandingJoints none_stands{chain, 0, chain.size()};
  if (is_singular_everywhere(none_stands)) return std::nullopt;
  auto form = of_special(none_stands);
  return form ? form : of_general(none_stands);
}

ClosedForm ClosedForm::made(const StandingJoints& six, Form form, Told told) {
  return ClosedForm({.chain = six.chain,
                     .six = six,
                     .lanes = six.chain.in_lanes(),
                     .form = std::move(form),
                     .told = std::move(told),
                     .joints = six.chain.size()});
}

// What the axes allow that lie in some special way to each other.
std::optional<ClosedForm> ClosedForm::of_special(const StandingJoints& six) {
  const ScrewChain& chain = six.chain;
  const ScrewChain back = chain.reversed();
  if (auto form = SphericalWrist::of(chain))
    return made(six, *form,
                {.name = "spherical wrist",
                 .why = std::string("axes 4, 5 and 6 meet in one point; ") + form->path(),
                 .wrist = form->centre()});
  if (auto form = SphericalWrist::of(back))
    return made(six, *form,
                {.reversed = true,
                 .name = "spherical shoulder",
                 .why = "axes 1, 2 and 3 meet in one point"});
  if (auto form = ThreeParallel::of(chain))
    return made(six, *form,
                {.name = "three parallel axes",
                 .why = "axes 2, 3 and 4 are parallel, axes 5 and 6 meet",
                 .wrist = chain[3].point});
  if (auto form = ThreeParallel::of(back))
    return made(six, *form,
                {.reversed = true,
                 .name = "three parallel axes",
                 .why = "axes 3, 4 and 5 are parallel, axes 1 and 2 meet"});
  if (auto form = ParallelAxes::of(chain))
    return made(six, *form,
                {.name = "parallel axes",
                 .why = fmt::format("all axes are parallel: {} turn{}{}", form->turning(),
                                    form->turning() == 1 ? "s" : "",
                                    form->slides() ? ", one slides" : "")});
  return std::nullopt;
}

std::optional<ClosedForm> ClosedForm::of_general(const StandingJoints& six) {
  const auto form = GeneralSix::of(six.chain);
  if (!form) return std::nullopt;
  return made(six, *form,
              {.name = "six turning joints of general geometry",
               .why = "no three axes meet or are parallel in a way that helps"});
}

// By the first way to add joints that gives a special form, and by the most askew, which axes that
// all but meet or are all but parallel do not trouble.
std::optional<ClosedForm> ClosedForm::of_fewer(const ScrewChain& chain) {
  const auto as_own = [&](const StandingJoints& six, const ClosedForm& form) {
    Data data = *form.data_;
    data.chain = chain;
    data.joints = chain.size();
    data.told.name = chain.size() == 5 ? "five turning joints" : "four turning joints";
    data.told.why =
        fmt::format("solved as six of which the {} still: {}", who_stands(six), form.text());
    if (!six.stand_behind()) data.told.wrist.reset();  // it is not the arm's own
    return ClosedForm(std::move(data));
  };
  const std::vector<StandingJoints> ways = with_standing_joints(chain);
  const auto askew = std::find_if_not(ways.rbegin(), ways.rend(), is_singular_everywhere);
  if (askew == ways.rend()) return std::nullopt;
  const ClosedForm general = as_own(*askew, of_general(*askew).value());
  for (const StandingJoints& six : ways)
    if (const auto form = of_special(six); form && !is_singular_everywhere(six)) {
      Data data = *as_own(six, *form).data_;
      data.doubted_by = std::make_shared<const ClosedForm>(general);
      return ClosedForm(std::move(data));
    }
  return general;
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
  data.told.why = "the tool's free turn as a sixth joint: " + form->text();
  data.told.name = "five turning joints";
  return ClosedForm(std::move(data));
}

std::optional<ClosedForm> ClosedForm::of(const Arm& arm, const Tool& tool) {
  const auto chain = screw_chain(arm, tool);
  if (!chain) return std::nullopt;
  return of(*chain);
}

std::string ClosedForm::branch_legend() const {
  if (data_->told.wrist && is_of_fewer()) return "branch: the shoulder's side, the elbow";
  if (data_->told.wrist)
    return "branch: the shoulder's side, the elbow, the sign of the wrist's bend";
  return "branch: the sign of the bend";
}

// Of a chain whose branches are told apart by one bend.
std::string ClosedForm::bend(const ClosedSolution& solution) const {
  if (data_->joints != data_->six.chain.size()) return {};
  std::array<Screw, kMostClosedJoints> at;
  chain().place(solution.values.data(), at);
  const auto sign = [](double bend) { return bend >= 0.0 ? "+" : "-"; };
  if (data_->told.reversed && std::holds_alternative<SphericalWrist>(data_->form))
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
  if (!data_->told.wrist) return bend(solution);
  static constexpr std::array<double, 6> kZero{};
  const ScrewChain& six = data_->six.chain;
  const PosedAxes at = posed(six, *data_->told.wrist, solution.values.data());
  const double zero = frontness(posed(six, *data_->told.wrist, kZero.data()));
  const bool front = frontness(at) * (zero < -1e-3 ? -1.0 : 1.0) >= 0.0;
  // The elbow against the line from the shoulder to the wrist, seen along axis 2.
  const Screw& shoulder = at.axes[1];
  const Vector3 line = across(shoulder.axis, at.wrist - shoulder.point);
  const Vector3 elbow = across(shoulder.axis, at.axes[2].point - shoulder.point);
  const double share = line.squaredNorm() > 0.0 ? elbow.dot(line) / line.squaredNorm() : 0.0;
  const bool up = (elbow - share * line).z() >= 0.0;
  const std::string arm = fmt::format("{}, {}", front ? "front" : "back", up ? "up" : "down");
  if (is_of_fewer()) return arm;  // the wrist's bend is not the arm's own
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
  if (is_singular_everywhere({*chain, 0, chain->size()}))
    return "numeric starts (the six joints do less than six joints can, in every posture)";
  return fmt::format("numeric starts (no closed form for this chain of {} joint{})", chain->size(),
                     chain->size() == 1 ? "" : "s");
}

void ClosedForm::solve(const Pose& tip, ClosedSolutions& out) const {
  const ScrewChain& six = data_->six.chain;
  const Pose wanted = data_->told.reversed ? tip.inverse() : tip;
  out.complete = true;  // but for what the form itself says
  std::visit([&](const auto& form) { form.solve(wanted, out); }, data_->form);
  if (data_->told.reversed)
    for (int i = 0; i < out.count; ++i) {
      ClosedSolution& one = out.all[static_cast<std::size_t>(i)];
      std::reverse(one.values.begin(), one.values.begin() + six.size());
      if (one.free_joint >= 0) one.free_joint = six.size() - 1 - one.free_joint;
    }
  // Parallel axes give candidates for what such a chain may be unable to do; others give postures,
  // but for axes that miss each other by a hair, and singularities that polishing does not get
  // past.
  const bool all_are_postures = !std::holds_alternative<ParallelAxes>(data_->form);
  const int dropped = keep_met(tip, out);
  if (all_are_postures && dropped > 0) out.complete = false;
  if (!is_of_fewer()) return;
  keep_standing(data_->six, chain(), tip, out);
  if (out.complete || !data_->doubted_by) return;
  ClosedSolutions others;
  data_->doubted_by->solve(tip, others);
  for (const ClosedSolution& one : others) out.add_unknown(one);
  out.complete = others.complete;
}

// Polishes, and drops what does not meet the pose; how many.
int ClosedForm::keep_met(const Pose& tip, ClosedSolutions& out) const {
  constexpr int kPolishSteps = 3;
  std::array<Polished, kMostClosedSolutions> left;
  polish(data_->lanes, tip, out, kPolishSteps, left.data());
  int kept = 0;
  for (int i = 0; i < out.count; ++i) {
    const auto at = static_cast<std::size_t>(i);
    if (left[at].position > kClosedMet || left[at].chord > kClosedMet) continue;
    if (kept < i) out.all[static_cast<std::size_t>(kept)] = out.all[at];
    ++kept;
  }
  return std::exchange(out.count, kept) - kept;
}

}  // namespace er
