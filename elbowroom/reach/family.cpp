#include "elbowroom/reach/family.hpp"

#include <Eigen/SVD>
#include <algorithm>
#include <cmath>

#include "elbowroom/base/row_reduction.hpp"
#include "elbowroom/reach/settle.hpp"

namespace er {

bool is_singular(const ScrewChain& chain, const double* values) {
  constexpr double kSingular = 1e-6;  // of the largest entry
  const ChainJacobian jacobian = jacobian_of(chain, values);
  RowSystem twists;  // a row for each joint
  twists.rows = chain.size();
  twists.columns = 6;
  for (int k = 0; k < chain.size(); ++k)
    std::copy_n(jacobian.col(k).data(), 6, twists.row[static_cast<std::size_t>(k)].begin());
  ReducedRows reduced;
  reduce_rows(twists, kSingular, reduced);
  return reduced.rank < twists.rows;
}

int free_joint_of(const ScrewChain& chain, const ClosedSolution& solution) {
  constexpr double kTried = 0.05;  // rad or m
  constexpr double kMoved = 0.01;  // of it, when that is a family
  constexpr int kSteps = 12;
  if (!is_singular(chain, solution.values.data())) return -1;
  const Eigen::JacobiSVD<ChainJacobian> svd(jacobian_of(chain, solution.values.data()),
                                            Eigen::ComputeThinV);
  const PerJoint moves = svd.matrixV().rightCols(1);
  const double most = moves.cwiseAbs().maxCoeff();
  // A step along what moves nothing to first order, and then onto the pose: back to where it was
  // unless there is a family.
  ClosedSolution other = solution;
  move_by(chain, kTried / most * moves, other);
  if (settle(chain, chain.at(solution.values.data()), kSteps, other) > kClosedMet) return -1;
  for (int k = 0; k < chain.size(); ++k) {
    const auto at = static_cast<std::size_t>(k);
    const double moved = change_of(chain[k], solution.values[at], other.values[at]);
    if (std::abs(moves[k]) > 0.9 * most && std::abs(moved) > kMoved) return k;
  }
  return -1;
}

}  // namespace er
