#include "elbowroom/base/spline.hpp"

#include <fmt/format.h>

#include <Eigen/SparseLU>
#include <array>
#include <cmath>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

// A derivative at one end of a piece, as a sum of factors times rise = q1 - q0, v0, a0, v1, a1.
struct EndDerivative {
  double rise = 0.0;
  double v0 = 0.0;
  double a0 = 0.0;
  double v1 = 0.0;
  double a1 = 0.0;
};

// Of the cubic with these values and velocities at its ends: acceleration (2). Of the quintic: jerk
// (3), and the change of that (4).
EndDerivative end_derivative(int derivative, double h, bool at_end) {
  const double h2 = h * h;
  const double h3 = h2 * h;
  if (derivative == 2)
    return at_end ? EndDerivative{-6.0 / h2, 2.0 / h, 0.0, 4.0 / h, 0.0}
                  : EndDerivative{6.0 / h2, -4.0 / h, 0.0, -2.0 / h, 0.0};
  if (derivative == 3)
    return at_end ? EndDerivative{60.0 / h3, -24.0 / h2, -3.0 / h, -36.0 / h2, 9.0 / h}
                  : EndDerivative{60.0 / h3, -36.0 / h2, -9.0 / h, -24.0 / h2, 3.0 / h};
  const double h4 = h2 * h2;
  return at_end ? EndDerivative{360.0 / h4, -168.0 / h3, -24.0 / h2, -192.0 / h3, 36.0 / h2}
                : EndDerivative{-360.0 / h4, 192.0 / h3, 36.0 / h2, 168.0 / h3, -24.0 / h2};
}

class Equations {
 public:
  Equations(const std::vector<SplineKnot>& knots, const std::vector<double>& gaps,
            SplineDegree degree, SplineEnds ends)
      : knots_(knots), gaps_(gaps), cubic_(degree == SplineDegree::cubic), ends_(ends) {
    check();
    const std::size_t last = knots_.size() - 1;
    for (std::size_t i = 0; i <= last; ++i) {
      const bool is_end = i == 0 || i == last;
      const bool closes = is_end && ends_ == SplineEnds::periodic;
      if (closes && i == last) {
        repeats_first(1);
        if (!cubic_) repeats_first(2);
      } else if (is_end && !closes) {
        at_end(i);
      } else {
        inside(i, i == 0 ? last - 1 : i - 1);
      }
    }
  }

  std::vector<SplineEquation> all;

 private:
  using Kind = SplineEquation::Kind;

  void check() const {
    if (knots_.size() < 2 || gaps_.size() + 1 != knots_.size())
      throw InputError("a spline needs at least two knots, and the gap between each two");
    for (const double gap : gaps_)
      if (!(gap > 0.0) || !std::isfinite(gap))
        throw InputError(fmt::format(
            "from one knot of a spline to the next is more than zero, found {:g}", gap));
    for (const SplineKnot& knot : knots_)
      if (cubic_ && knot.acceleration)
        throw InputError("a cubic cannot be given an acceleration", "take a quintic");
    if (ends_ == SplineEnds::periodic &&
        (knots_.front().position - knots_.back().position).cwiseAbs().maxCoeff() > 1e-9)
      throw InputError("a periodic curve ends where it begins, and the last knot is not the first");
  }

  [[nodiscard]] int unknown(std::size_t knot, int order) const {
    return cubic_ ? static_cast<int>(knot) : 2 * static_cast<int>(knot) + order;
  }
  [[nodiscard]] Posture nothing() const { return Posture::Zero(knots_.front().position.size()); }

  void given(std::size_t knot, int derivative, const Posture& value) {
    all.push_back({Kind::given, derivative, knot, {{unknown(knot, derivative - 1), 1.0}}, value});
  }
  void repeats_first(int derivative) {
    const std::size_t last = knots_.size() - 1;
    const int order = derivative - 1;
    all.push_back({Kind::repeats_first,
                   derivative,
                   last,
                   {{unknown(0, order), -1.0}, {unknown(last, order), 1.0}},
                   nothing()});
  }

  static void add_term(SplineEquation& equation, int unknown, double factor) {
    for (auto& [index, sum] : equation.terms)
      if (index == unknown) {
        sum += factor;
        return;
      }
    equation.terms.emplace_back(unknown, factor);
  }

  // A derivative at one end of a piece, times `sign`, added to what is to be zero.
  void add(SplineEquation& equation, std::size_t piece, bool at_end, double sign) const {
    const EndDerivative d = end_derivative(equation.derivative, gaps_[piece], at_end);
    equation.right -= sign * d.rise * (knots_[piece + 1].position - knots_[piece].position);
    add_term(equation, unknown(piece, 0), sign * d.v0);
    if (!cubic_) add_term(equation, unknown(piece, 1), sign * d.a0);
    add_term(equation, unknown(piece + 1, 0), sign * d.v1);
    if (!cubic_) add_term(equation, unknown(piece + 1, 1), sign * d.a1);
  }

  // The same at the end of the piece before a knot and at the beginning of the next.
  void continuous(int derivative, std::size_t knot, std::size_t before) {
    SplineEquation equation{Kind::continuous, derivative, knot, {}, nothing()};
    add(equation, before, true, 1.0);
    add(equation, knot, false, -1.0);
    all.push_back(std::move(equation));
  }
  void zero(int derivative, std::size_t knot) {
    SplineEquation equation{Kind::zero, derivative, knot, {}, nothing()};
    add(equation, knot == 0 ? 0 : knot - 1, knot != 0, 1.0);
    all.push_back(std::move(equation));
  }

  // What a chosen velocity, or acceleration, makes smooth: the highest derivatives that can be.
  [[nodiscard]] int smooths(int derivative) const { return cubic_ ? 2 : derivative == 1 ? 4 : 3; }

  void inside(std::size_t knot, std::size_t before) {
    const SplineKnot& k = knots_[knot];
    k.velocity ? given(knot, 1, *k.velocity) : continuous(smooths(1), knot, before);
    if (cubic_) return;
    k.acceleration ? given(knot, 2, *k.acceleration) : continuous(smooths(2), knot, before);
  }

  void at_end(std::size_t knot) {
    end_value(knot, 1, knots_[knot].velocity);
    if (!cubic_) end_value(knot, 2, knots_[knot].acceleration);
  }
  void end_value(std::size_t knot, int derivative, const std::optional<Posture>& value) {
    if (value || ends_ != SplineEnds::natural)
      given(knot, derivative, value ? *value : nothing());
    else
      zero(smooths(derivative), knot);
  }

  const std::vector<SplineKnot>& knots_;
  const std::vector<double>& gaps_;
  bool cubic_;
  SplineEnds ends_;
};

// One row for each unknown, one column for each joint.
Eigen::MatrixXd solved(const std::vector<SplineEquation>& equations, Eigen::Index joints) {
  const auto n = static_cast<Eigen::Index>(equations.size());
  std::vector<Eigen::Triplet<double>> entries;
  Eigen::MatrixXd right(n, joints);
  for (Eigen::Index row = 0; row < n; ++row) {
    const SplineEquation& equation = equations[static_cast<std::size_t>(row)];
    // Rows of very different size are brought to one.
    double size = 0.0;
    for (const auto& [column, factor] : equation.terms) size = std::max(size, std::abs(factor));
    for (const auto& [column, factor] : equation.terms)
      entries.emplace_back(static_cast<int>(row), column, factor / size);
    right.row(row) = equation.right.transpose() / size;
  }
  Eigen::SparseMatrix<double> matrix(n, n);
  matrix.setFromTriplets(entries.begin(), entries.end());
  Eigen::SparseLU<Eigen::SparseMatrix<double>> lu(matrix);
  if (lu.info() != Eigen::Success)
    throw InputError("no spline meets all that is given at its knots");
  return lu.solve(right);
}

std::vector<SplineKnot> knots_at(const std::vector<Posture>& positions) {
  std::vector<SplineKnot> knots;
  for (const Posture& position : positions) knots.push_back({position});
  return knots;
}

}  // namespace

std::string SplineEquation::text() const {
  static constexpr std::array kNames{"velocity", "acceleration", "jerk", "change of jerk"};
  const char* what = kNames.at(static_cast<std::size_t>(derivative - 1));
  switch (kind) {
    case Kind::given:
      return fmt::format("{} at waypoint {} is given", what, knot + 1);
    case Kind::continuous:
      return fmt::format("{} is continuous at waypoint {}", what, knot + 1);
    case Kind::zero:
      return fmt::format("no {} at waypoint {}", what, knot + 1);
    case Kind::repeats_first:
      break;
  }
  return fmt::format("{} at the last waypoint is that at the first", what);
}

std::vector<SplineEquation> spline_equations(const std::vector<SplineKnot>& knots,
                                             const std::vector<double>& gaps, SplineDegree degree,
                                             SplineEnds ends) {
  return Equations(knots, gaps, degree, ends).all;
}

JointCurve spline_through(const std::vector<SplineKnot>& knots, const std::vector<double>& gaps,
                          SplineDegree degree, SplineEnds ends) {
  const auto equations = spline_equations(knots, gaps, degree, ends);
  const Eigen::Index joints = knots.front().position.size();
  const Eigen::MatrixXd found = solved(equations, joints);
  const bool cubic = degree == SplineDegree::cubic;
  std::vector<CurvePiece> pieces;
  for (std::size_t i = 0; i + 1 < knots.size(); ++i) {
    const auto row = static_cast<Eigen::Index>(cubic ? i : 2 * i);
    CurvePiece piece{gaps[i], {}};
    for (Eigen::Index k = 0; k < joints; ++k) {
      const auto end = [&](std::size_t knot, Eigen::Index at) -> EndValues {
        return {knots[knot].position[k], found(at, k), cubic ? 0.0 : found(at + 1, k)};
      };
      const auto between = cubic ? cubic_between : quintic_between;
      piece.joints.push_back(between(end(i, row), end(i + 1, row + (cubic ? 1 : 2)), gaps[i]));
    }
    pieces.push_back(std::move(piece));
  }
  return JointCurve(std::move(pieces));
}

JointCurve spline_through(const std::vector<Posture>& knots, const std::vector<double>& times) {
  if (knots.size() < 2 || times.size() != knots.size())
    throw InputError("a spline needs at least two knots, and a time for each");
  std::vector<double> gaps;
  for (std::size_t i = 0; i + 1 < times.size(); ++i) gaps.push_back(times[i + 1] - times[i]);
  return spline_through(knots_at(knots), gaps, SplineDegree::cubic, SplineEnds::natural);
}

}  // namespace er
