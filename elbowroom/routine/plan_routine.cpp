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

namespace er {
namespace {

constexpr int kMostAttempts = 8;  // to plan a section anew when nothing goes on from its end
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

class RoutinePlanner {
 public:
  RoutinePlanner(const FoundCell& found, const Routine& routine, const RoutineOptions& options,
                 const Supervision& supervision)
      : routine_(routine),
        options_(options),
        supervision_(supervision),
        situations_(found.query),
        start_(options.start.size() > 0 ? options.start : found.query.arm().stance(routine.start)),
        planner_(situations_, routine, start_, found.more),
        sections_(sections_of(routine, check_routine(found.query.cell(), routine))) {
    found.query.arm().check_posture(start_, "the posture in which the routine begins");
    out_.routine = routine;
    out_.start = start_;
    out_.worthwhile = options.worthwhile;
    out_.uncertainty = found.more;
  }

  Verdict<PlannedRoutine> plan() {
    if (plan_from(0, {start_, 0})) return std::move(out_);
    return *deepest_;
  }

 private:
  // Sections: what is planned as one. After a release that leaves the hand empty, the next free
  // move begins another one.
  static std::vector<std::vector<int>> sections_of(const Routine& routine,
                                                   const std::vector<int>& held) {
    std::vector<std::vector<int>> out(1);
    bool released = false;
    for (std::size_t i = 0; i < routine.steps.size(); ++i) {
      const Step& step = routine.steps[i];
      if (!step.on) continue;
      if (released && held[i] == 0 && std::holds_alternative<FreeMove>(step.action)) {
        out.emplace_back();
        released = false;
      }
      released = released || std::holds_alternative<Release>(step.action);
      out.back().push_back(static_cast<int>(i));
    }
    return out;
  }

  // Plans this section and all after it.
  bool plan_from(std::size_t number, const RoutineState& start) {
    if (number == sections_.size()) return true;
    for (const std::size_t width : kWidths) {
      Section section(planner_, routine_, sections_[number], start, width, options_, supervision_);
      if (plan_through(section, number)) return true;
      if (!section.is_narrowed() || supervision_.stop.stop_requested()) break;
    }
    return false;
  }

  bool plan_through(Section& section, std::size_t number) {
    for (int attempt = 0; attempt < kMostAttempts; ++attempt) {
      const auto planned = section.plan();
      out_.ways += section.take_ways();
      out_.looks += section.take_looks();
      if (!planned) {
        note(number, planned.reason());
        return false;
      }
      const std::size_t before = out_.steps.size();
      out_.is_quickest = out_.is_quickest && planned->is_quickest;
      out_.steps.insert(out_.steps.end(), planned->steps.begin(), planned->steps.end());
      situations_.forget_questions();
      if (plan_from(number + 1, planned->end)) return true;
      out_.steps.resize(before);
      if (supervision_.stop.stop_requested()) return false;
      section.leave_out_end();
    }
    return false;
  }

  // The no of the section that is furthest on counts.
  void note(std::size_t section, const Reason& reason) {
    if (deepest_ && section < deepest_section_) return;
    deepest_ = reason;
    deepest_section_ = section;
  }

  const Routine& routine_;
  const RoutineOptions& options_;
  const Supervision& supervision_;
  Situations situations_;
  Posture start_;
  StepPlanner planner_;
  std::vector<std::vector<int>> sections_;
  PlannedRoutine out_;
  std::optional<Reason> deepest_;
  std::size_t deepest_section_ = 0;
};

}  // namespace

Verdict<PlannedRoutine> plan_routine(const CellQuery& query, const Routine& routine,
                                     const RoutineOptions& options,
                                     const Supervision& supervision) {
  const Stopwatch watch;
  auto planned =
      RoutinePlanner(found_cell(query, options.pieces), routine, options, supervision).plan();
  if (!planned) return planned;
  PlannedRoutine out = std::move(planned).value();
  out.seconds = watch.seconds();
  return out;
}

}  // namespace er
