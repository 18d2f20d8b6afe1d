#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/model/find_named.hpp"
#include "elbowroom/routine/check_routine.hpp"
#include "elbowroom/routine/routine.hpp"
#include "elbowroom/routine/section.hpp"
#include "elbowroom/routine/shared_move.hpp"
#include "elbowroom/routine/start_early.hpp"

namespace er {
namespace {

constexpr int kMostAttempts = 8;   // to plan a stretch anew when nothing goes on from its end
constexpr int kMostFailures = 16;  // of one stretch, after which nothing more is tried
// How many states are gone on from after each step, and how many ends of a tool move that leaves
// something open: few at first, more when those do not do.
struct Breadth {
  std::size_t width;
  std::size_t ends;
};
constexpr Breadth kBreadths[] = {{24, 1}, {96, 1}, {384, 1}, {96, 4}};

// The cell as it is found, and what has to be kept beside every clearance.
struct FoundCell {
  CellQuery query;
  double more = 0.0;
};

double furthest_point(const Body& piece) {
  double most = 0.0;
  for (const Part& part : piece.parts)
    if (part.collides) most = std::max(most, part.at.position.norm() + bounding_radius(part.shape));
  return most;
}

FoundCell found_cell(const CellQuery& query, const std::vector<PieceInput>& pieces) {
  FoundCell out{query, 0.0};
  for (const PieceInput& one : pieces) {
    const Body& piece = find_named(query.cell().pieces(), "piece", one.piece);
    if (!(one.within >= 0.0) || !(one.turned_within >= 0.0) || !std::isfinite(one.within) ||
        !std::isfinite(one.turned_within))
      throw InputError(fmt::format("what is not known of '{}' must be zero or more", one.piece));
    // No point of the piece is further off than this, wherever it is.
    out.more = std::max(out.more, one.within + one.turned_within * furthest_point(piece));
    if (one.at) out.query = out.query.with_cell(out.query.cell().with_body_at(one.piece, *one.at));
  }
  return out;
}

// How everything stands between two sections.
struct World {
  Cell cell;
  std::vector<Posture> postures;  // of the arms, in the order of Routine::arms()
};

// What is planned as one: steps of one arm, or a free move of several.
struct Stretch {
  std::size_t arm = 0;  // of Routine::arms()
  std::vector<int> steps = {};
  bool together = false;
  std::size_t next = 0;  // the step after it
};

class RoutinePlanner {
 public:
  RoutinePlanner(const FoundCell& found, const Routine& routine, const RoutineOptions& options,
                 const Supervision& supervision)
      : found_(found),
        routine_(routine),
        options_(options),
        supervision_(supervision),
        arms_(routine.arms()) {
    check_routine(found.query.cell(), routine);
    out_.routine = routine;
    out_.worthwhile = options.worthwhile;
    out_.uncertainty = found.more;
    for (std::size_t i = 0; i < arms_.size(); ++i) {
      const Arm& arm = found.query.cell().arm(arms_[i]);
      out_.starts.push_back(i == 0 && options.start.size() > 0 ? options.start
                                                               : arm.stance(routine.start_of(i)));
      arm.check_posture(out_.starts.back(), "the posture in which the routine begins");
    }
  }

  Verdict<PlannedRoutine> plan() {
    if (!plan_from(0, {found_.query.cell(), out_.starts})) return why_not();
    for (PlannedPath& path : paths_) {
      out_.steps = std::move(path.steps);
      set_times_in_turn(out_);
      if (routine_.at_once && arms_.size() > 1)
        start_early(found_.query.cell(), out_, supervision_);
      path.steps = std::move(out_.steps);
    }
    out_.paths = std::move(paths_);
    return out_.along(0);
  }

 private:
  [[nodiscard]] std::size_t number_of(const std::string& arm) const {
    return static_cast<std::size_t>(std::find(arms_.begin(), arms_.end(), arm) - arms_.begin());
  }
  [[nodiscard]] const Step& step(std::size_t i) const { return routine_.steps[i]; }

  // The first condition of a step of which it is not known whether it holds.
  [[nodiscard]] const Condition* open_condition(const Step& step) const {
    for (const Condition& one : step.when) {
      const auto known = std::find_if(
          holding_.begin(), holding_.end(),
          [&](const Condition& other) { return other.on == one.on && other.chosen == one.chosen; });
      if (known == holding_.end()) return &one;
      if (known->is != one.is) return nullptr;  // not done anyway
    }
    return nullptr;
  }

  // From a step on: after a release that leaves the hand empty, the next free move begins another
  // stretch; so does what another arm does, and what hangs on something not known yet.
  [[nodiscard]] Stretch stretch_from(std::size_t first, const World& world) const {
    Stretch out{number_of(routine_.arm_of(step(first))), {}, !step(first).together.empty(), first};
    auto held = static_cast<int>(holds_of(world.cell.arm(arms_[out.arm])).size());
    bool released = false;
    for (std::size_t i = first; i < routine_.steps.size(); out.next = ++i) {
      const Step& one = step(i);
      if (one.on && open_condition(one) != nullptr) break;
      if (!is_done(one, holding_)) continue;
      if (one.together != step(first).together) break;
      if (!out.together) {
        if (number_of(routine_.arm_of(one)) != out.arm) break;
        if (released && held == 0 && std::holds_alternative<FreeMove>(one.action)) break;
        const bool grips = std::holds_alternative<Grip>(one.action);
        const bool releases = std::holds_alternative<Release>(one.action);
        held += (grips ? 1 : 0) - (releases ? 1 : 0);
        released = released || releases;
      }
      out.steps.push_back(static_cast<int>(i));
    }
    return out;
  }

  // Plans this step and all after it, on every path.
  bool plan_from(std::size_t number, const World& world) {
    while (number < routine_.steps.size() && !is_done(step(number), holding_) &&
           (!step(number).on || open_condition(step(number)) == nullptr))
      ++number;
    if (number == routine_.steps.size()) return end_path();
    if (const Condition* open = open_condition(step(number)))
      return open->chosen ? plan_itself_or_instead(number, world, *open)
                          : plan_both(number, world, *open);
    const bool planned = plan_stretch(number, world);
    if (!planned && ++failures_[number] == kMostFailures) given_up_ = true;
    return planned;
  }

  bool end_path() {
    PlannedPath path{{}, out_.steps, instead_};
    for (const Condition& one : holding_)
      if (!one.chosen) path.signals.push_back({one.on, one.is});
    paths_.push_back(std::move(path));
    return true;
  }

  // Whatever a signal says, it has to work.
  bool plan_both(std::size_t number, const World& world, const Condition& open) {
    const std::size_t paths = paths_.size();
    const std::size_t steps = out_.steps.size();
    bool all = true;
    for (const bool is : {true, false}) {
      holding_.push_back({open.on, is});
      ++signals_;
      all = all && plan_from(number, world);
      --signals_;
      holding_.pop_back();
      out_.steps.resize(steps);
    }
    if (!all) paths_.resize(paths);
    return all;
  }

  // Steps as they are; or, where the whole does not work so, what stands in for them.
  bool plan_itself_or_instead(std::size_t number, const World& world, const Condition& open) {
    const Condition asked = open;
    holding_.push_back({asked.on, true, true});
    const std::optional<Failure> before = std::exchange(deepest_, std::nullopt);
    if (plan_from(number, world)) return holding_.pop_back(), true;
    holding_.pop_back();
    if (supervision_.stop.stop_requested()) return false;
    given_up_ = false;
    failures_.clear();
    instead_.push_back({step(number).name, deepest_ ? deepest_->reason.bare() : std::string{}});
    holding_.push_back({asked.on, false, true});
    check_path(found_.query.cell(), routine_, with_all_themselves());
    const bool planned = plan_from(number, world);
    holding_.pop_back();
    instead_.pop_back();
    if (before && deepest_ && before->step > deepest_->step) deepest_ = before;
    return planned;
  }

  // What holds, as far as it is known; else steps are done themselves, and signals say no.
  [[nodiscard]] std::vector<Condition> with_all_themselves() const {
    std::vector<Condition> out = holding_;
    for (const Step& one : routine_.steps)
      for (const Condition& open : one.when)
        if (std::none_of(out.begin(), out.end(), [&](const Condition& known) {
              return known.on == open.on && known.chosen == open.chosen;
            }))
          out.push_back({open.on, open.chosen, open.chosen});
    return out;
  }

  bool plan_stretch(std::size_t number, const World& world) {
    const Stretch stretch = stretch_from(number, world);
    if (stretch.together) {
      SharedMove move = shared_move(stretch, world);
      return plan_through(stretch, world, move, [&](const SharedMove::Planned& planned) {
        return plan_from(stretch.next, {world.cell, planned.end});
      });
    }
    Situations situations(query_of(world, stretch.arm));
    StepPlanner planner(situations, routine_, out_.starts[stretch.arm], found_.more);
    bool is_narrowed = true;
    for (const Breadth& breadth : kBreadths) {
      if (breadth.ends == 1 ? !is_narrowed : !leaves_something_open(stretch)) continue;
      planner.take_ends(breadth.ends);
      Section section(planner, routine_, stretch.steps, {world.postures[stretch.arm], 0},
                      breadth.width, options_, supervision_);
      const auto after = [&](const Section::Planned& planned) {
        World next{situations.cell(planned.end.situation), world.postures};
        next.postures[stretch.arm] = planned.end.posture;
        situations.forget_questions();
        return plan_from(stretch.next, next);
      };
      if (plan_through(stretch, world, section, after)) return true;
      if (deepest_ && deepest_->step == number) deepest_->breadth = breadth;
      if (given_up_ || supervision_.stop.stop_requested()) break;
      is_narrowed = section.is_narrowed();
    }
    return false;
  }

  [[nodiscard]] bool leaves_something_open(const Stretch& stretch) const {
    return std::any_of(stretch.steps.begin(), stretch.steps.end(), [&](int number) {
      const Step& step = routine_.steps[static_cast<std::size_t>(number)];
      return is_tool_move(step.action) && !step.freedom.is_none();
    });
  }

  // What stopped it furthest on, in full. Finding out what would help takes longer than to plan, so
  // it is done for that alone.
  Reason why_not() {
    if (!deepest_) return {Cause::stopped, "no: told to stop before the routine was planned"};
    Reason out = deepest_->reason;
    const World& world = deepest_->world;
    holding_ = deepest_->holding;
    if (!supervision_.stop.stop_requested()) {
      const Stretch stretch = stretch_from(deepest_->step, world);
      if (stretch.together) {
        SharedMove move = shared_move(stretch, world);
        if (!move.plan()) out = move.why_not();
      } else {
        Situations situations(query_of(world, stretch.arm));
        StepPlanner planner(situations, routine_, out_.starts[stretch.arm], found_.more);
        planner.take_ends(deepest_->breadth.ends);
        Section section(planner, routine_, stretch.steps, {world.postures[stretch.arm], 0},
                        deepest_->breadth.width, options_, supervision_);
        if (!section.plan()) out = section.why_not();
      }
    }
    std::string where;
    for (const Condition& one : holding_)
      if (!one.chosen)
        where += fmt::format("{} {} is {}", where.empty() ? "where" : " and", one.on,
                             one.is ? "yes" : "no");
    if (!where.empty()) out.text = fmt::format("no: {}: {}", where, out.bare());
    return out;
  }

  [[nodiscard]] SharedMove shared_move(const Stretch& stretch, const World& world) const {
    return {found_.query, world.cell,     routine_,    stretch.steps,
            out_.starts,  world.postures, found_.more, supervision_};
  }

  // What one arm may meet while the others stand still.
  [[nodiscard]] CellQuery query_of(const World& world, std::size_t arm) const {
    std::vector<OtherArm> others;
    for (std::size_t i = 0; i < arms_.size(); ++i)
      if (i != arm) others.push_back({arms_[i], world.postures[i]});
    return found_.query.with_others(world.cell, arms_[arm], others);
  }

  template <class Part, class After>
  bool plan_through(const Stretch& stretch, const World& world, Part& part, After after) {
    for (int attempt = 0; attempt < kMostAttempts; ++attempt) {
      const auto planned = part.plan();
      out_.ways += part.take_ways();
      out_.looks += part.take_looks();
      if (!planned) {
        note(static_cast<std::size_t>(stretch.steps.front()), world, planned.reason());
        return false;
      }
      const std::size_t before = out_.steps.size();
      out_.is_quickest = out_.is_quickest && planned->is_quickest;
      for (const PlannedStep& one : planned->steps) {
        out_.steps.push_back(one);
        out_.steps.back().signals = signals_;
      }
      if (after(*planned)) return true;
      out_.steps.resize(before);
      if (given_up_ || supervision_.stop.stop_requested()) return false;
      part.leave_out_end();
    }
    return false;
  }

  // The no of the stretch that is furthest on counts.
  void note(std::size_t first, const World& world, const Reason& reason) {
    if (deepest_ && first < deepest_->step) return;
    deepest_ = Failure{first, world, holding_, kBreadths[0], reason};
  }

  const FoundCell& found_;
  const Routine& routine_;
  const RoutineOptions& options_;
  const Supervision& supervision_;
  std::vector<std::string> arms_;
  PlannedRoutine out_;
  std::vector<PlannedPath> paths_;  // those that are planned to their ends
  std::vector<Condition> holding_;  // what is known on the path that is being planned
  std::size_t signals_ = 0;         // that are read there
  std::vector<Instead> instead_;    // what is done instead of something there
  struct Failure {
    std::size_t step = 0;  // the first of the stretch
    World world;
    std::vector<Condition> holding;
    Breadth breadth = kBreadths[0];
    Reason reason;
  };
  std::optional<Failure> deepest_;
  std::map<std::size_t, int>
      failures_;  // of the stretch from a step, from different ends before it
  bool given_up_ = false;
};

}  // namespace

Verdict<PlannedRoutine> plan_routine(const CellQuery& query, const Routine& routine,
                                     const RoutineOptions& options,
                                     const Supervision& supervision) {
  const Stopwatch watch;
  const FoundCell found = found_cell(query, options.pieces);
  auto planned = RoutinePlanner(found, routine, options, supervision).plan();
  if (!planned) return planned;
  PlannedRoutine out = std::move(planned).value();
  out.seconds = watch.seconds();
  return out;
}

}  // namespace er
