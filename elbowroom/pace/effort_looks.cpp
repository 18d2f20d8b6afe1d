#include "elbowroom/pace/effort_looks.hpp"

#include <algorithm>
#include <cmath>

namespace er {
namespace {

constexpr double kJustBeside = 1e-7;  // of a piece

PathEfforts efforts_at(const Motion& motion, const ArmDynamics& dynamics, const Moments& moments) {
  PostureRows position(static_cast<Eigen::Index>(moments.size()), motion.dof());
  PostureRows velocity(position.rows(), position.cols());
  PostureRows acceleration(position.rows(), position.cols());
  for (Eigen::Index row = 0; row < position.rows(); ++row) {
    const Moment& moment = moments[static_cast<std::size_t>(row)];
    const CurvePiece& piece = motion.pieces()[moment.piece];
    for (Eigen::Index k = 0; k < position.cols(); ++k) {
      const ValueAndDerivatives at = all_at(piece.joints[static_cast<std::size_t>(k)], moment.time);
      position(row, k) = at.value;
      velocity(row, k) = at.first;
      acceleration(row, k) = at.second;
    }
  }
  return path_efforts(dynamics, {position, velocity, acceleration, velocity}, false);
}

// The effort of a joint at moments of a part of a motion, from `first` to before `end` of them.
class EffortSeries {
 public:
  EffortSeries(const PathEfforts& efforts, const Moments& moments, Eigen::Index joint, double y)
      : efforts_(efforts), moments_(moments), joint_(joint), y_(y) {}

  [[nodiscard]] double at(std::size_t i) const {
    return effort_of(efforts_, static_cast<Eigen::Index>(i), joint_, y_);
  }
  [[nodiscard]] double largest(std::size_t first, std::size_t end) const {
    double out = 0.0;
    for (std::size_t i = first; i < end; ++i) out = std::max(out, std::abs(at(i)));
    return out;
  }
  // By how much it may be above the line from one moment to the next, of three and more: second
  // differences say how it bends; what they differ by, it may bend more.
  [[nodiscard]] double above_line(std::size_t i, std::size_t first, std::size_t end) const {
    const double start = bend(std::max(i, first + 1));
    const double stop = bend(std::min(i + 1, end - 2));
    const double largest = std::max(std::abs(start), std::abs(stop)) + std::abs(stop - start);
    const double length = moments_[i + 1].time - moments_[i].time;
    return 0.125 * largest * length * length;
  }

 private:
  [[nodiscard]] double slope(std::size_t i) const {
    return (at(i + 1) - at(i)) / (moments_[i + 1].time - moments_[i].time);
  }
  [[nodiscard]] double bend(std::size_t middle) const {
    return 2.0 * (slope(middle) - slope(middle - 1)) /
           (moments_[middle + 1].time - moments_[middle - 1].time);
  }

  const PathEfforts& efforts_;
  const Moments& moments_;
  Eigen::Index joint_;
  double y_;
};

class Looks {
 public:
  Looks(const Motion& motion, const ArmDynamics& dynamics, TorqueMoments moments)
      : motion_(motion),
        dynamics_(dynamics),
        short_ones_(motion.pieces().size() > 100),
        between_ends_(moments == TorqueMoments::between_ends),
        worth_a_look_(between_ends_ ? 1e-4 : 1e-6) {}

  void show(EffortJudge& judge) const {
    // Few pieces at a time, for which there is room in the cache.
    constexpr std::size_t kFew = 128;
    const std::size_t pieces = motion_.pieces().size();
    for (std::size_t from = 0; from < pieces; from += kFew) {
      Moments moments;
      std::vector<std::size_t> ends;  // of the moments of each part
      for (std::size_t i = from; i < std::min(from + kFew, pieces); ++i)
        add_parts(i, moments, ends);
      const PathEfforts efforts = efforts_at(motion_, dynamics_, moments);
      judge.take(efforts, moments);
      std::size_t first = 0;
      for (const std::size_t end : ends) {
        if (!gaps_with_more(judge, efforts, moments, first, end).empty())
          look_closer(judge, Moments(moments.begin() + static_cast<std::ptrdiff_t>(first),
                                     moments.begin() + static_cast<std::ptrdiff_t>(end)));
        first = end;
      }
    }
  }

 private:
  static constexpr std::size_t kMostEven = 9;  // moments of a part, at first

  // A piece, or where joints with friction turn round within it, its parts: efforts jump there.
  void add_parts(std::size_t index, Moments& moments, std::vector<std::size_t>& ends) const {
    const CurvePiece& piece = motion_.pieces()[index];
    std::vector<double> cuts{0.0, piece.duration};
    for (std::size_t k = 0; k < piece.joints.size(); ++k) {
      if (dynamics_.friction()[static_cast<Eigen::Index>(k)] == 0.0) continue;
      const Roots turns = zeros_of(derivative_of(piece.joints[k]), piece.duration);
      cuts.insert(cuts.end(), turns.at.begin(),
                  turns.at.begin() + static_cast<std::ptrdiff_t>(turns.count));
    }
    std::sort(cuts.begin(), cuts.end());
    const double beside = kJustBeside * piece.duration;
    const bool whole = cuts.size() == 2;
    for (std::size_t c = 0; c + 1 < cuts.size(); ++c) {
      // Just within: a joint that has come to rest has no friction any more.
      const double begin = cuts[c] + beside;
      const double length = cuts[c + 1] - beside - begin;
      if (length <= 0.0) continue;
      const bool within = whole && between_ends_;
      const int intervals = within ? (short_ones_ ? 2 : 4) : (short_ones_ ? 3 : 8);
      for (int i = within ? 1 : 0; i <= (within ? intervals - 1 : intervals); ++i)
        moments.push_back({index, begin + length * i / intervals});
      ends.push_back(moments.size());
    }
  }

  // Those of the gaps between moments, by the first of both, in which a joint may be asked for more
  // than is allowed.
  [[nodiscard]] std::vector<std::size_t> gaps_with_more(const EffortJudge& judge,
                                                        const PathEfforts& efforts,
                                                        const Moments& moments, std::size_t first,
                                                        std::size_t end) const {
    std::vector<std::size_t> out;
    if (end - first < 3) return out;
    for (Eigen::Index k = 0; k < efforts.still.cols(); ++k) {
      const double allowed = judge.allowed(k);
      const EffortSeries series(efforts, moments, k, judge.speed());
      // At even times values up to this make no second differences that count.
      if (2.5 * series.largest(first, end) <= allowed && end - first <= kMostEven) continue;
      for (std::size_t i = first; i + 1 < end; ++i) {
        const double more = series.above_line(i, first, end);
        const double between = std::max(std::abs(series.at(i)), std::abs(series.at(i + 1))) + more;
        if (more > worth_a_look_ * allowed && between > (1.0 + worth_a_look_) * allowed)
          out.push_back(i);
      }
    }
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
  }

  // Halves gaps of a part until none is left that may have more.
  void look_closer(EffortJudge& judge, Moments moments) const {
    constexpr int kMostRounds = 16;
    for (int round = 0; round < kMostRounds; ++round) {
      const PathEfforts efforts = efforts_at(motion_, dynamics_, moments);
      if (round > 0) judge.take(efforts, moments);
      const std::vector<std::size_t> gaps =
          gaps_with_more(judge, efforts, moments, 0, moments.size());
      if (gaps.empty()) return;
      for (const std::size_t i : gaps)
        moments.push_back({moments[i].piece, 0.5 * (moments[i].time + moments[i + 1].time)});
      std::sort(moments.begin(), moments.end(),
                [](const Moment& a, const Moment& b) { return a.time < b.time; });
    }
  }

  const Motion& motion_;
  const ArmDynamics& dynamics_;
  bool short_ones_;
  bool between_ends_;
  double worth_a_look_;  // of what is allowed
};

}  // namespace

void look_at_efforts(const Motion& motion, const ArmDynamics& dynamics, TorqueMoments moments,
                     EffortJudge& judge) {
  Looks(motion, dynamics, moments).show(judge);
}

}  // namespace er
