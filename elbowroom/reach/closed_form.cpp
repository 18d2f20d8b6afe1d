#include "elbowroom/reach/closed_form.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <utility>
#include <vector>

#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/polish.hpp"
#include "elbowroom/reach/settle.hpp"
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

// The elbow against the line from the shoulder to the wrist, seen along axis 2.
bool is_up(const PosedAxes& at) {
  const Screw& shoulder = at.axes[1];
  const Vector3 line = across(shoulder.axis, at.wrist - shoulder.point);
  const Vector3 elbow = across(shoulder.axis, at.axes[2].point - shoulder.point);
  const double share = line.squaredNorm() > 0.0 ? elbow.dot(line) / line.squaredNorm() : 0.0;
  return (elbow - share * line).z() >= 0.0;
}

constexpr std::array<const char*, 6> kNumbers{"no", "one", "two", "three", "four", "five"};

// "first stands", "last two stand".
std::string who_stands(const StandingJoints& six) {
  const char* which = six.stand_behind() ? "last" : "first";
  if (six.own == 5) return fmt::format("{} stands", which);
  return fmt::format("{} {} stand", which, kNumbers[static_cast<std::size_t>(6 - six.own)]);
}

// "five turning joints".
std::string joints_name(const ScrewChain& chain) {
  return fmt::format("{}{} joints", kNumbers[static_cast<std::size_t>(chain.size())],
                     chain.slides() == 0 ? " turning" : "");
}

}  // namespace

std::optional<ClosedForm> ClosedForm::of(const ScrewChain& chain) {
  const StandingJoints none_stands{chain, 0, chain.size()};
  if (is_singular_everywhere(none_stands)) return std::nullopt;
  if (auto form = of_special(none_stands)) return form;
  return chain.size() == 6 ? of_general(none_stands) : of_fewer(chain);
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
  if (auto form = ThreeSlides::of(chain))
    return made(six, *form,
                {.name = "three slides",
                 .why = fmt::format("joints {}, {} and {} turn the hand, the others place it",
                                    form->turning()[0] + 1, form->turning()[1] + 1,
                                    form->turning()[2] + 1)});
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

// By the first way to add joints that gives a special form, and, where all turn, by the most
// askew, which axes that all but meet or are all but parallel do not trouble.
std::optional<ClosedForm> ClosedForm::of_fewer(const ScrewChain& chain) {
  if (chain.size() < 3 || chain.size() > 5) return std::nullopt;
  const auto as_own = [&](const StandingJoints& six, const ClosedForm& form) {
    Data data = *form.data_;
    data.chain = chain;
    data.joints = chain.size();
    data.told.name = joints_name(chain);
    data.told.why =
        fmt::format("solved as six of which the {} still: {}", who_stands(six), form.text());
    if (!six.stand_behind()) data.told.wrist.reset();  // it is not the arm's own
    return data;
  };
  const std::vector<StandingJoints> ways = with_standing_joints(chain);
  const auto askew = std::find_if_not(ways.rbegin(), ways.rend(), is_singular_everywhere);
  if (askew == ways.rend()) return std::nullopt;
  std::optional<ClosedForm> general;
  if (const auto form = of_general(*askew)) general = ClosedForm(as_own(*askew, *form));
  for (const StandingJoints& six : ways)
    if (const auto form = of_special(six); form && !is_singular_everywhere(six)) {
      Data data = as_own(six, *form);
      if (general) data.doubted_by = std::make_shared<const ClosedForm>(*general);
      return ClosedForm(std::move(data));
    }
  return general;
}

std::optional<ClosedForm> ClosedForm::of_axis(const ScrewChain& chain, const Vector3& axis) {
  if (chain.size() != 5) return std::nullopt;
  ScrewChain longer = chain;
  const Screw turn{chain.tip.rotation * axis, chain.tip.position, true, -1};
  const Screw& last = chain[4];
  if (last.turns && are_parallel(turn, last) && distance_from(turn, last.point) < kAxisTolerance)
    return std::nullopt;
  longer.screws.push_back(turn);
  auto form = of(longer);
  if (!form) return std::nullopt;
  Data data = *form->data_;
  data.joints = 5;
  data.told.why = "the tool's free turn as a sixth joint: " + form->text();
  data.told.name = joints_name(chain);
  return ClosedForm(std::move(data));
}

std::optional<ClosedForm> ClosedForm::of(const Arm& arm, const Tool& tool) {
  const auto chain = screw_chain(arm, tool);
  if (!chain) return std::nullopt;
  return of(*chain);
}

ClosedForm::Sides ClosedForm::sides() const {
  const auto turn = [&](int i, int k) {
    return data_->six.chain[i].turns && data_->six.chain[k].turns;
  };
  return {.shoulder = turn(0, 1), .elbow = turn(1, 2), .bend = !is_of_fewer()};
}

std::string ClosedForm::branch_legend() const {
  if (!data_->told.wrist) return "branch: the sign of the bend";
  const Sides told = sides();
  std::vector<std::string> words;
  if (told.shoulder) words.emplace_back("the shoulder's side");
  if (told.elbow) words.emplace_back("the elbow");
  if (told.bend) words.emplace_back("the sign of the wrist's bend");
  return fmt::format("branch: {}", fmt::join(words, ", "));
}

// Of a chain whose branches are told apart by one bend: that of three joints that turn.
std::string ClosedForm::bend(const ClosedSolution& solution) const {
  const bool is_point =
      std::holds_alternative<ThreeSlides>(data_->form) ||
      (data_->told.reversed && std::holds_alternative<SphericalWrist>(data_->form));
  const auto* parallel = std::get_if<ParallelAxes>(&data_->form);
  const bool is_triangle = parallel != nullptr && parallel->turning() == 3;
  if (is_of_fewer() || !(is_point || is_triangle)) return {};
  std::array<int, 3> turns{};
  std::size_t count = 0;
  for (int k = 0; k < chain().size() && count < 3; ++k)
    if (chain()[k].turns) turns[count++] = k;
  std::array<Screw, kMostClosedJoints> at;
  chain().place(solution.values.data(), at);
  const auto screw = [&](std::size_t turn) -> const Screw& {
    return at[static_cast<std::size_t>(turns[turn])];
  };
  const auto sign = [](double bend) { return bend >= 0.0 ? "+" : "-"; };
  if (is_point) return sign(screw(1).axis.dot(screw(0).axis.cross(screw(2).axis)));
  const Vector3 upper = screw(1).point - screw(0).point;
  return sign(screw(1).axis.dot(upper.cross(screw(2).point - screw(1).point)));
}

std::string ClosedForm::branch(const ClosedSolution& solution) const {
  if (!data_->told.wrist) return bend(solution);
  static constexpr std::array<double, 6> kZero{};
  const ScrewChain& six = data_->six.chain;
  const PosedAxes at = posed(six, *data_->told.wrist, solution.values.data());
  const Sides told = sides();
  std::vector<std::string> words;
  if (told.shoulder) {
    const double zero = frontness(posed(six, *data_->told.wrist, kZero.data()));
    const bool front = frontness(at) * (zero < -1e-3 ? -1.0 : 1.0) >= 0.0;
    words.emplace_back(front ? "front" : "back");
  }
  if (told.elbow) words.emplace_back(is_up(at) ? "up" : "down");
  if (told.bend) {
    const double bend = at.axes[4].axis.dot(at.axes[3].axis.cross(at.axes[5].axis));
    words.emplace_back(bend >= 0.0 ? "+" : "-");
  }
  return fmt::format("{}", fmt::join(words, ", "));
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
  const bool are_candidates = std::holds_alternative<ParallelAxes>(data_->form);
  if (are_candidates) settle_all(tip, out);
  const int dropped = keep_met(tip, out);
  if (!are_candidates && dropped > 0) out.complete = false;
  if (is_of_fewer()) keep_standing(data_->six, chain(), tip, out);
  if (!out.complete) ask_another(tip, out);
}

// Axes that are all but parallel, brought onto the pose.
void ClosedForm::settle_all(const Pose& tip, ClosedSolutions& out) const {
  constexpr int kMostSteps = 3;
  for (int i = 0; i < out.count; ++i)
    settle(chain(), tip, kMostSteps, out.all[static_cast<std::size_t>(i)]);
}

// What is not sure by a special form the general one may know: of six joints of the arm's own it is
// made when it is asked, which is seldom.
void ClosedForm::ask_another(const Pose& tip, ClosedSolutions& out) const {
  std::optional<ClosedForm> made_now;
  if (is_special() && !is_of_fewer()) made_now = of_general(data_->six);
  const ClosedForm* general = made_now ? &*made_now : data_->doubted_by.get();
  if (general == nullptr) return;
  ClosedSolutions others;
  general->solve(tip, others);
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
