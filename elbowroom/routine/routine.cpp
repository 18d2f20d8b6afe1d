#include "elbowroom/routine/routine.hpp"

#include <fmt/format.h>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

class RoutinePlanner {
 public:
  RoutinePlanner(const CellQuery& query, const Routine& routine, const Supervision& supervision)
      : query_(query), routine_(routine), supervision_(supervision) {}

  Verdict<PlannedRoutine> plan() {
    if (routine_.steps.empty())
      throw InputError("the routine has no steps", "add some under steps:");
    PlannedRoutine out{routine_, {}};
    Posture now = query_.arm().stance(routine_.start);
    for (std::size_t i = 0; i < routine_.steps.size(); ++i) {
      const Step& step = routine_.steps[i];
      if (supervision_.progress)
        supervision_.progress(static_cast<double>(i) / static_cast<double>(routine_.steps.size()),
                              "planning " + step.name);
      PlannedStep planned{step, clearance_of(step), {}, 0, 0};
      const auto motion =
          step.kind == StepKind::line_to ? plan_line(step, now) : plan_free(i, now, planned);
      if (!motion) return refused(i, motion.reason());
      planned.motion = *motion;
      now = planned.motion.at(planned.motion.duration()).position;
      out.steps.push_back(std::move(planned));
    }
    return out;
  }

 private:
  [[nodiscard]] double clearance_of(const Step& step) const {
    return step.clearance.value_or(routine_.clearance);
  }
  [[nodiscard]] PaceOptions pace_options(const Step& step) const {
    return {.profile = routine_.profile,
            .speed = step.speed.value_or(routine_.speed),
            .keep_jerk = routine_.keep_jerk};
  }

  // What a reason says without the "no: " that stands before an answer of its own.
  static std::string bare(const Reason& why) {
    return why.text.rfind("no: ", 0) == 0 ? why.text.substr(4) : why.text;
  }

  [[nodiscard]] Reason refused(std::size_t index, Reason why) const {
    why.text = bare(why);
    why.text = fmt::format("no: step {} of {}, {}: {}", index + 1, routine_.steps.size(),
                           routine_.steps[index].name, why.text);
    why.cause = Cause::step_refused;
    return why;
  }

  static Verdict<Motion> motion_of(const Verdict<PacedMotion>& paced) {
    if (!paced) return paced.reason();
    return paced->motion;
  }

  [[nodiscard]] Verdict<Motion> plan_line(const Step& step, const Posture& from) const {
    const auto line = follow_line(query_, from, step.target, {.clearance = clearance_of(step)});
    if (!line) return line.reason();
    return motion_of(pace(*line, query_, pace_options(step)));
  }

  // The straight moves that follow step `index`, begun at `posture`: "" when all can be done.
  [[nodiscard]] std::string fault_ahead(std::size_t index, Posture posture) const {
    for (std::size_t i = index + 1;
         i < routine_.steps.size() && routine_.steps[i].kind == StepKind::line_to; ++i) {
      const auto motion = plan_line(routine_.steps[i], posture);
      if (!motion) return bare(refused(i, motion.reason()));
      posture = motion->at(motion->duration()).position;
    }
    return {};
  }

  Verdict<Motion> plan_free(std::size_t index, const Posture& from, PlannedStep& planned) const {
    const Step& step = routine_.steps[index];
    std::vector<Posture> goals;
    std::vector<std::size_t> numbers;
    if (step.kind == StepKind::go_to_stance) {
      goals.push_back(query_.arm().stance(step.stance));
      if (std::string fault = fault_ahead(index, goals.front()); !fault.empty())
        return Reason{Cause::off_line, fault};
    } else {
      const auto reached =
          reach(query_, step.target, {.clearance = clearance_of(step), .from = from});
      if (!reached) return reached.reason();
      std::string first_fault;
      for (std::size_t s = 0; s < reached->solutions.size(); ++s) {
        std::string fault = fault_ahead(index, reached->solutions[s].posture);
        if (fault.empty()) {
          goals.push_back(reached->solutions[s].posture);
          numbers.push_back(s + 1);
        } else if (first_fault.empty()) {
          first_fault = std::move(fault);
        }
      }
      planned.ways = static_cast<int>(reached->solutions.size());
      if (goals.empty())
        return Reason{
            Cause::off_line,
            fmt::format("none of the {} postures that meet it can go on with the straight "
                        "moves after it; from the best: {}",
                        planned.ways, first_fault)};
    }
    const auto route =
        find_route(query_, from, goals,
                   {.clearance = clearance_of(step),
                    .seed = routine_.seed,
                    .cost = step.cost,
                    .rules = step.keep,
                    .planner = step.improve > 0 ? RoutePlanner::improving : RoutePlanner::two_trees,
                    .rounds = step.improve,
                    .least_within = 0.0},
                   {.progress = {}, .stop = supervision_.stop});
    if (!route) return route.reason();
    if (!numbers.empty()) planned.way = static_cast<int>(numbers[route->goal]);
    if (path_length(route->waypoints) < 1e-9)
      return Reason{Cause::step_refused, "the arm is already there; leave the step out"};
    PaceOptions pacing = pace_options(step);
    // Rules are proved along the lines, which round corners leave.
    if (step.keep.empty()) pacing.corners = routine_.corners;
    return motion_of(pace(*route, query_, pacing));
  }

  const CellQuery& query_;
  const Routine& routine_;
  const Supervision& supervision_;
};

}  // namespace

double PlannedRoutine::duration() const {
  double sum = 0.0;
  for (const PlannedStep& step : steps) sum += step.motion.duration();
  return sum;
}

std::vector<double> PlannedRoutine::ends() const {
  std::vector<double> times;
  double time = 0.0;
  for (const PlannedStep& step : steps) times.push_back(time += step.motion.duration());
  return times;
}

Motion PlannedRoutine::whole() const {
  Motion all;
  for (const PlannedStep& step : steps) all = all.then(step.motion);
  return all;
}

Verdict<PlannedRoutine> plan_routine(const CellQuery& query, const Routine& routine,
                                     const Supervision& supervision) {
  return RoutinePlanner(query, routine, supervision).plan();
}

}  // namespace er
