#include "elbowroom/routine/section.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <map>
#include <numeric>

#include "elbowroom/base/units.hpp"

namespace er {
namespace {

// Of the search for free moves: few where there are other ways, many when none of those did it.
constexpr int kFewTries = 4000;
constexpr int kManyTries = 20000;
// Searches for free moves that may come to nothing, of each kind, before no more are begun: where
// so many ways are closed, the others most often are, too, and each costs a long search.
constexpr int kMostVain = 48;
constexpr int kMostLongVain = 12;
constexpr std::size_t kFreedTakesMore = 6;  // times: so much fewer states before one
constexpr int kMostEarlier = 24;            // moves looked at for what else would have to change
constexpr std::size_t kMostReasons = 6;

// Moves that are quick to look at come first.
int effort_of(const Action& action) {
  if (std::holds_alternative<FreeMove>(action)) return 2;
  return is_tool_move(action) || std::holds_alternative<TurnJoints>(action) ? 1 : 0;
}

}  // namespace

Section::Section(StepPlanner& planner, const Routine& routine, const std::vector<int>& steps,
                 const RoutineState& start, std::size_t width, const RoutineOptions& options,
                 const Supervision& supervision)
    : planner_(planner),
      routine_(routine),
      steps_(steps),
      options_(options),
      supervision_(supervision),
      states_{{start}} {
  std::vector<int> counts{1};
  std::vector<std::vector<LayerMove>> moves;
  std::vector<double> soonest{0.0};
  for (std::size_t layer = 0; layer < steps_.size(); ++layer) {
    try {
      ways_.push_back(planner_.ways_of(step(layer), states_.back()));
    } catch (const InputError& error) {
      throw error.place().line > 0 ? error : error.at(step(layer).place);
    }
    // A move that leaves something open is worked out whole for every state before it.
    const bool next_is_free = layer + 1 < steps_.size() && !step(layer + 1).freedom.is_none();
    narrow(ways_.back(), soonest, next_is_free ? width / kFreedTakesMore : width);
    const StepWays& ways = ways_.back();
    looked_.emplace_back(ways.moves.size());
    states_.push_back(ways.after);
    if (ways.after.empty()) return;
    counts.push_back(static_cast<int>(ways.after.size()));
    std::vector<LayerMove>& layer_moves = moves.emplace_back();
    for (const StepMove& move : ways.moves)
      layer_moves.push_back({move.from, move.to, move.least, effort_of(step(layer).action)});
  }
  search_.emplace(std::move(counts), std::move(moves));
}

// Keeps the states that can be got to soonest, taking turns among situations: how a piece is held
// may decide much later.
void Section::narrow(StepWays& ways, std::vector<double>& soonest, std::size_t width) {
  std::vector<double> here(ways.after.size(), std::numeric_limits<double>::infinity());
  for (const StepMove& move : ways.moves) {
    double& time = here[static_cast<std::size_t>(move.to)];
    time = std::min(time, soonest[static_cast<std::size_t>(move.from)] + move.least);
  }
  soonest = std::move(here);
  if (ways.after.size() <= width) return;
  narrowed_ = true;
  std::vector<std::size_t> order(ways.after.size());
  std::iota(order.begin(), order.end(), 0);
  std::stable_sort(order.begin(), order.end(),
                   [&](std::size_t a, std::size_t b) { return soonest[a] < soonest[b]; });
  std::map<int, int> taken;
  std::vector<std::pair<int, std::size_t>> turns;
  for (const std::size_t i : order) turns.emplace_back(taken[ways.after[i].situation]++, i);
  std::stable_sort(turns.begin(), turns.end(),
                   [](const auto& a, const auto& b) { return a.first < b.first; });
  std::vector<int> number(ways.after.size(), -1);
  std::vector<RoutineState> after;
  std::vector<double> times;
  for (std::size_t k = 0; k < width; ++k) {
    const std::size_t i = turns[k].second;
    number[i] = static_cast<int>(after.size());
    after.push_back(std::move(ways.after[i]));
    times.push_back(soonest[i]);
  }
  ways.after = std::move(after);
  soonest = std::move(times);
  std::erase_if(ways.moves, [&](const StepMove& move) {
    return number[static_cast<std::size_t>(move.to)] < 0;
  });
  for (StepMove& move : ways.moves) move.to = number[static_cast<std::size_t>(move.to)];
}

int Section::take_ways() {
  int count = 0;
  for (const StepWays& one : ways_) count += static_cast<int>(one.after.size());
  return count - std::exchange(ways_taken_, count);
}

int Section::take_looks() {
  const int looks = search_ ? search_->looks() : 0;
  return looks - std::exchange(looks_taken_, looks);
}

std::string Section::title(std::size_t layer) const {
  const Step& one = step(layer);
  return fmt::format("step {} of {}, {}{}", steps_[layer] + 1, routine_.steps.size(), one.name,
                     one.of.empty() ? "" : fmt::format(" ({})", one.of));
}

std::optional<WaySearch::Found> Section::look(int layer, int number, int tries) {
  const auto at = static_cast<std::size_t>(layer);
  const StepMove& move = ways_[at].moves[static_cast<std::size_t>(number)];
  Looked& out = looked_[at][static_cast<std::size_t>(number)];
  if (supervision_.progress)
    supervision_.progress(
        static_cast<double>(steps_[at]) / static_cast<double>(routine_.steps.size()),
        "planning " + step(at).name);
  if (supervision_.stop.stop_requested()) {
    out = {std::nullopt, "told to stop", Cause::stopped};
    return std::nullopt;
  }
  const RoutineState& from = states_[at][static_cast<std::size_t>(move.from)];
  const RoutineState& to = states_[at + 1][static_cast<std::size_t>(move.to)];
  // Whether a free move goes straight is quick to see.
  const bool first_look = std::holds_alternative<FreeMove>(step(at).action) && !out.not_straight;
  const bool searches = std::holds_alternative<FreeMove>(step(at).action) && !first_look;
  if (searches && vain_ >= (tries == kManyTries ? kMostLongVain : kMostVain)) {
    out = {std::nullopt, "not looked for any more: no way was found for many others",
           Cause::no_route, true};
    return std::nullopt;
  }
  auto motion =
      planner_.motion_of(step(at), from, to, move, {.tries = first_look ? 0 : tries}, supervision_);
  if (first_look && !motion && motion.reason().cause == Cause::no_route) {
    out.not_straight = true;
    return WaySearch::Found{move.least, false};
  }
  if (searches && !motion && motion.reason().cause == Cause::no_route) ++vain_;
  if (!motion) {
    out = {std::nullopt, motion.reason().bare(), motion.reason().cause};
    return std::nullopt;
  }
  out.motion = std::move(motion).value();
  return WaySearch::Found{out.motion->motion.duration() + move.posture_cost};
}

Verdict<Section::Planned> Section::plan() {
  if (!search_) return no();
  const WaySearchOptions options{options_.worthwhile, options_.most_looks_after};
  for (const int tries : {kFewTries, kManyTries}) {
    vain_ = 0;
    const auto way =
        search_->find([&](int layer, int move) { return look(layer, move, tries); }, options);
    if (way) {
      last_end_ = way->end;
      finish(*way);
      return Planned{planned(*way), states_.back()[static_cast<std::size_t>(way->end)],
                     way->is_cheapest};
    }
    if (supervision_.stop.stop_requested())
      return Reason{Cause::stopped, "no: told to stop before the routine was planned"};
    // Free moves for which no way was found are looked for once more, for longer.
    bool any = false;
    for (std::size_t layer = 0; layer < looked_.size(); ++layer)
      for (std::size_t i = 0; i < looked_[layer].size(); ++i) {
        if (looked_[layer][i].cause != Cause::no_route) continue;
        search_->forget(static_cast<int>(layer), static_cast<int>(i));
        looked_[layer][i] = {};
        any = true;
      }
    if (!any) break;
  }
  return no();
}

// While ways are compared, a quick search for each free move will do. What is taken is looked for
// once more, where it does not go straight.
void Section::finish(const WaySearch::Way& way) {
  for (std::size_t layer = 0; layer < way.moves.size(); ++layer) {
    const auto number = static_cast<std::size_t>(way.moves[layer]);
    const StepMove& move = ways_[layer].moves[number];
    const double so_far = looked_[layer][number].motion->motion.duration();
    const bool straight = so_far + move.posture_cost <= move.least + 1e-9;
    if (!std::holds_alternative<FreeMove>(step(layer).action) ||
        (straight && step(layer).improve == 0))
      continue;
    auto motion =
        planner_.motion_of(step(layer), states_[layer][static_cast<std::size_t>(move.from)],
                           states_[layer + 1][static_cast<std::size_t>(move.to)], move,
                           {.tries = kManyTries, .at_last = true}, supervision_);
    if (motion && (step(layer).improve > 0 || motion->motion.duration() < so_far))
      looked_[layer][number].motion = std::move(motion).value();
  }
}

void Section::leave_out_end() { search_->forbid_end(last_end_); }

std::vector<PlannedStep> Section::planned(const WaySearch::Way& way) const {
  std::vector<PlannedStep> out;
  for (std::size_t layer = 0; layer < way.moves.size(); ++layer) {
    const auto taken = static_cast<std::size_t>(way.moves[layer]);
    const StepMove& move = ways_[layer].moves[taken];
    const StepMotion& motion = *looked_[layer][taken].motion;
    if (motion.motion.pieces().empty()) continue;  // put in, and not needed
    const RoutineState& end = states_[layer + 1][static_cast<std::size_t>(move.to)];
    const bool chosen = std::holds_alternative<FreeMove>(step(layer).action);
    PlannedStep one{.step = step(layer),
                    .clearance = routine_.clearance_of(step(layer)),
                    .motion = motion.motion,
                    .way = chosen ? end.way : 0,
                    .ways = chosen ? end.ways : 0,
                    .number = steps_[layer] + 1,
                    .how = chosen && end.way > 0 ? end.how : std::string{},
                    .cell = motion.cell,
                    .excused = move.meant};
    if (const Grip* grip = std::get_if<Grip>(&step(layer).action))
      one.grips = *planner_.situations().hold_of(end.situation, grip->piece);
    if (const Release* release = std::get_if<Release>(&step(layer).action))
      one.leaves = planner_.situations().piece(end.situation, release->piece)->at;
    for (const StepWays::Refusal& refusal : ways_[layer].refused)
      one.refused.push_back(refusal.reason.bare());
    for (const Looked& looked : looked_[layer])
      if (!looked.reason.empty()) one.refused.push_back(looked.reason);
    out.push_back(std::move(one));
  }
  return out;
}

// Reasons why a step cannot be done from the states before it that can be got to, each once.
std::vector<std::string> Section::reasons_at(std::size_t layer,
                                             const std::vector<bool>& reached) const {
  std::vector<std::string> out;
  const auto add = [&](int from, const std::string& text) {
    if (text.empty() || !reached[static_cast<std::size_t>(from)]) return;
    if (std::find(out.begin(), out.end(), text) == out.end()) out.push_back(text);
  };
  for (std::size_t i = 0; i < looked_[layer].size(); ++i)
    add(ways_[layer].moves[i].from, looked_[layer][i].reason);
  for (const StepWays::Refusal& one : ways_[layer].refused) add(one.from, one.reason.bare());
  return out;
}

// The move on the way to a state, with fewest that cannot be done, that rules it out.
std::string Section::ruled_out_by(std::size_t layer, int state) const {
  std::vector<std::vector<std::pair<int, int>>> best(layer + 1);  // failures, by which move
  best[0] = {{0, -1}};
  for (std::size_t k = 0; k < layer; ++k) {
    best[k + 1].assign(states_[k + 1].size(), {std::numeric_limits<int>::max() / 2, -1});
    for (std::size_t i = 0; i < ways_[k].moves.size(); ++i) {
      const StepMove& move = ways_[k].moves[i];
      const int fails = best[k][static_cast<std::size_t>(move.from)].first +
                        (looked_[k][i].reason.empty() ? 0 : 1);
      auto& there = best[k + 1][static_cast<std::size_t>(move.to)];
      if (fails < there.first) there = {fails, static_cast<int>(i)};
    }
  }
  std::string text;
  for (std::size_t k = layer; k-- > 0;) {
    const int number = best[k + 1][static_cast<std::size_t>(state)].second;
    if (number < 0) return {};
    const StepMove& move = ways_[k].moves[static_cast<std::size_t>(number)];
    const std::string& reason = looked_[k][static_cast<std::size_t>(number)].reason;
    if (!reason.empty()) text = fmt::format("{}: {}", title(k), reason);
    state = move.from;
  }
  return text;
}

// A step that cannot be done from where the arm can be: could it be done from somewhere else, and
// what keeps the arm from being there?
std::string Section::earlier_choice(std::size_t layer, const std::vector<bool>& reached) {
  int looks = 0;
  for (std::size_t i = 0; i < ways_[layer].moves.size() && looks < kMostEarlier; ++i) {
    const StepMove& move = ways_[layer].moves[i];
    if (reached[static_cast<std::size_t>(move.from)]) continue;
    ++looks;
    if (!look(static_cast<int>(layer), static_cast<int>(i), kFewTries)) continue;
    const RoutineState& from = states_[layer][static_cast<std::size_t>(move.from)];
    const std::string by = ruled_out_by(layer, move.from);
    if (by.empty()) continue;
    std::string which = from.how.empty() ? "another posture" : from.how;
    if (from.way > 0) which = fmt::format("way {} of {} ({})", from.way, from.ways, which);
    return fmt::format("it could be done from {}, which is ruled out earlier by {}", which, by);
  }
  return {};
}

std::pair<std::size_t, std::vector<bool>> Section::stopped_at() const {
  std::size_t layer = ways_.size() - 1;
  if (!search_) return {layer, std::vector<bool>(states_[layer].size(), true)};
  for (std::size_t k = 0; k < ways_.size(); ++k) {
    const std::vector<bool> next = search_->within_reach(static_cast<int>(k) + 1);
    if (std::none_of(next.begin(), next.end(), [](bool there) { return there; })) {
      layer = k;
      break;
    }
  }
  return {layer, search_->within_reach(static_cast<int>(layer))};
}

Reason Section::no() const {
  const auto [layer, reached] = stopped_at();
  const std::vector<std::string> reasons = reasons_at(layer, reached);
  return {Cause::step_refused, no_text(layer, reached, reasons)};
}

std::string Section::no_text(std::size_t layer, const std::vector<bool>& reached,
                             const std::vector<std::string>& reasons) const {
  const auto count = std::count(reached.begin(), reached.end(), true);
  const std::string first = reasons.empty() ? "it ends where nothing goes on" : reasons.front();
  if (count <= 1) return fmt::format("no: {}: {}", title(layer), first);
  return fmt::format("no: {}: none of the {} ways to get to it can do it; from the first: {}",
                     title(layer), count, first);
}

Reason Section::why_not() {
  const auto [layer, reached] = stopped_at();
  std::vector<std::string> reasons = reasons_at(layer, reached);
  Reason out{Cause::step_refused, {}};
  // A single cause keeps its figures and remedies.
  if (ways_[layer].moves.empty() && !ways_[layer].refused.empty()) {
    const StepWays::Refusal& first = ways_[layer].refused.front();
    const bool no_end = std::holds_alternative<FreeMove>(step(layer).action) &&
                        first.reason.cause != Cause::step_refused;
    out = no_end ? planner_.why_no_end(step(layer),
                                       states_[layer][static_cast<std::size_t>(first.from)])
                 : first.reason;
    out.cause = Cause::step_refused;
    if (no_end) reasons.front() = out.bare();
  }
  out.text = no_text(layer, reached, reasons);
  for (std::size_t i = 1; i < std::min(reasons.size(), kMostReasons); ++i)
    out.details.push_back("also: " + reasons[i]);
  if (reasons.size() > kMostReasons)
    out.details.push_back(fmt::format("and {} more reasons", reasons.size() - kMostReasons));
  if (!reasons.empty() && is_tool_move(step(layer).action)) {
    const auto from = std::find(reached.begin(), reached.end(), true) - reached.begin();
    const std::string freed =
        planner_.freed_remedy(step(layer), states_[layer][static_cast<std::size_t>(from)]);
    if (!freed.empty()) out.remedies.push_back({freed});
  }
  // What comes after it was not looked at.
  for (Remedy& remedy : out.remedies) remedy.text = "for this step alone: " + remedy.text;
  if (search_)
    if (std::string earlier = earlier_choice(layer, reached); !earlier.empty())
      out.details.push_back(std::move(earlier));
  return out;
}

}  // namespace er
