// A roadmap: postures of one arm in one cell and which straight lines between them are free, kept
// for many questions.
#pragma once

#include "elbowroom/route/planner.hpp"
#include "elbowroom/route/posture_graph.hpp"

namespace er {

struct RoadmapOptions {
  double clearance = 0.005;  ///< m, that its lines keep
  int postures = 1000;       ///< beside the stances of the arm
  int neighbours = 12;       ///< that each is joined to, where free
  std::uint64_t seed = 1;
};

/// What proving it again in a changed cell came to: lines that stay free, are blocked now, and are
/// free now.
struct RoadmapRepair {
  int stand = 0;
  int lost = 0;
  int gained = 0;
  [[nodiscard]] std::string text() const;
};

/// After L. Kavraki, P. Svestka, J.-C. Latombe and M. Overmars, "Probabilistic roadmaps for path
/// planning in high-dimensional configuration spaces", 1996, with every line proved. Parts that do
/// not hang together, and stances, are joined with two trees where that can be done. One thread at
/// a time may ask; copies are independent.
class Roadmap {
 public:
  /// Spreads postures over the ranges of the joints, and proves the lines between them on all
  /// cores. The same for the same options, whatever the number of threads.
  static Roadmap build(const CellQuery& query, const RoadmapOptions& options = {},
                       const Supervision& supervision = {});
  /// From what was saved. What it says of lines is not believed where a route goes along them.
  Roadmap(double clearance, const std::vector<Posture>& postures,
          const std::vector<PostureGraph::Line>& lines);

  /// The cheapest way along it, every line of which is proved anew, with the prover's rules; none
  /// where it knows none.
  /// Throws InputError where the question keeps another clearance, or is of an arm with other
  /// joints.
  Search find(const PlannerQuestion& question, LineProver& prover);
  /// Takes up a way that was found without it; its lines are proved.
  void learn(const std::vector<Posture>& waypoints);
  /// Proves all lines again in a cell that has changed, or to keep another clearance, and joins
  /// what came apart.
  RoadmapRepair repair(const CellQuery& query, double clearance,
                       const Supervision& supervision = {});

  [[nodiscard]] double clearance() const { return clearance_; }
  [[nodiscard]] const PostureGraph& graph() const { return graph_; }
  /// "1010 postures, 8312 lines of which 5120 are free; 98 % of the postures hang together".
  [[nodiscard]] std::string text() const;

 private:
  Roadmap(int entries, double clearance) : clearance_(clearance), graph_(entries) {}
  // Rules are to be kept: lines at postures that break one are blocked, others not known to be
  // free.
  void doubt_lines(const Rules& rules);
  Way cheapest_way(const PlannerQuestion& question, LineProver& prover);
  // As it runs along the roadmap, its ends joined to so many neighbours each.
  Way cheapest(const PlannerQuestion& question, int neighbours, LineProver& prover,
               CostMeter& meter);
  void prove(const CellQuery& query, const Supervision& supervision);
  void join_regions(const CellQuery& query, const Supervision& supervision);

  double clearance_;
  PostureGraph graph_;
};

}  // namespace er
