#include "elbowroom/base/symmetric.hpp"

#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <cmath>

namespace er {

bool cholesky_root(double* a, int n, int stride) {
  for (int i = 0; i < n; ++i) {
    double* row = a + i * stride;
    for (int j = 0; j <= i; ++j) {
      const double* other = a + j * stride;
      double sum = row[j];
      for (int k = 0; k < j; ++k) sum -= row[k] * other[k];
      if (j < i) {
        row[j] = sum / other[j];
      } else if (sum > 0.0) {
        row[i] = std::sqrt(sum);
      } else {
        return false;
      }
    }
  }
  return true;
}

void solve_lower(const double* root, int n, int stride, double* b) {
  for (int i = 0; i < n; ++i) {
    const double* row = root + i * stride;
    double sum = b[i];
    for (int k = 0; k < i; ++k) sum -= row[k] * b[k];
    b[i] = sum / row[i];
  }
}

bool solve_positive(double* a, int n, int stride, double* b) {
  if (!cholesky_root(a, n, stride)) return false;
  solve_lower(a, n, stride, b);
  for (int i = n - 1; i >= 0; --i) {
    double sum = b[i];
    for (int k = i + 1; k < n; ++k) sum -= a[k * stride + i] * b[k];
    b[i] = sum / a[i * stride + i];
  }
  return true;
}

SymmetricEigen symmetric_eigen(const Eigen::Ref<const Eigen::MatrixXd>& matrix) {
  const Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd> solver(matrix);
  return {solver.eigenvalues(), solver.eigenvectors()};
}

Eigen::VectorXd solve_symmetric(const Eigen::Ref<const Eigen::MatrixXd>& matrix,
                                const Eigen::Ref<const Eigen::VectorXd>& right) {
  return matrix.ldlt().solve(right);
}

}  // namespace er
