// Efforts along a motion: looked at in a few moments of each piece, and between them where there
// may be more.
#pragma once

#include <vector>

#include "elbowroom/pace/motion.hpp"
#include "elbowroom/pace/path_efforts.hpp"

namespace er {

/// Where in each piece of a motion efforts are looked at first: at its ends, too, or only between,
/// where they are known to be kept at the ends and pieces are short; of many only in the middle.
enum class TorqueMoments { all, between_ends };

/// A moment of a motion, by the piece whose polynomials are asked: across their ends accelerations
/// may jump.
struct Moment {
  std::size_t piece = 0;
  double time = 0.0;  ///< since the piece begins
};
using Moments = std::vector<Moment>;

/// The effort of a joint in a row, where the motion takes 1 / y times as long: the motion is a path
/// whose parameter is time.
inline double effort_of(const PathEfforts& efforts, Eigen::Index row, Eigen::Index joint,
                        double y) {
  const double rate = efforts.by_rate.size() > 0 ? efforts.by_rate(row, joint) : 0.0;
  return efforts.still(row, joint) + y * (rate + y * efforts.by_square(row, joint));
}

/// Says what is of interest, and takes what is found.
class EffortJudge {
 public:
  virtual ~EffortJudge() = default;
  [[nodiscard]] virtual double speed() const = 0;  ///< y
  /// Efforts at that speed, either way, up to which it need not be looked closer.
  [[nodiscard]] virtual double allowed(Eigen::Index joint) const = 0;
  virtual void take(const PathEfforts& efforts, const Moments& moments) = 0;  ///< a row each
};

/// Shows the judge efforts of all pieces, on both sides of where joints with friction turn round,
/// too, since they jump there; then those between wherever second differences say that one may be
/// above what is allowed by more than a millionth; only between ends, a ten-thousandth.
void look_at_efforts(const Motion& motion, const ArmDynamics& dynamics, TorqueMoments moments,
                     EffortJudge& judge);

}  // namespace er
