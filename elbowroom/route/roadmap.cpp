#include "elbowroom/route/roadmap.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <memory>
#include <numeric>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/on_all_cores.hpp"
#include "elbowroom/base/random.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/route/race.hpp"

namespace er {
namespace {

using State = PostureGraph::State;

constexpr int kNeighbours = 12;       // of the ends of a question, and of what is learnt
constexpr double kLearntStep = 0.7;   // rad or m between the postures of a way that is learnt
constexpr int kTriesPerPosture = 50;  // where little room is free
constexpr std::size_t kLinesAtOnce = 256;
constexpr int kJoiningTries = 600;
constexpr int kJoiningGoals = 16;

// How many nodes each region has.
std::vector<int> sizes_of(const std::vector<int>& regions) {
  std::vector<int> sizes(
      regions.empty()
          ? 0
          : static_cast<std::size_t>(*std::max_element(regions.begin(), regions.end()) + 1));
  for (const int region : regions) ++sizes[static_cast<std::size_t>(region)];
  return sizes;
}

}  // namespace

std::string RoadmapRepair::text() const {
  return fmt::format("{} lines still free, {} blocked now, {} free now", stand, lost, gained);
}

Roadmap Roadmap::build(const CellQuery& query, const RoadmapOptions& options,
                       const Supervision& supervision) {
  if (options.postures < 0 || options.neighbours < 1)
    throw InputError("a roadmap has no less than zero postures, and each is joined to some");
  check_clearance(options.clearance);
  const Arm& arm = query.arm();
  require_ranges(arm);
  Roadmap out(arm.dof(), options.clearance);
  PostureChecker checker(query);
  for (const Stance& stance : arm.stances()) {
    bool free = false;
    checker.check({&stance.posture, 1}, options.clearance, {&free, 1});
    if (free) out.graph_.add(stance.posture);
  }
  const int wanted = out.graph_.size() + options.postures;
  SpreadSequence spread(arm.search_lower(), arm.search_upper());
  std::vector<Posture> looked(64);
  const auto free = std::make_unique<bool[]>(looked.size());
  for (int tried = 0; out.graph_.size() < wanted && tried < kTriesPerPosture * options.postures;
       tried += static_cast<int>(looked.size())) {
    for (std::size_t i = 0; i < looked.size(); ++i)
      looked[i] =
          spread.at(static_cast<int>(options.seed % 1000U) * 100003 + tried + static_cast<int>(i));
    checker.check(looked, options.clearance, {free.get(), looked.size()});
    for (std::size_t i = 0; i < looked.size() && out.graph_.size() < wanted; ++i)
      if (free[i]) out.graph_.add(looked[i]);
  }
  for (int node = 0; node < out.graph_.size(); ++node)
    out.graph_.join_to_nearest(node, options.neighbours);
  out.prove(query, supervision);
  out.join_regions(query, supervision);
  return out;
}

Roadmap::Roadmap(double clearance, const std::vector<Posture>& postures,
                 const std::vector<PostureGraph::Line>& lines)
    : clearance_(clearance),
      graph_(postures.empty() ? 0 : static_cast<int>(postures.front().size())) {
  for (const Posture& posture : postures) graph_.add(posture);
  for (const PostureGraph::Line& line : lines) graph_.join(line.first, line.second, line.state);
}

void Roadmap::prove(const CellQuery& query, const Supervision& supervision) {
  const std::vector<PostureGraph::Line>& lines = graph_.lines();
  const auto free = std::make_unique<bool[]>(lines.size());
  const std::size_t blocks = (lines.size() + kLinesAtOnce - 1) / kLinesAtOnce;
  on_all_cores(blocks, supervision, "proving the lines of the roadmap", [&](std::size_t block) {
    LineProver prover(query, clearance_);
    const std::size_t end = std::min(lines.size(), (block + 1) * kLinesAtOnce);
    for (std::size_t i = block * kLinesAtOnce; i < end; ++i)
      free[i] = prover.is_free(graph_.posture(lines[i].first), graph_.posture(lines[i].second));
  });
  if (supervision.stop.stop_requested()) return;  // what was not proved stays as it was
  for (std::size_t i = 0; i < lines.size(); ++i)
    graph_.set_state(i, free[i] ? State::free : State::blocked);
}

// Every region of more than one posture, and the first nodes, which are stances.
void Roadmap::join_regions(const CellQuery& query, const Supervision& supervision) {
  const int stances = std::min(static_cast<int>(query.arm().stances().size()), graph_.size());
  LineProver prover(query, clearance_);
  const std::vector<int> regions = graph_.regions();
  const std::vector<int> sizes = sizes_of(regions);
  if (sizes.size() < 2) return;
  const auto largest =
      static_cast<int>(std::max_element(sizes.begin(), sizes.end()) - sizes.begin());
  std::vector<bool> is_joined(sizes.size(), false);
  is_joined[static_cast<std::size_t>(largest)] = true;
  std::vector<int> main_nodes;
  for (int node = 0; node < graph_.size(); ++node)
    if (regions[static_cast<std::size_t>(node)] == largest) main_nodes.push_back(node);
  const int count = graph_.size();
  for (int node = 0; node < count && !supervision.stop.stop_requested(); ++node) {
    const auto region = static_cast<std::size_t>(regions[static_cast<std::size_t>(node)]);
    if (is_joined[region] || (sizes[region] < 2 && node >= stances)) continue;
    is_joined[region] = true;  // tried once
    PlannerQuestion question{.start = graph_.posture(node), .goals = {}, .tries = kJoiningTries};
    std::vector<int> goals = main_nodes;
    const auto apart = [&](int other) {
      return (graph_.posture(other) - question.start).squaredNorm();
    };
    const auto end = goals.begin() + std::min<std::ptrdiff_t>(kJoiningGoals, std::ssize(goals));
    std::partial_sort(goals.begin(), end, goals.end(),
                      [&](int a, int b) { return apart(a) < apart(b); });
    goals.erase(end, goals.end());
    question.goals = graph_.postures(goals);
    question.searches = 1;
    const Search found =
        race_two_trees(question, prover, {.progress = {}, .stop = supervision.stop});
    if (found.way.exists())
      graph_.add_way(found.way.waypoints, kLearntStep, node, goals[found.way.goal]);
  }
}

Search Roadmap::find(const PlannerQuestion& question, LineProver& prover) {
  if (prover.clearance() != clearance_)
    throw InputError(fmt::format("the roadmap keeps {}, the question {}", text_length(clearance_),
                                 text_length(prover.clearance())),
                     "repair() it for this clearance first");
  if (graph_.size() > 0 && graph_.posture(0).size() != question.start.size())
    throw InputError(fmt::format("the roadmap is of {} joints, the question of {}",
                                 graph_.posture(0).size(), question.start.size()),
                     "give each arm a roadmap of its own");
  Search out;
  out.nodes = graph_.size();
  if (const Rules* rules = prover.rules(); rules != nullptr && !rules->empty()) {
    // Rules are this question's alone.
    Roadmap own = *this;
    own.doubt_lines(*rules);
    out.way = own.cheapest_way(question, prover);
  } else {
    out.way = cheapest_way(question, prover);
  }
  return out;
}

void Roadmap::doubt_lines(const Rules& rules) {
  std::vector<bool> keeps;
  for (int node = 0; node < graph_.size(); ++node)
    keeps.push_back(rules.broken_at(graph_.posture(node)) < 0);
  for (std::size_t i = 0; i < graph_.lines().size(); ++i) {
    const PostureGraph::Line& line = graph_.lines()[i];
    if (line.state == State::blocked) continue;
    const bool may =
        keeps[static_cast<std::size_t>(line.first)] && keeps[static_cast<std::size_t>(line.second)];
    graph_.set_state(i, may ? State::unknown : State::blocked);
  }
}

Way Roadmap::cheapest_way(const PlannerQuestion& question, LineProver& prover) {
  graph_.forget_costs();
  CostMeter meter(prover.query(), question.cost, prover.clearance());
  // Where much was learnt about one corner, the nearest postures may all be behind the same wall.
  for (const int neighbours : {kNeighbours, 5 * kNeighbours}) {
    const auto path = cheapest(question, neighbours, prover, meter);
    if (!path.exists()) continue;
    return tightened(path, question, question.seed, prover, meter);
  }
  return {};
}

Way Roadmap::cheapest(const PlannerQuestion& question, int neighbours, LineProver& prover,
                      CostMeter& meter) {
  const int nodes = graph_.size();
  const std::size_t lines = graph_.lines().size();
  std::vector<Posture> ends{question.start};
  ends.insert(ends.end(), question.goals.begin(), question.goals.end());
  const int start = graph_.add_joined(ends, neighbours);
  std::vector<int> goals(question.goals.size());
  std::iota(goals.begin(), goals.end(), start + 1);
  Way way;
  while (const auto path = graph_.cheapest(start, goals, std::numeric_limits<double>::infinity(),
                                           prover, meter)) {
    if (!graph_.prove(path->nodes, prover)) continue;  // again, without what did not hold
    way.waypoints = graph_.postures(path->nodes);
    way.goal = static_cast<std::size_t>(path->nodes.back() - goals.front());
    break;
  }
  graph_.keep(nodes, lines);
  return way;
}

void Roadmap::learn(const std::vector<Posture>& waypoints) {
  for (const int node : graph_.add_way(waypoints, kLearntStep))
    graph_.join_to_nearest(node, kNeighbours);
}

RoadmapRepair Roadmap::repair(const CellQuery& query, double clearance,
                              const Supervision& supervision) {
  std::vector<State> before;
  for (const PostureGraph::Line& line : graph_.lines()) before.push_back(line.state);
  check_clearance(clearance);
  clearance_ = clearance;
  prove(query, supervision);
  RoadmapRepair out;
  for (std::size_t i = 0; i < before.size(); ++i) {
    const bool was = before[i] == State::free;
    const bool is = graph_.lines()[i].state == State::free;
    out.stand += was && is ? 1 : 0;
    out.lost += was && !is ? 1 : 0;
    out.gained += !was && is ? 1 : 0;
  }
  join_regions(query, supervision);
  return out;
}

std::string Roadmap::text() const {
  const auto& lines = graph_.lines();
  const auto free = std::count_if(lines.begin(), lines.end(), [](const PostureGraph::Line& line) {
    return line.state == State::free;
  });
  const std::vector<int> sizes = sizes_of(graph_.regions());
  const int largest = sizes.empty() ? 0 : *std::max_element(sizes.begin(), sizes.end());
  return fmt::format(
      "{} postures, {} lines of which {} are free; {:.0f} % of the postures hang "
      "together",
      graph_.size(), lines.size(), free, graph_.size() > 0 ? 100.0 * largest / graph_.size() : 0.0);
}

}  // namespace er
