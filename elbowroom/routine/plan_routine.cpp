#include <fmt/format.h>

#include <algorithm>
#include <cmath>

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

constexpr int kMostAttempts = 8;  // to plan a stretch anew when nothing goes on from its end
constexpr int kMostFailures = 16;  // of one stretch, after which nothing more is tried
// States that are gone on from after each step: few at first, more when those do not do.
constexpr std::size_t kWidths[] = {24, 96, 384};

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
};

class RoutinePlanner {
 public:
  RoutinePlanner(const FoundCell& found, const Routine& routine, const RoutineOptions& options,
                 const Supervision& supervision)
      : found_(found),
        routine_(routine),
        options_(options),
        supervision_(supervision),
        arms_(routine.arms()),
        stretches_(stretches_of(check_routine(found.query.cell(), routine))) {
    failures_.resize(stretches_.size());
    out_.routine = routine;
    out_.worthwhile = options.worthwhile;
    out_.uncertainty = found.more;
    for (std::size_t i = 0; i < arms_.size(); ++i) {
      const Arm& arm = found.query.cell().arm(arms_[i]);
      const std::string& stance = i == 0 ? routine.start : routine.others[i - 1].start;
      out_.starts.push_back(i == 0 && options.start.size() > 0 ? options.start
                                                               : arm.stance(stance));
      arm.check_posture(out_.starts.back(), "the posture in which the routine begins");
    }
  }

  Verdict<PlannedRoutine> plan() {
    if (!plan_from(0, {found_.query.cell(), out_.starts})) return why_not();
    set_times();
    return std::move(out_);
  }

 private:
  [[nodiscard]] std::size_t number_of(const std::string& arm) const {
    return static_cast<std::size_t>(std::find(arms_.begin(), arms_.end(), arm) - arms_.begin());
  }

  // After a release that leaves the hand empty, the next free move begins another stretch; so does
  // what another arm does.
  [[nodiscard]] std::vector<Stretch> stretches_of(const std::vector<int>& held) const {
    std::vector<Stretch> out;
    bool released = false;
    std::string together;
    for (std::size_t i = 0; i < routine_.steps.size(); ++i) {
      const Step& step = routine_.steps[i];
      if (!step.on) continue;
      const std::size_t arm = number_of(routine_.arm_of(step));
      const bool goes_on = step.together.empty() ? !out.empty() && !out.back().together &&
                                                       out.back().arm == arm
                                                 : step.together == together;
      const bool anew =
          released && held[i] == 0 && std::holds_alternative<FreeMove>(step.action);
      if (!goes_on || anew) {
        out.push_back({arm, {}, !step.together.empty()});
        released = false;
      }
      together = step.together;
      released = released || std::holds_alternative<Release>(step.action);
      out.back().steps.push_back(static_cast<int>(i));
    }
    return out;
  }

  // Plans this stretch and all after it.
  bool plan_from(std::size_t number, const World& world) {
    if (number == stretches_.size()) return true;
    const bool planned = plan_stretch(number, world);
    if (!planned && ++failures_[number] == kMostFailures) given_up_ = true;
    return planned;
  }

  bool plan_stretch(std::size_t number, const World& world) {
    const Stretch& stretch = stretches_[number];
    if (stretch.together) {
      SharedMove move(found_.query, world.cell, routine_, stretch.steps, out_.starts,
                      world.postures, found_.more, supervision_);
      return plan_through(number, world, move, [&](const SharedMove::Planned& planned) {
        return plan_from(number + 1, {world.cell, planned.end});
      });
    }
    Situations situations(query_of(world, stretch.arm));
    StepPlanner planner(situations, routine_, out_.starts[stretch.arm], found_.more);
    for (const std::size_t width : kWidths) {
      Section section(planner, routine_, stretch.steps, {world.postures[stretch.arm], 0}, width,
                      options_, supervision_);
      const auto after = [&](const Section::Planned& planned) {
        World next{situations.cell(planned.end.situation), world.postures};
        next.postures[stretch.arm] = planned.end.posture;
        situations.forget_questions();
        return plan_from(number + 1, next);
      };
      if (plan_through(number, world, section, after)) return true;
      if (deepest_ && deepest_->stretch == number) deepest_->width = width;
      if (!section.is_narrowed() || given_up_ || supervision_.stop.stop_requested()) break;
    }
    return false;
  }

  // What stopped it furthest on, in full. Finding out what would help takes longer than to plan, so
  // it is done for that alone.
  Reason why_not() {
    const Stretch& stretch = stretches_[deepest_->stretch];
    if (supervision_.stop.stop_requested()) return deepest_->reason;
    const World& world = deepest_->world;
    if (stretch.together) {
      SharedMove move(found_.query, world.cell, routine_, stretch.steps, out_.starts,
                      world.postures, found_.more, supervision_);
      return move.plan() ? deepest_->reason : move.why_not();
    }
    Situations situations(query_of(world, stretch.arm));
    StepPlanner planner(situations, routine_, out_.starts[stretch.arm], found_.more);
    Section section(planner, routine_, stretch.steps, {world.postures[stretch.arm], 0},
                    deepest_->width, options_, supervision_);
    return section.plan() ? deepest_->reason : section.why_not();
  }

  // What one arm may meet while the others stand still.
  [[nodiscard]] CellQuery query_of(const World& world, std::size_t arm) const {
    std::vector<OtherArm> others;
    for (std::size_t i = 0; i < arms_.size(); ++i)
      if (i != arm) others.push_back({arms_[i], world.postures[i]});
    return found_.query.with_others(world.cell, arms_[arm], others);
  }

  template <class Part, class After>
  bool plan_through(std::size_t number, const World& world, Part& part, After after) {
    for (int attempt = 0; attempt < kMostAttempts; ++attempt) {
      const auto planned = part.plan();
      out_.ways += part.take_ways();
      out_.looks += part.take_looks();
      if (!planned) {
        note(number, world, planned.reason());
        return false;
      }
      const std::size_t before = out_.steps.size();
      out_.is_quickest = out_.is_quickest && planned->is_quickest;
      out_.steps.insert(out_.steps.end(), planned->steps.begin(), planned->steps.end());
      if (after(*planned)) return true;
      out_.steps.resize(before);
      if (given_up_ || supervision_.stop.stop_requested()) return false;
      part.leave_out_end();
    }
    return false;
  }

  // The no of the stretch that is furthest on counts.
  void note(std::size_t stretch, const World& world, const Reason& reason) {
    if (deepest_ && stretch < deepest_->stretch) return;
    deepest_ = Failure{stretch, world, kWidths[0], reason};
  }

  // One arm after the other; or each as soon as it can.
  void set_times() {
    set_times_in_turn(out_);
    if (routine_.at_once && arms_.size() > 1)
      start_early(found_.query.cell(), out_, supervision_);
  }

  const FoundCell& found_;
  const Routine& routine_;
  const RoutineOptions& options_;
  const Supervision& supervision_;
  std::vector<std::string> arms_;
  std::vector<Stretch> stretches_;
  PlannedRoutine out_;
  struct Failure {
    std::size_t stretch = 0;
    World world;
    std::size_t width = 0;
    Reason reason;
  };
  std::optional<Failure> deepest_;
  std::vector<int> failures_;  // of each stretch, from different ends of those before it
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
