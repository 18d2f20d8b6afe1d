#include "elbowroom/route/improve.hpp"

#include <algorithm>
#include <memory>

#include "elbowroom/base/on_all_cores.hpp"
#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/route/informed_samples.hpp"
#include "elbowroom/route/posture_graph.hpp"
#include "elbowroom/route/race.hpp"
#include "elbowroom/route/two_trees.hpp"

namespace er {
namespace {

constexpr int kSearches = 4;  // of a round, side by side
constexpr int kSamples = 64;  // of a round
constexpr int kMixNeighbours = 10;
constexpr double kMixStep = 0.5;  // rad or m between the postures of a way
constexpr std::uint64_t kImproveStream = 0xd1b54a32d192ed03ULL;

// One search of a round.
struct Side {
  Side(const PlannerQuestion& question, const LineProver& like)
      : prover(like.fresh()), meter(like.query(), question.cost, like.clearance()) {}
  LineProver prover;
  CostMeter meter;
  Way way = {};
  int tries = 0;
  int nodes = 0;
};

class Improvement {
 public:
  Improvement(const PlannerQuestion& question, LineProver& prover, const Supervision& supervision)
      : question_(question),
        prover_(prover),
        supervision_(supervision),
        meter_(prover.query(), question.cost, prover.clearance()),
        checker_(prover.query()),
        random_(question.seed ^ kImproveStream),
        graph_(prover.query().arm().dof()) {
    for (int i = 0; i < kSearches; ++i) sides_.push_back(std::make_unique<Side>(question, prover));
  }

  Search run() {
    out_ = race_two_trees(question_, prover_, supervision_);
    if (!out_.way.exists()) return out_;
    most_tries_ = tries_worth(out_.tries);
    graph_.add(question_.start);
    for (const Posture& goal : question_.goals) goals_.push_back(graph_.add(goal));
    add(out_.way);
    out_.costs.push_back(out_.way.cost);
    for (int round = 0; round < question_.rounds && is_worth_another(); ++round) {
      search_side_by_side(round);
      sample();
      mix();
      out_.costs.push_back(out_.way.cost);
      if (supervision_.progress)
        supervision_.progress(static_cast<double>(round + 1) / question_.rounds, "improving");
    }
    for (const auto& side : sides_) prover_.add_tally(side->prover);
    return out_;
  }

 private:
  [[nodiscard]] bool is_worth_another() {
    if (supervision_.stop.stop_requested()) return false;
    if (watch_.seconds() >= question_.seconds) {
      out_.out_of_time = true;
      return false;
    }
    const std::size_t rounds = out_.costs.size();
    if (rounds <= kRoundsWithoutGain) return true;
    const double before = out_.costs[rounds - 1 - kRoundsWithoutGain];
    return before - out_.way.cost >= question_.tightening.worthwhile * before;
  }

  void search_side_by_side(int round) {
    on_all_cores(kSearches, {.progress = {}, .stop = supervision_.stop}, "", [&](std::size_t i) {
      Side& side = *sides_[i];
      const std::uint64_t seed =
          question_.seed + kImproveStream * (static_cast<std::uint64_t>(round) * kSearches + i + 1);
      TwoTrees trees(prover_.query().arm(), question_.start, question_.goals, seed);
      side.way = {};
      if (trees.grow(most_tries_, side.prover, supervision_.stop))
        side.way = tightened(trees.way(), question_, seed, side.prover, side.meter);
      side.tries = trees.tries();
      side.nodes = trees.nodes();
    });
    for (const auto& side : sides_) {
      out_.tries += side->tries;
      out_.nodes += side->nodes;
      if (side->way.exists()) take(side->way);
    }
  }

  // Random postures that a way cheaper than the best may go through.
  void sample() {
    const Arm& arm = prover_.query().arm();
    const double longest = out_.way.cost / question_.cost.travel;
    std::vector<Posture> samples;
    for (int i = 0; i < kSamples; ++i) {
      const auto goal =
          static_cast<std::size_t>(random_.index(static_cast<int>(question_.goals.size())));
      if (const auto one = informed_sample(question_.start, question_.goals[goal], longest,
                                           arm.search_lower(), arm.search_upper(), random_)) {
        const auto kept = prover_.rules() ? prover_.rules()->projected(*one) : one;
        if (kept) samples.push_back(*kept);
      }
    }
    const auto free = std::make_unique<bool[]>(samples.size());
    checker_.check(samples, prover_.clearance(), {free.get(), samples.size()});
    for (std::size_t i = 0; i < samples.size(); ++i)
      if (free[i]) graph_.join_to_nearest(graph_.add(samples[i]), kMixNeighbours);
    out_.tries += kSamples;
  }

  // The cheapest path through all that was found.
  void mix() {
    const auto path = graph_.cheapest(0, goals_, out_.way.cost * (1.0 - 1e-9), prover_, meter_);
    if (!path) return;
    Way way;
    way.waypoints = graph_.postures(path->nodes);
    way.goal = static_cast<std::size_t>(
        std::find(goals_.begin(), goals_.end(), path->nodes.back()) - goals_.begin());
    take(tightened(std::move(way), question_, random_.next(), prover_, meter_));
  }

  void take(const Way& way) {
    add(way);
    if (way.cost < out_.way.cost) out_.way = way;
  }

  void add(const Way& way) {
    for (const int node : graph_.add_way(way.waypoints, kMixStep, 0, goals_[way.goal]))
      graph_.join_to_nearest(node, kMixNeighbours);
  }

  const PlannerQuestion& question_;
  LineProver& prover_;
  const Supervision& supervision_;
  Stopwatch watch_;
  CostMeter meter_;
  PostureChecker checker_;
  RandomStream random_;
  PostureGraph graph_;
  std::vector<int> goals_;  // as nodes
  std::vector<std::unique_ptr<Side>> sides_;
  int most_tries_ = 0;
  Search out_;
};

}  // namespace

Search improve(const PlannerQuestion& question, LineProver& prover,
               const Supervision& supervision) {
  return Improvement(question, prover, supervision).run();
}

}  // namespace er
