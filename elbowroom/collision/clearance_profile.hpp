// How near anything comes to each link of an arm, all along a motion.
#pragma once

#include <vector>

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/base/progress.hpp"
#include "elbowroom/collision/cell_query.hpp"

namespace er {

struct ClearanceProfile {
  std::vector<double> at = {};  ///< where on the curve, in its own parameter; ends included
  std::vector<int> links = {};  ///< those that anything is checked against
  /// nearest[k][i]: what comes nearest to links[k] at at[i].
  std::vector<std::vector<Nearest>> nearest = {};
  double between = 0.0;  ///< m; between two of these nothing comes nearer by more than this

  /// Where anything comes nearest to one of the links: {k, i}.
  [[nodiscard]] std::pair<std::size_t, std::size_t> least() const;
};

/// Looks so often that nothing comes nearer in between by more than `within` (m, above zero), or a
/// million times at most: `between` says what came of it. No clearance is asked for, and none
/// proved: what touches is told as deep as it is. Throws InputError for a curve of another arm,
/// without pieces, or a `within` of zero.
ClearanceProfile clearance_profile(const CellQuery& query, const JointCurve& curve,
                                   double within = 5e-4, const Supervision& supervision = {});

}  // namespace er
