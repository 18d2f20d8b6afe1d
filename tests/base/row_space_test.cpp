// Held against singular values: rank, shortest solutions and what is left free.
#include "elbowroom/base/row_space.hpp"

#include <Eigen/SVD>
#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>
#include <limits>
#include <string>
#include <vector>

#include "elbowroom/base/random.hpp"
#include "support/instruction_sets.hpp"

namespace er {
namespace {

std::size_t at(Eigen::Index i) { return static_cast<std::size_t>(i); }

struct Question {
  Eigen::MatrixXd a;
  Eigen::MatrixXd b;  // a column for each side

  [[nodiscard]] RowSystem system() const {
    RowSystem out;
    out.rows = static_cast<int>(a.rows());
    out.columns = static_cast<int>(a.cols());
    out.sides = static_cast<int>(b.cols());
    for (Eigen::Index i = 0; i < a.rows(); ++i) {
      for (Eigen::Index k = 0; k < a.cols(); ++k) out.row[at(i)][at(k)] = a(i, k);
      for (Eigen::Index s = 0; s < b.cols(); ++s) out.row[at(i)][at(a.cols() + s)] = b(i, s);
    }
    return out;
  }
};

Eigen::MatrixXd random_matrix(RandomStream& random, Eigen::Index rows, Eigen::Index columns) {
  return Eigen::MatrixXd::NullaryExpr(rows, columns, [&] { return random.uniform(-1, 1); });
}

Question random_question(RandomStream& random, Eigen::Index rows, Eigen::Index columns,
                         Eigen::Index sides) {
  return {random_matrix(random, rows, columns), random_matrix(random, rows, sides)};
}

// Some row becomes a sum of the others, to within `off`.
void make_dependent(RandomStream& random, double off, Question& q) {
  const Eigen::Index row = random.index(static_cast<int>(q.a.rows()));
  const Eigen::MatrixXd noise = random_matrix(random, 1, q.a.cols());
  Eigen::RowVectorXd shares = random_matrix(random, 1, q.a.rows());
  shares[row] = 0.0;
  q.a.row(row) = shares * q.a + off * noise;
  q.b.row(row) = shares * q.b;
}

void check_solution(const Question& q, const RowSolution& out, double tolerance) {
  const Eigen::Index columns = q.a.cols();
  const auto as_column = [&](const RowSolution::Column& x) {
    return Eigen::Map<const Eigen::VectorXd>(x.data(), columns);
  };
  const Eigen::Index freedom = columns - out.rank;
  for (Eigen::Index s = 0; s < q.b.cols(); ++s) {
    const auto x = as_column(out.shortest[at(s)]);
    CHECK((q.a * x - q.b.col(s)).cwiseAbs().maxCoeff() < tolerance);
    for (Eigen::Index f = 0; f < freedom; ++f)  // so x is the shortest
      CHECK(std::abs(x.dot(as_column(out.free[at(f)]))) < tolerance);
  }
  for (Eigen::Index f = 0; f < freedom; ++f) {
    const auto free = as_column(out.free[at(f)]);
    CHECK((q.a * free).cwiseAbs().maxCoeff() < tolerance);
    for (Eigen::Index g = 0; g <= f; ++g)
      CHECK(std::abs(free.dot(as_column(out.free[at(g)])) - (f == g ? 1.0 : 0.0)) < 1e-12);
  }
}

TEST_CASE("row space: rank, the shortest solutions, and what is left free") {
  RandomStream random(12);
  RowSolution out;
  for (int round = 0; round < 600; ++round) {
    const int columns = round % 20 == 0 ? 20 + random.index(kMaxJoints - 19) : 2 + random.index(9);
    const int rows = 1 + random.index(std::min(columns, RowSystem::kMostRows));
    Question q = random_question(random, rows, columns, random.index(3));
    const bool dependent = rows > 1 && random.index(3) == 0;
    if (dependent) make_dependent(random, 0.0, q);
    INFO(rows << " rows, " << columns << " columns" << (dependent ? ", dependent" : ""));
    solve_rows(q.system(), 1e-9, out);
    const Eigen::JacobiSVD<Eigen::MatrixXd> exact(q.a, Eigen::ComputeThinU | Eigen::ComputeThinV);
    const double least = exact.singularValues()[rows - (dependent ? 2 : 1)];
    if (least < 1e-5) continue;  // nearly dependent by itself
    REQUIRE(out.rank == (dependent ? rows - 1 : rows));
    check_solution(q, out, 1e-12 / least);
    for (Eigen::Index s = 0; s < q.b.cols(); ++s) CHECK(out.off[at(s)] < 1e-12 / least);
    if (!dependent || q.b.cols() == 0) continue;
    q.b(random.index(rows), 0) += 0.5;  // now the rows are at odds
    solve_rows(q.system(), 1e-9, out);
    Eigen::JacobiSVD<Eigen::MatrixXd> nearest(q.a, Eigen::ComputeThinU | Eigen::ComputeThinV);
    nearest.setThreshold(1e-9);
    const double missed = (q.a * nearest.solve(q.b.col(0)) - q.b.col(0)).norm();
    CHECK(out.off[0] >= missed * (1.0 - 1e-6));  // no x misses by less in the sum of squares
    CHECK(out.off[0] < 100.0 * missed);
  }
}

TEST_CASE("row space: nearly dependent rows count down to the share that is asked for") {
  RandomStream random(13);
  RowSolution out;
  for (int round = 0; round < 200; ++round) {
    Question near = random_question(random, 6, 7, 1);
    Question nearer = near;
    make_dependent(random, 1e-5, near);
    make_dependent(random, 1e-11, nearer);
    solve_rows(near.system(), 1e-8, out);
    CHECK(out.rank == 6);
    solve_rows(nearer.system(), 1e-8, out);
    CHECK(out.rank == 5);
    CHECK(out.off[0] < 1e-6);
  }
}

TEST_CASE("row space: a small pivot waits until the others are taken") {
  // The second row is the first one to 1e-7, the third says by itself what they differ in.
  Question q{Eigen::MatrixXd(3, 4), Eigen::MatrixXd(3, 1)};
  q.a << 1, 0.5, 0, 0, 1, 0.5, 1e-7, 0, 0, 0, 1, 0;
  q.b << 1, 1, 1;
  RowSolution out;
  solve_rows(q.system(), 1e-6, out);
  CHECK(out.rank == 2);
  CHECK(out.off[0] == Approx(1e-7).epsilon(1e-6));  // and not the third row, by 1
  CHECK(out.shortest[0][2] == Approx(1.0));
}

TEST_CASE("row space: nothing, no rows, and what is no number") {
  RowSolution out;
  Question q{Eigen::MatrixXd::Zero(2, 3), Eigen::MatrixXd::Ones(2, 1)};
  solve_rows(q.system(), 0.0, out);
  CHECK(out.rank == 0);
  CHECK(out.off[0] == 1.0);
  CHECK(out.shortest[0][0] == 0.0);
  check_solution({q.a, Eigen::MatrixXd(2, 0)}, out, 1e-15);
  RowSystem none;
  none.columns = 4;
  solve_rows(none, 1e-9, out);
  CHECK(out.rank == 0);
  CHECK(out.free[3][3] == 1.0);
  q.a(0, 1) = std::numeric_limits<double>::quiet_NaN();
  solve_rows(q.system(), 1e-9, out);
  CHECK(out.rank <= 1);
}

TEST_CASE("row space: the same bits on every instruction set") {
  std::vector<RowSolution> first;
  test::on_each_instruction_set([&](const std::string& name) {
    INFO(name);
    RandomStream random(14);
    const bool is_first = first.empty();
    for (std::size_t round = 0; round < 60; ++round) {
      const int columns = round % 10 == 0 ? 27 : 5 + random.index(4);
      Question q = random_question(random, 1 + random.index(5), columns, 2);
      if (q.a.rows() > 1 && random.index(2) == 0) make_dependent(random, 1e-12, q);
      RowSolution out;
      solve_rows(q.system(), 1e-9, out);
      if (is_first) first.push_back(out);
      REQUIRE(out.rank == first[round].rank);
      for (std::size_t s = 0; s < 2; ++s) {
        CHECK(out.off[s] == first[round].off[s]);
        for (std::size_t k = 0; k < at(columns); ++k)
          CHECK(out.shortest[s][k] == first[round].shortest[s][k]);
      }
    }
  });
}

}  // namespace
}  // namespace er
