// How the polynomials of a motion are worked out, as tables to be followed by hand.
#include <fmt/format.h>

#include <array>
#include <cmath>

#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/pace/polynomial_motion.hpp"

namespace er {
namespace {

constexpr double kVanishes = 1e-9;  // deg or mm, and per s to any power

class Tables {
 public:
  Tables(const PolynomialMotion& paced, const Arm& arm)
      : paced_(paced), arm_(arm), count_(paced.options.degree == SplineDegree::cubic ? 4U : 6U) {
    for (int k = 0; k < arm.dof(); ++k) (moves(k) ? moving_ : still_).push_back(k);
  }

  [[nodiscard]] std::string text() const {
    std::string out = boundary_values();
    if (paced_.knots.size() > 2) out += derivative_equations();
    double start = 0.0;
    for (std::size_t i = 0; i < paced_.durations.size(); ++i) {
      out += stretch(i, start);
      start += paced_.durations[i];
    }
    return out;
  }

 private:
  [[nodiscard]] bool moves(int joint) const {
    for (const CurvePiece& piece : paced_.motion.pieces())
      for (std::size_t i = 1; i < 6; ++i)
        if (std::abs(of(piece, joint)[i]) > kVanishes) return true;
    return false;
  }
  static const Quintic& of(const CurvePiece& piece, int joint) {
    return piece.joints[static_cast<std::size_t>(joint)];
  }
  // Degrees, or millimetres.
  [[nodiscard]] double shown(int joint, double value) const {
    value = arm_.moving_joint(joint).kind == JointKind::prismatic ? to_mm(value) : to_deg(value);
    return std::abs(value) < kVanishes ? 0.0 : value;
  }
  [[nodiscard]] std::string unit(int joint) const {
    return arm_.moving_joint(joint).kind == JointKind::prismatic ? "mm" : "deg";
  }

  // Position, velocity or acceleration at a waypoint.
  [[nodiscard]] double at_waypoint(std::size_t knot, int joint, int order) const {
    const auto& pieces = paced_.motion.pieces();
    if (knot < pieces.size()) return value_at(of(pieces[knot], joint), 0.0, order);
    return value_at(of(pieces.back(), joint), pieces.back().duration, order);
  }

  [[nodiscard]] std::string boundary_values() const {
    Table table({"waypoint", "at s", "<joint", "q", "q'", "q''"});
    double time = 0.0;
    const std::size_t last = paced_.knots.size() - 1;
    for (std::size_t i = 0; i <= last; ++i) {
      for (const int k : moving_) {
        const bool end = (i == 0 || i == last) && paced_.options.ends == SplineEnds::clamped;
        const auto value = [&](int order, bool given) {
          return fmt::format("{:.6g}{}", shown(k, at_waypoint(i, k, order)), given ? " *" : "  ");
        };
        table.row({k == moving_.front() ? fmt::format("{}", i + 1) : "",
                   k == moving_.front() ? fmt::format("{:.6g}", time) : "",
                   arm_.moving_joint(k).name, value(0, true),
                   value(1, end || paced_.knots[i].velocity.has_value()),
                   value(2, count_ == 6 && (end || paced_.knots[i].acceleration.has_value()))});
      }
      if (i < last) time += paced_.durations[i];
    }
    std::string out =
        "boundary values, in deg or mm, and per s and s^2 (* given, the rest follows):\n" +
        table.text();
    if (still_.empty()) return out;
    out += "  stays where it is:";
    for (const int k : still_)
      out += fmt::format(" {} at {:.6g} {}{}", arm_.moving_joint(k).name,
                         shown(k, at_waypoint(0, k, 0)), unit(k), k == still_.back() ? "" : ",");
    return out + "; all its coefficients but the first are zero\n";
  }

  [[nodiscard]] std::string unknown_name(int index) const {
    if (count_ == 4) return fmt::format("v{}", index + 1);
    return fmt::format("{}{}", index % 2 == 0 ? "v" : "a", index / 2 + 1);
  }

  [[nodiscard]] std::string derivative_equations() const {
    std::vector<std::string> headings{"<condition", "<equation"};
    for (const int k : moving_) headings.push_back("= " + arm_.moving_joint(k).name);
    Table table(headings);
    for (const SplineEquation& equation : paced_.equations) {
      std::string sum;
      for (const auto& [index, factor] : equation.terms) {
        if (factor == 0.0) continue;
        sum += fmt::format("{}{:.6g} {}",
                           sum.empty() ? (factor < 0.0 ? "-" : "") : (factor < 0.0 ? " - " : " + "),
                           std::abs(factor), unknown_name(index));
      }
      std::vector<std::string> row{equation.text(), sum};
      for (const int k : moving_) row.push_back(fmt::format("{:.6g}", shown(k, equation.right[k])));
      table.row(row);
    }
    return fmt::format(
        "linear equations for the velocities v{} at the waypoints, in deg or mm:\n{}",
        count_ == 6 ? " and accelerations a" : "", table.text());
  }

  // The value of the conditions q(0), q'(0) (, q''(0)), q(T), q'(T) (, q''(T)).
  [[nodiscard]] double wanted(std::size_t stretch, int joint, std::size_t row) const {
    const std::size_t half = count_ / 2;
    return at_waypoint(row < half ? stretch : stretch + 1, joint, static_cast<int>(row % half));
  }

  [[nodiscard]] std::string stretch(std::size_t i, double start) const {
    const double duration = paced_.durations[i];
    const std::size_t half = count_ / 2;
    std::string out = fmt::format(
        "stretch {}, from {:.6g} s, T = {:.6g} s{}: q(t) = c0 + c1 t + ... + c{} t^{} with\n",
        i + 1, start, duration, paced_.chosen[i] ? " (chosen)" : "", count_ - 1, count_ - 1);
    static constexpr std::array kNames{"q", "q'", "q''"};
    std::vector<std::string> headings{"<"};
    for (std::size_t c = 0; c < count_; ++c) headings.push_back(fmt::format("c{}", c));
    for (const int k : moving_) headings.push_back("= " + arm_.moving_joint(k).name);
    Table system(headings);
    for (std::size_t row = 0; row < count_; ++row) {
      const double t = row < half ? 0.0 : duration;
      const auto order = static_cast<int>(row % half);
      std::vector<std::string> cells{
          fmt::format("{}({})", kNames[row % half], row < half ? "0" : "T")};
      for (std::size_t c = 0; c < count_; ++c) {
        Quintic power{};
        power[c] = 1.0;
        cells.push_back(fmt::format("{:.6g}", value_at(power, t, order)));
      }
      for (const int k : moving_)
        cells.push_back(fmt::format("{:.6g}", shown(k, wanted(i, k, row))));
      system.row(cells);
    }
    return out + system.text() + "  which gives\n" + solution(i) + vanishing(i);
  }

  [[nodiscard]] std::string solution(std::size_t i) const {
    std::vector<std::string> headings{"<joint"};
    for (std::size_t c = 0; c < count_; ++c) headings.push_back(fmt::format("c{}", c));
    headings.emplace_back("largest residual");
    Table table(headings);
    const CurvePiece& piece = paced_.motion.pieces()[i];
    const std::size_t half = count_ / 2;
    for (const int k : moving_) {
      std::vector<std::string> cells{arm_.moving_joint(k).name};
      for (std::size_t c = 0; c < count_; ++c)
        cells.push_back(fmt::format("{:.6g}", shown(k, of(piece, k)[c])));
      double residual = 0.0;
      for (std::size_t row = 0; row < count_; ++row)
        residual =
            std::max(residual, std::abs(value_at(of(piece, k), row < half ? 0.0 : piece.duration,
                                                 static_cast<int>(row % half)) -
                                        given_or(i, k, row)));
      const bool slides = arm_.moving_joint(k).kind == JointKind::prismatic;
      cells.push_back(
          fmt::format("{:.1e} {}", slides ? to_mm(residual) : to_deg(residual), unit(k)));
      table.row(cells);
    }
    return table.text();
  }

  // What a condition was given as; where it follows, what the next stretch begins with.
  [[nodiscard]] double given_or(std::size_t stretch, int joint, std::size_t row) const {
    const std::size_t half = count_ / 2;
    const SplineKnot& knot = paced_.knots[row < half ? stretch : stretch + 1];
    const std::size_t order = row % half;
    if (order == 0) return knot.position[joint];
    const auto& given = order == 1 ? knot.velocity : knot.acceleration;
    return given ? (*given)[joint] : wanted(stretch, joint, row);
  }

  [[nodiscard]] std::string vanishing(std::size_t i) const {
    const CurvePiece& piece = paced_.motion.pieces()[i];
    std::string out;
    for (std::size_t c = 1; c < count_; ++c) {
      bool all = true;
      for (const int k : moving_) all = all && shown(k, of(piece, k)[c]) == 0.0;
      if (!all) continue;
      const char* why = c == 1                  ? "the velocity at its beginning is zero"
                        : c == 2                ? "the acceleration at its beginning is zero"
                        : c == 3 && count_ == 4 ? "its acceleration does not change"
                                                : "of what is given at its ends";
      out += fmt::format("  c{} vanishes, for {}\n", c, why);
    }
    return out;
  }

  const PolynomialMotion& paced_;
  const Arm& arm_;
  std::size_t count_;
  std::vector<int> moving_ = {};
  std::vector<int> still_ = {};
};

}  // namespace

std::string coefficient_tables(const PolynomialMotion& paced, const Arm& arm) {
  return Tables(paced, arm).text();
}

}  // namespace er
