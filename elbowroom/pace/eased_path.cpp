#include "elbowroom/pace/eased_path.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace er {
namespace {

// s = 10 z^3 - 15 z^4 + 6 z^5 of the parameter z that x is a spline of, both over [0, 1].
struct Eased {
  explicit Eased(double z)
      : value(z * z * z * (10.0 + z * (-15.0 + 6.0 * z))),
        first(30.0 * z * z * (1.0 - z) * (1.0 - z)),
        second(60.0 * z * (1.0 - z) * (1.0 - 2.0 * z)),
        third(60.0 * (1.0 + 6.0 * z * (z - 1.0))) {}
  double value;
  double first;
  double second;
  double third;
};

double parameter_of(double share) {
  double low = 0.0;
  double high = 1.0;
  for (int i = 0; i < 60; ++i) {
    const double middle = 0.5 * (low + high);
    (Eased(middle).value < share ? low : high) = middle;
  }
  return 0.5 * (low + high);
}

class Sampler {
 public:
  Sampler(const JointCurve& path, const Arm& arm, const PathLimits& limits, int intervals)
      : path_(path), arm_(arm), limits_(limits), frames_(arm, limits.frames) {
    place_knots(intervals);
    std::size_t rows = 0;
    for (std::size_t i = 0; i < knots_.size(); ++i) rows += parts_of(i) + 1;
    for (PostureRows* values : {&out_.position, &out_.first, &out_.second, &out_.third, &out_.way})
      values->resize(static_cast<Eigen::Index>(rows), path.dof());
    for (std::size_t i = 0; i < knots_.size(); ++i) {
      const Knot& knot = knots_[i];
      const double next = i + 1 < knots_.size() ? knots_[i + 1].at : 1.0;
      out_.lengths.push_back(next - knot.at);
      const std::size_t parts = parts_of(i);
      for (std::size_t part = 0; part <= parts; ++part) {
        const double by =
            out_.lengths.back() * static_cast<double>(part) / static_cast<double>(parts);
        out_.rows.push_back({i, by});
        add(knot.piece, knot.piece_start, knot.at + by);
      }
    }
  }
  [[nodiscard]] EasedPath take() { return std::move(out_); }

 private:
  // The beginning of an interval, and the piece of the path that it lies in.
  struct Knot {
    double at = 0.0;
    std::size_t piece = 0;
    double piece_start = 0.0;
  };

  // In how many parts limits are looked at in an interval: what is kept at its ends alone bulges
  // between.
  [[nodiscard]] std::size_t parts_of(std::size_t interval) const {
    return interval < 3 || interval + 3 >= knots_.size() ? 4 : 2;
  }

  // The time that a unit of s takes at least, at an even pace.
  [[nodiscard]] double slowness(const CurvePiece& piece, double s) const {
    double most = 0.0;
    for (std::size_t k = 0; k < piece.joints.size(); ++k) {
      const auto joint = static_cast<Eigen::Index>(k);
      const ValueAndDerivatives q = all_at(piece.joints[k], s);
      most = std::max({most, std::abs(q.first) / limits_.velocity[joint],
                       std::sqrt(std::abs(q.second) / limits_.acceleration[joint]),
                       std::cbrt(std::abs(q.third) / limits_.jerk[joint])});
    }
    return most;
  }

  // A stretch of z over which the density of knots is even.
  struct Cell {
    double at = 0.0;
    double length = 0.0;
    double weight = 0.0;
  };
  static constexpr int kCells = 16;  // of a piece of the path
  using Cells = std::array<Cell, kCells>;

  // Of each piece; the weights are times.
  [[nodiscard]] std::vector<Cells> cells_of_pieces() const {
    std::vector<Cells> out;
    double start = 0.0;
    double begin = 0.0;
    for (const CurvePiece& piece : path_.pieces()) {
      const bool is_last = out.size() + 1 == path_.pieces().size();
      const double end = is_last ? 1.0 : parameter_of((start + piece.duration) / path_.duration());
      Cells& cells = out.emplace_back();
      for (int i = 0; i < kCells; ++i) {
        Cell& cell = cells[static_cast<std::size_t>(i)];
        cell.length = (end - begin) / kCells;
        cell.at = begin + i * cell.length;
        const Eased eased(cell.at + 0.5 * cell.length);
        const double s = std::clamp(path_.duration() * eased.value - start, 0.0, piece.duration);
        cell.weight = slowness(piece, s) * path_.duration() * eased.first * cell.length;
      }
      start += piece.duration;
      begin = end;
    }
    return out;
  }

  // Half of the knots evenly in z, half where the path takes most time.
  void place_knots(int intervals) {
    std::vector<Cells> pieces = cells_of_pieces();
    double whole = 0.0;
    for (const Cells& cells : pieces)
      for (const Cell& cell : cells) whole += cell.weight;
    double start = 0.0;
    for (std::size_t p = 0; p < pieces.size(); ++p) {
      for (Cell& cell : pieces[p]) cell.weight = 0.5 * (cell.weight / whole + cell.length);
      place_knots_in(pieces[p], p, start, intervals);
      start += path_.pieces()[p].duration;
    }
  }

  // At even steps of the weight.
  void place_knots_in(const Cells& cells, std::size_t piece, double piece_start, int intervals) {
    double all = 0.0;
    for (const Cell& cell : cells) all += cell.weight;
    const int count = std::max(2, static_cast<int>(std::ceil(all * intervals)));
    std::size_t at = 0;
    double before = 0.0;  // weight of the cells before `at`
    for (int i = 0; i < count; ++i) {
      const double wanted = all * i / count;
      while (at + 1 < kCells && before + cells[at].weight <= wanted) before += cells[at++].weight;
      const double share = std::clamp((wanted - before) / cells[at].weight, 0.0, 1.0);
      knots_.push_back({cells[at].at + share * cells[at].length, piece, piece_start});
    }
  }

  void add(std::size_t index, double start, double z) {
    const CurvePiece& piece = path_.pieces()[index];
    const Eased eased(z);
    const double length = path_.duration();
    const double s1 = length * eased.first;
    const double s2 = length * eased.second;
    const double s3 = length * eased.third;
    const double s = std::clamp(length * eased.value - start, 0.0, piece.duration);
    const auto row = static_cast<Eigen::Index>(out_.most.size());
    const double share = cap_at(limits_, start + s);
    double use = 0.0;  // of the limits of speed, the largest
    for (Eigen::Index k = 0; k < out_.position.cols(); ++k) {
      const ValueAndDerivatives q = all_at(piece.joints[static_cast<std::size_t>(k)], s);
      out_.position(row, k) = q.value;
      out_.first(row, k) = q.first * s1;
      out_.second(row, k) = q.second * s1 * s1 + q.first * s2;
      out_.third(row, k) = q.third * s1 * s1 * s1 + 3.0 * q.second * s1 * s2 + q.first * s3;
      out_.way(row, k) = q.first;
      use = std::max(use, limits_.velocity_of(k).share_of(out_.first(row, k)));
    }
    if (!frames_.empty())
      use = std::max(
          use, frames_.use(out_.position.row(row).transpose(), out_.first.row(row).transpose()));
    if (limits_.link >= 0) {
      out_.tool.push_back(
          path_tool(arm_, limits_.link, limits_.tip, out_.position.row(row).transpose(),
                    out_.first.row(row).transpose(), out_.second.row(row).transpose()));
      use = std::max(use, out_.tool.back().slope.norm() / limits_.tool_speed);
    }
    const double most = use > 0.0 ? share / use : std::numeric_limits<double>::infinity();
    out_.most.push_back(most * most);
  }

  const JointCurve& path_;
  const Arm& arm_;
  const PathLimits& limits_;
  LimitedFrames frames_;
  std::vector<Knot> knots_;
  EasedPath out_;
};

}  // namespace

EasedPath eased_path(const JointCurve& path, const Arm& arm, const PathLimits& limits,
                     int intervals) {
  return Sampler(path, arm, limits, intervals).take();
}

}  // namespace er
