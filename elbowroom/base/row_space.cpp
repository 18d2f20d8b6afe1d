#include "elbowroom/base/row_space.hpp"

#include <algorithm>
#include <cmath>

namespace er {
namespace {

std::size_t at(int i) { return static_cast<std::size_t>(i); }

using Column = RowSolution::Column;

double dot(const Column& a, const Column& b, int count) {
  double sum = 0.0;
  for (int k = 0; k < count; ++k) sum += a[at(k)] * b[at(k)];
  return sum;
}

void subtract(double share, const Column& a, int count, Column& from) {
  for (int k = 0; k < count; ++k) from[at(k)] -= share * a[at(k)];
}

// One unknown without a pivot set to one, the others without one to nothing.
void free_vector(const RowSystem& system, const ReducedRows& reduced, int unknown, Column& out) {
  std::fill_n(out.begin(), system.columns, 0.0);
  out[at(unknown)] = 1.0;
  for (int i = 0; i < reduced.rank; ++i)
    out[at(reduced.pivot[at(i)])] = -reduced.row[at(reduced.order[at(i)])][at(unknown)];
}

// Gram and Schmidt's, each twice: that is enough (L. Giraud, J. Langou and M. Rozloznik, "On the
// loss of orthogonality in the Gram-Schmidt orthogonalization process", 2005).
void make_orthonormal(int count, int columns, std::array<Column, kMaxJoints>& all) {
  for (int i = 0; i < count; ++i) {
    for (int twice = 0; twice < 2; ++twice)
      for (int j = 0; j < i; ++j)
        subtract(dot(all[at(j)], all[at(i)], columns), all[at(j)], columns, all[at(i)]);
    const double scale = 1.0 / std::sqrt(dot(all[at(i)], all[at(i)], columns));
    for (int k = 0; k < columns; ++k) all[at(i)][at(k)] *= scale;
  }
}

}  // namespace

void solve_rows(const RowSystem& system, double least, RowSolution& out) {
  ReducedRows reduced;
  reduce_rows(system, least, reduced);
  out.rank = reduced.rank;
  std::array<bool, kMaxJoints> has_pivot{};
  for (int i = 0; i < out.rank; ++i) has_pivot[at(reduced.pivot[at(i)])] = true;
  int free = 0;
  for (int k = 0; k < system.columns; ++k)
    if (!has_pivot[at(k)]) free_vector(system, reduced, k, out.free[at(free++)]);
  make_orthonormal(free, system.columns, out.free);
  for (int s = 0; s < system.sides; ++s) {
    const std::size_t side = at(system.columns + s);
    Column& x = out.shortest[at(s)];
    std::fill_n(x.begin(), system.columns, 0.0);
    for (int i = 0; i < out.rank; ++i)
      x[at(reduced.pivot[at(i)])] = reduced.row[at(reduced.order[at(i)])][side];
    for (int f = 0; f < free; ++f)
      subtract(dot(out.free[at(f)], x, system.columns), out.free[at(f)], system.columns, x);
    out.off[at(s)] = 0.0;
    for (int i = out.rank; i < system.rows; ++i)
      out.off[at(s)] =
          std::max(out.off[at(s)], std::abs(reduced.row[at(reduced.order[at(i)])][side]));
  }
}

}  // namespace er
