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

class Looks {
 public:
  Looks(const Motion& motion, const ArmDynamics& dynamics, TorqueMoments moments)
      : motion_(motion),
        dynamics_(dynamics),
        short_ones_(motion.pieces().size() > 100),
        between_ends_(moments == TorqueMoments::between_ends) {}

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
  static constexpr double kWorthALook = 1e-4;  // of what is allowed

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
  static std::vector<std::size_t> gaps_with_more(const EffortJudge& judge,
                                                 const PathEfforts& efforts, const Moments& moments,
                                                 std::size_t first, std::size_t end) {
    std::vector<std::size_t> out;
    if (end - first < 3) return out;
    const auto time = [&](std::size_t i) { return moments[i].time; };
    const double y = judge.speed();
    for (Eigen::Index k = 0; k < efforts.still.cols(); ++k) {
      const double allowed = judge.allowed(k);
      const auto effort = [&](std::size_t i) {
        return effort_of(efforts, static_cast<Eigen::Index>(i), k, y);
      };
      double most = 0.0;
      for (std::size_t i = first; i < end; ++i) most = std::max(most, std::abs(effort(i)));
      // However they lie, values up to this make no second differences that count.
      if (2.5 * most <= allowed && end - first <= 9) continue;
      const auto bend = [&](std::size_t i) {  // of the middle one of three
        const double before = (effort(i) - effort(i - 1)) / (time(i) - time(i - 1));
        const double after = (effort(i + 1) - effort(i)) / (time(i + 1) - time(i));
        return 2.0 * (after - before) / (time(i + 1) - time(i - 1));
      };
      for (std::size_t i = first; i + 1 < end; ++i) {
        const double at_start = bend(std::max(i, first + 1));
        const double at_end = bend(std::min(i + 1, end - 2));
        const double largest =
            std::max(std::abs(at_start), std::abs(at_end)) + std::abs(at_end - at_start);
        const double length = time(i + 1) - time(i);
        const double more = 0.125 * largest * length * length;
        const double at_ends = std::max(std::abs(effort(i)), std::abs(effort(i + 1)));
        if (more > kWorthALook * allowed && at_ends + more > (1.0 + kWorthALook) * allowed)
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
};

}  // namespace

void look_at_efforts(const Motion& motion, const ArmDynamics& dynamics, TorqueMoments moments,
                     EffortJudge& judge) {
  Looks(motion, dynamics, moments).show(judge);
}

}  // namespace er
