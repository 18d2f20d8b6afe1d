// Reaching: the postures that meet a target, ranked, or why there is none.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "elbowroom/base/progress.hpp"
#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/kinematics/target.hpp"
#include "elbowroom/reach/ranking.hpp"

namespace er {

struct ReachOptions {
  /// Start postures the numeric solver is run from, spread evenly over the joint ranges, where
  /// there is no closed form or it gives no free posture. More find rare postures.
  int starts = 100;
  /// False asks the numeric solver always.
  bool use_closed_form = true;
  /// Every posture must keep further than this from everything it must not touch, metres.
  double clearance = 0.0;
  /// The posture that travel is counted from; empty means stance `home`, or the middle of the
  /// ranges.
  Posture from = {};
  /// When the answer is no: look for changes of the target that would make it a yes. And before it
  /// is one for want of any posture, ten times as many starts are tried.
  bool find_remedies = true;
  /// Rate postures that are too near something, too, to list them and to say what they are near.
  /// Whoever asks thousands of questions leaves it out: a no then says how many there are, and no
  /// more.
  bool rate_refused = true;
};

struct Reach {
  std::vector<ReachSolution> solutions = {};  ///< best first
  std::string branch_legend = {};  ///< what the words of a branch say, where they need it
  std::string form = {};           ///< of the closed form used, or empty
  /// The target leaves so much open that postures come in families without end: of each kind the
  /// best that was found is listed.
  bool is_family = false;
  std::string looked_over = {};  ///< of a family, by a form: "all the way round"
  bool complete = false;  ///< no posture of the target is missing: a closed form gave them all
  int beyond_limits = 0;  ///< distinct postures that meet the target outside the ranges
  int starts = 0;         ///< numeric solves made
  int converged = 0;      ///< of which so many met the target
  /// Distinct postures that meet the target, too, but are too near something or cannot see.
  std::vector<ReachSolution> refused = {};
  int colliding = 0;   ///< distinct postures that meet it but are too near something
  double seconds = 0;  ///< time taken
  Target target = {};  ///< what was asked for
  Posture from = {};   ///< what travel is counted from

  [[nodiscard]] std::vector<Posture> postures() const;
  /// One line: how many postures, and the best one's clearance.
  [[nodiscard]] std::string summary(const CellQuery& query) const;
  /// A table of the first `most` postures in degrees (or mm).
  [[nodiscard]] std::string report(const CellQuery& query, std::size_t most = 12) const;
  /// What the target asks for and leaves open, why each posture comes after the first, and what the
  /// tool does on the way to each if the joints go straight.
  [[nodiscard]] std::string explanation(const CellQuery& query, std::size_t most = 12) const;
  /// Every posture put back: the frames by the transforms of all links one after the other (not the
  /// way the solvers go), how far off each is, and whether requirements and ranges are kept.
  [[nodiscard]] std::string check(const CellQuery& query) const;
};

/// The question with the contacts that a target means: of surfaces that meet. Bodies keep their
/// numbers. reach() asks this of itself; whoever goes on from its postures needs it, too.
CellQuery with_meant_contacts(const CellQuery& query, const Target& target);

/// All postures by the closed form of the chain, where it has one and the target holds a full
/// place; a form's best postures where the place leaves only the turn about the tool's axis open;
/// else, or when that gives no free posture and the tolerances may help, those that the numeric
/// solver finds from many starts, which can miss one. Keeps what is distinct (full-turn
/// alternatives within the ranges are listed as postures of their own), drops what is too near to
/// something or cannot see what it is to see, and ranks the rest by the target's wishes. The result
/// says whether it is complete. Throws InputError when a joint has no range, the arm has no such
/// tool or link, or the target cannot mean anything for this arm.
Verdict<Reach> reach(const CellQuery& query, const Target& target,
                     const ReachOptions& options = {});
Verdict<Reach> reach(const Cell& cell, std::string_view arm, const Target& target,
                     const ReachOptions& options = {});

/// Many targets at once, on all cores: to each the answer that reach() gives it alone, in their
/// order. Where it is told to stop, those not yet asked are a no that says so.
std::vector<Verdict<Reach>> reach_all(const CellQuery& query, std::span<const Target> targets,
                                      const ReachOptions& options = {},
                                      const Supervision& supervision = {});

}  // namespace er
