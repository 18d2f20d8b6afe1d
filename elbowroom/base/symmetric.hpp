// Symmetric matrices: small positive systems solved in place, and eigenvalues. Decompositions stay
// behind these plain functions because their templates are slow to compile.
#pragma once

#include <Eigen/Core>

namespace er {

/// Solves A x = b for a symmetric positive definite A of n rows, `stride` doubles apart, by
/// Cholesky's square root in place: A is overwritten, b becomes x. Only the lower half of A is
/// read. False when A is not positive definite (b is then spoilt). Allocates nothing.
bool solve_positive(double* a, int n, int stride, double* b);

/// The two halves of that: A = L L^T in place, and L x = b with b becoming x.
bool cholesky_root(double* a, int n, int stride);
void solve_lower(const double* root, int n, int stride, double* b);

/// Ascending, with a unit vector for each.
struct SymmetricEigen {
  Eigen::VectorXd values;
  Eigen::MatrixXd vectors;  ///< one a column
};
SymmetricEigen symmetric_eigen(const Eigen::Ref<const Eigen::MatrixXd>& matrix);

/// Solves a symmetric system that may be badly scaled (but not singular).
Eigen::VectorXd solve_symmetric(const Eigen::Ref<const Eigen::MatrixXd>& matrix,
                                const Eigen::Ref<const Eigen::VectorXd>& right);

}  // namespace er
