#include "elbowroom/reach/family.hpp"

#include <Eigen/Cholesky>
#include <Eigen/Geometry>
#include <Eigen/SVD>
#include <algorithm>
#include <cmath>

#include "elbowroom/base/row_reduction.hpp"
#include "elbowroom/base/trigonometric.hpp"
#include "elbowroom/base/twist.hpp"

namespace er {
namespace {

constexpr double kSingular = 1e-6;  // of the largest entry
constexpr double kExact = 1e-13;    // m and rad; what needs no step
constexpr double kMet = 1e-9;       // m and rad
constexpr double kTried = 0.05;     // rad or m along what may move
constexpr double kMoved = 0.01;     // of it, when that is a family

using PerJoint = Eigen::Matrix<double, Eigen::Dynamic, 1, 0, 6, 1>;
using Columns = Eigen::Matrix<double, 6, Eigen::Dynamic, 0, 6, 6>;

Columns jacobian_of(const ScrewChain& chain, const ClosedSolution& at) {
  std::array<Screw, kMostClosedJoints> placed;
  const Vector3 tip = chain.place(at.values.data(), placed).position;
  Columns out(6, chain.size());
  for (int k = 0; k < chain.size(); ++k) {
    const Screw& screw = placed[static_cast<std::size_t>(k)];
    if (screw.turns)
      out.col(k) << screw.axis.cross(tip - screw.point), screw.axis;
    else
      out.col(k) << screw.axis, Vector3::Zero();
  }
  return out;
}

bool is_singular(const Columns& jacobian) {
  RowSystem twists;  // a row for each joint
  twists.rows = static_cast<int>(jacobian.cols());
  twists.columns = 6;
  for (Eigen::Index k = 0; k < jacobian.cols(); ++k)
    std::copy_n(jacobian.col(k).data(), 6, twists.row[static_cast<std::size_t>(k)].begin());
  ReducedRows reduced;
  reduce_rows(twists, kSingular, reduced);
  return reduced.rank < twists.rows;
}

Twist left_at(const ScrewChain& chain, const Pose& wanted, const ClosedSolution& at) {
  return twist_between(chain.at(at.values.data()), wanted, 1.0);
}

double size_of(const Twist& left) { return std::max(left.velocity.norm(), left.turning.norm()); }

void move_by(const ScrewChain& chain, const PerJoint& step, ClosedSolution& solution) {
  for (int k = 0; k < chain.size(); ++k) {
    double& value = solution.values[static_cast<std::size_t>(k)];
    value += step[k];
    if (chain[k].turns) value = wrapped(value);
  }
}

PerJoint newton_step(const Columns& jacobian, const Twist& left) {
  constexpr double kDamping = 1e-12;
  Eigen::Matrix<double, 6, 1> wanted;
  wanted << left.velocity, left.turning;
  Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, 0, 6, 6> square =
      jacobian.transpose() * jacobian;
  square.diagonal().array() += kDamping;
  return square.ldlt().solve(jacobian.transpose() * wanted);
}

}  // namespace

double settle(const ScrewChain& chain, const Pose& wanted, int most_steps,
              ClosedSolution& solution) {
  Twist left = left_at(chain, wanted, solution);
  for (int i = 0; i < most_steps && size_of(left) > kExact; ++i) {
    ClosedSolution next = solution;
    move_by(chain, newton_step(jacobian_of(chain, solution), left), next);
    const Twist left_there = left_at(chain, wanted, next);
    if (!(size_of(left_there) < size_of(left))) break;  // as near as rounding, or the chain, allows
    solution = next;
    left = left_there;
  }
  return size_of(left);
}

int free_joint_of(const ScrewChain& chain, const ClosedSolution& solution) {
  const Columns jacobian = jacobian_of(chain, solution);
  if (!is_singular(jacobian)) return -1;
  const Eigen::JacobiSVD<Columns> svd(jacobian, Eigen::ComputeThinV);
  const PerJoint moves = svd.matrixV().rightCols(1);
  const double most = moves.cwiseAbs().maxCoeff();
  // A step along what moves nothing to first order, and then onto the pose: back to where it was
  // unless there is a family.
  ClosedSolution other = solution;
  move_by(chain, kTried / most * moves, other);
  if (settle(chain, chain.at(solution.values.data()), 12, other) > kMet) return -1;
  for (int k = 0; k < chain.size(); ++k) {
    const auto at = static_cast<std::size_t>(k);
    const double moved = other.values[at] - solution.values[at];
    const bool moves_most = std::abs(moves[k]) > 0.9 * most;
    if (moves_most && std::abs(chain[k].turns ? wrapped(moved) : moved) > kMoved) return k;
  }
  return -1;
}

}  // namespace er
