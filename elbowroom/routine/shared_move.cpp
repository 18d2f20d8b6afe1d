#include "elbowroom/routine/shared_move.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/model/arms_as_one.hpp"
#include "elbowroom/pace/pace.hpp"
#include "elbowroom/routine/goal_ways.hpp"

namespace er {
namespace {

constexpr std::size_t kMostWaysEach = 32;
constexpr std::size_t kMostEnds = 64;  // of all arms, looked at for being free
constexpr std::size_t kMostGoals = 8;  // that a way is looked for to at once
constexpr int kTries = 20000;          // of the search
constexpr double kNoMove = 1e-9;       // rad or m

// The other arms where they stand, and those that move as one.
CellQuery query_as_one(const CellQuery& query, const Cell& cell,
                       const std::vector<std::string>& all, const std::vector<std::string>& moving,
                       const std::vector<Posture>& postures) {
  std::vector<OtherArm> others;
  for (std::size_t i = 0; i < all.size(); ++i)
    if (std::find(moving.begin(), moving.end(), all[i]) == moving.end())
      others.push_back({all[i], postures[i]});
  return query.with_others(with_arms_as_one(cell, moving), name_as_one(moving), others);
}

}  // namespace

SharedMove::SharedMove(const CellQuery& query, const Cell& cell, const Routine& routine,
                       const std::vector<int>& steps, const std::vector<Posture>& starts,
                       const std::vector<Posture>& postures, double more,
                       const Supervision& supervision)
    : query_(query),
      cell_(cell),
      routine_(routine),
      starts_(starts),
      postures_(postures),
      more_(more),
      supervision_(supervision),
      arms_(routine.arms()),
      all_(query) {
  std::vector<std::string> moving;
  std::vector<Posture> from;
  for (const int number : steps) {
    const Step& one = routine.steps[static_cast<std::size_t>(number)];
    moving.push_back(routine.arm_of(one));
    const auto arm = static_cast<std::size_t>(std::find(arms_.begin(), arms_.end(), moving.back()) -
                                              arms_.begin());
    movers_.push_back({arm, number, {}});
    from.push_back(postures[arm]);
    clearance_ = std::max(clearance_, routine.clearance_of(one) + more);
  }
  all_ = query_as_one(query, cell, arms_, moving, postures);
  from_ = side_by_side(from);
}

std::string SharedMove::title() const {
  return fmt::format("steps {} to {} of {}, together ({})", movers_.front().step + 1,
                     movers_.back().step + 1, routine_.steps.size(),
                     step(movers_.front()).together);
}

// For one arm, without the others that move: they may be anywhere meanwhile.
Situations SharedMove::situations_of(const Mover& mover) const {
  Cell alone = cell_;
  std::vector<OtherArm> others;
  for (std::size_t i = 0; i < arms_.size(); ++i) {
    if (i == mover.arm) continue;
    const bool moves = std::any_of(movers_.begin(), movers_.end(),
                                   [&](const Mover& other) { return other.arm == i; });
    if (moves)
      alone = alone.without_arm(arms_[i]);
    else
      others.push_back({arms_[i], postures_[i]});
  }
  return Situations(query_.with_others(alone, arms_[mover.arm], others));
}

Reason SharedMove::why_not() {
  if (without_way_ == nullptr) return *no_way_;
  Situations situations = situations_of(*without_way_);
  const Step& one = step(*without_way_);
  const std::size_t arm = without_way_->arm;
  Reason out = why_no_way_to(situations, 0, one.tool, std::get<FreeMove>(one.action).to,
                             starts_[arm], postures_[arm], routine_.clearance_of(one) + more_);
  out.cause = Cause::step_refused;
  out.text = fmt::format("no: {}: {}: {}", title(), arms_[arm], out.bare());
  return out;
}

double SharedMove::least_time(const Posture& to) const {
  return all_.arm().limits().least_times(from_, to).maxCoeff();
}

// All pairs of ends that are free together, the cheapest first.
void SharedMove::find_ends() {
  found_ends_ = true;
  ends_ = {End{}};
  for (Mover& mover : movers_) {
    Situations situations = situations_of(mover);
    const Step& one = step(mover);
    auto ways =
        ways_to(situations, 0, one.tool, std::get<FreeMove>(one.action).to, starts_[mover.arm],
                postures_[mover.arm], routine_.clearance_of(one) + more_, kMostWaysEach);
    if (!ways) {
      without_way_ = &mover;
      no_way_ = ways.reason();
      no_way_->cause = Cause::step_refused;
      no_way_->text = fmt::format("no: {}: {}: {}", title(), arms_[mover.arm], no_way_->bare());
      ends_.clear();
      return;
    }
    mover.ways = std::move(ways).value();
    ways_ += static_cast<int>(mover.ways.size());
    std::vector<End> more;
    for (const End& end : ends_)
      for (std::size_t w = 0; w < mover.ways.size(); ++w) {
        End next = end;
        next.ways.push_back(w);
        next.posture = side_by_side({end.posture, mover.ways[w].posture});
        next.cost += kPostureSeconds * mover.ways[w].cost;
        more.push_back(std::move(next));
      }
    ends_ = std::move(more);
  }
  for (End& end : ends_) end.cost += least_time(end.posture);
  std::stable_sort(ends_.begin(), ends_.end(),
                   [](const End& a, const End& b) { return a.cost < b.cost; });
  std::vector<End> free;
  std::string fault;
  for (End& end : ends_) {
    if (free.size() == kMostEnds) break;
    if (all_.is_free(end.posture, clearance_))
      free.push_back(std::move(end));
    else if (fault.empty())
      fault = all_.fault_of(end.posture, clearance_);
  }
  if (free.empty())
    no_way_ = Reason{
        Cause::step_refused,
        fmt::format("no: {}: none of {} ways to stand is free: {}", title(), ends_.size(), fault)};
  ends_ = std::move(free);
}

Verdict<SharedMove::Planned> SharedMove::plan() {
  if (!found_ends_) find_ends();
  std::erase_if(
      ends_, [&](const End& end) { return (end.posture - from_).cwiseAbs().maxCoeff() < kNoMove; });
  if (ends_.empty() && !no_way_)
    no_way_ = Reason{Cause::step_refused,
                     fmt::format("no: {}: the arms are there already, or no other way to stand "
                                 "is left",
                                 title())};
  if (ends_.empty()) return *no_way_;
  std::vector<Posture> goals;
  for (std::size_t i = 0; i < std::min(ends_.size(), kMostGoals); ++i)
    goals.push_back(ends_[i].posture);
  ++looks_;
  if (supervision_.progress)
    supervision_.progress(
        static_cast<double>(movers_.front().step) / static_cast<double>(routine_.steps.size()),
        "planning " + step(movers_.front()).together);
  const auto route = find_route(all_, from_, goals,
                                {.clearance = clearance_,
                                 .seed = routine_.seed,
                                 .tries = kTries,
                                 .find_remedies = false,
                                 .least_within = 0.0},
                                {.progress = {}, .stop = supervision_.stop});
  const auto no = [&](const Reason& reason) -> const Reason& {
    Reason out = reason;
    out.cause = Cause::step_refused;
    out.text = fmt::format("no: {}: {}", title(), reason.bare());
    return no_way_.emplace(std::move(out));
  };
  if (!route) return no(route.reason());
  last_end_ = route->goal;
  PaceOptions pacing = routine_.pacing_of(step(movers_.front()));
  pacing.tool.clear();  // of all arms none in particular
  for (const Mover& mover : movers_)
    pacing.speed = std::min(pacing.speed, routine_.pacing_of(step(mover)).speed);
  const auto paced = pace(*route, all_, pacing);
  if (!paced) return no(paced.reason());
  return planned(ends_[last_end_], paced->motion);
}

SharedMove::Planned SharedMove::planned(const End& end, const Motion& motion) const {
  Planned out{.end = postures_};
  int first = 0;
  for (std::size_t i = 0; i < movers_.size(); ++i) {
    const Mover& mover = movers_[i];
    const int joints = static_cast<int>(postures_[mover.arm].size());
    const GoalWay& way = mover.ways[end.ways[i]];
    const bool choice = mover.ways.size() > 1;
    out.steps.push_back({.step = step(mover),
                         .clearance = clearance_ - more_,
                         .motion = motion.joints(first, joints),
                         .way = choice ? static_cast<int>(end.ways[i]) + 1 : 0,
                         .ways = choice ? static_cast<int>(mover.ways.size()) : 0,
                         .number = mover.step + 1,
                         .how = choice ? way.how : std::string{},
                         .cell = cell_});
    out.end[mover.arm] = way.posture;
    first += joints;
  }
  return out;
}

void SharedMove::leave_out_end() {
  ends_.erase(ends_.begin() + static_cast<std::ptrdiff_t>(last_end_));
}

int SharedMove::take_ways() { return std::exchange(ways_, 0); }
int SharedMove::take_looks() { return std::exchange(looks_, 0); }

}  // namespace er
