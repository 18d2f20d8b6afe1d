#include "elbowroom/route/race.hpp"

#include <algorithm>
#include <list>
#include <utility>

#include "elbowroom/base/on_all_cores.hpp"
#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/route/two_trees.hpp"

namespace er {
namespace {

constexpr std::uint64_t kRaceStream = 0x9e3779b97f4a7c15ULL;  // keeps the seeds of searches apart
constexpr int kFirstTurn = 64;                                // tries
constexpr int kLongestTurn = 1024;
constexpr int kPatience = 2;   // times the tries of others
constexpr int kAtLeast = 128;  // tries that each gets, whoever was first

struct Racer {
  TwoTrees trees;
  LineProver prover;
  CostMeter meter;
  std::uint64_t seed;
  bool draws_back;  // one does: what it leads to hangs on no seed
  Way way = {};
  bool is_out = false;

  [[nodiscard]] bool runs() const { return !way.exists() && !is_out; }

  void run(int tries, const PlannerQuestion& question, const std::stop_token& stop) {
    const bool met = std::exchange(draws_back, false) && trees.draw_back(prover);
    if (met || trees.grow(tries, prover, stop))
      way = tightened(trees.way(), question, seed, prover, meter);
  }
};

}  // namespace

int tries_worth(int others) { return std::max(kAtLeast, kPatience * others); }

Search race_two_trees(const PlannerQuestion& question, LineProver& prover,
                      const Supervision& supervision) {
  const CellQuery& query = prover.query();
  const Stopwatch watch;
  std::list<Racer> racers;  // they do not move
  for (int i = 0; i < std::max(1, question.searches); ++i) {
    const std::uint64_t seed = question.seed + static_cast<std::uint64_t>(i) * kRaceStream;
    racers.push_back({TwoTrees(query.arm(), question.start, question.goals, seed), prover.fresh(),
                      CostMeter(query, question.cost, prover.clearance()), seed,
                      question.draw_back && i == 0});
  }
  Search out;
  int enough = std::numeric_limits<int>::max();  // tries, of each
  for (int turn = kFirstTurn;; turn = std::min(2 * turn, kLongestTurn)) {
    std::vector<Racer*> running;
    for (Racer& racer : racers)
      if (racer.runs()) running.push_back(&racer);
    if (running.empty() || out.tries >= question.tries || supervision.stop.stop_requested()) break;
    if (watch.seconds() >= question.seconds) {
      out.out_of_time = true;
      break;
    }
    // What is left is shared out.
    const int left = question.tries - out.tries;
    const int count = static_cast<int>(running.size());
    const auto run = [&](std::size_t i) {
      Racer& racer = *running[i];
      const int share = left / count + (static_cast<int>(i) < left % count ? 1 : 0);
      racer.run(std::min({turn, share, enough - racer.trees.tries()}), question, supervision.stop);
    };
    // What one turn finds takes less time than waking threads.
    if (turn == kFirstTurn)
      for (std::size_t i = 0; i < running.size(); ++i) run(i);
    else
      on_all_cores(running.size(), {.progress = {}, .stop = supervision.stop}, "", run);
    out.tries = 0;
    int first = std::numeric_limits<int>::max();
    for (const Racer& racer : racers) {
      out.tries += racer.trees.tries();
      if (racer.way.exists()) first = std::min(first, racer.trees.tries());
    }
    if (first < std::numeric_limits<int>::max()) enough = tries_worth(first);
    for (Racer& racer : racers) racer.is_out = racer.trees.tries() >= enough;
    if (supervision.progress)
      supervision.progress(static_cast<double>(out.tries) / question.tries,
                           "searching for a route");
  }
  for (const Racer& racer : racers) {
    out.nodes += racer.trees.nodes();
    prover.add_tally(racer.prover);
    if (racer.way.exists() && (!out.way.exists() || racer.way.cost < out.way.cost))
      out.way = racer.way;
  }
  return out;
}

}  // namespace er
