#include "elbowroom/base/row_space.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

namespace er {

RowSpace::RowSpace(const double* a, int rows, int columns, int stride, double least)
    : rows_(rows), columns_(columns) {
  const auto at = [](int i) { return static_cast<std::size_t>(i); };
  for (int i = 0; i < rows; ++i) {
    order_[at(i)] = i;
    std::copy_n(a + i * stride, columns, r_[at(i)].begin());
  }
  double largest = 0.0;
  for (int step = 0; step < std::min(rows, columns); ++step) {
    int best = step;
    double most = -1.0;
    for (int i = step; i < rows; ++i) {
      double square = 0.0;
      for (int k = step; k < columns; ++k) square += r_[at(i)][at(k)] * r_[at(i)][at(k)];
      if (square > most) {
        most = square;
        best = i;
      }
    }
    std::swap(r_[at(step)], r_[at(best)]);
    std::swap(order_[at(step)], order_[at(best)]);
    const double size = std::sqrt(most);
    if (step == 0) largest = size;
    if (!(size > least * largest) || size == 0.0) break;
    smallest_ = size / largest;

    // The reflection that turns what is left of this row into the next basis vector.
    Column& v = mirror_[at(step)];
    Column& row = r_[at(step)];
    const double pivot = row[at(step)] > 0.0 ? -size : size;
    for (int k = step; k < columns; ++k) v[at(k)] = row[at(k)];
    v[at(step)] -= pivot;
    weight_[at(step)] = 1.0 / (size * (size + std::abs(row[at(step)])));
    row[at(step)] = pivot;
    for (int i = step + 1; i < rows; ++i) {
      double along = 0.0;
      for (int k = step; k < columns; ++k) along += v[at(k)] * r_[at(i)][at(k)];
      along *= weight_[at(step)];
      for (int k = step; k < columns; ++k) r_[at(i)][at(k)] -= along * v[at(k)];
    }
    ++rank_;
  }
}

void RowSpace::apply(double* x) const {
  for (int step = rank_ - 1; step >= 0; --step) {
    const Column& v = mirror_[static_cast<std::size_t>(step)];
    double along = 0.0;
    for (int k = step; k < columns_; ++k) along += v[static_cast<std::size_t>(k)] * x[k];
    along *= weight_[static_cast<std::size_t>(step)];
    for (int k = step; k < columns_; ++k) x[k] -= along * v[static_cast<std::size_t>(k)];
  }
}

void RowSpace::free_basis(double* basis) const {
  for (int i = rank_; i < columns_; ++i) {
    double* x = basis + (i - rank_) * kMaxJoints;
    std::fill_n(x, columns_, 0.0);
    x[i] = 1.0;
    apply(x);
  }
}

double RowSpace::shortest(const double* b, double* x) const {
  const auto at = [](int i) { return static_cast<std::size_t>(i); };
  std::fill_n(x, columns_, 0.0);
  double off = 0.0;
  for (int i = 0; i < rows_; ++i) {
    double left = b[order_[at(i)]];
    for (int k = 0; k < std::min(i, rank_); ++k) left -= r_[at(i)][at(k)] * x[k];
    if (i < rank_)
      x[i] = left / r_[at(i)][at(i)];
    else
      off = std::max(off, std::abs(left));
  }
  apply(x);
  return off;
}

}  // namespace er
