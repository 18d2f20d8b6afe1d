// Cubic and quintic splines through knots.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "elbowroom/base/joint_curve.hpp"

namespace er {

/// What a spline meets at a knot. A velocity or acceleration that is not given is chosen so that
/// the curve is as smooth there as its degree allows.
struct SplineKnot {
  Posture position;
  std::optional<Posture> velocity = {};
  std::optional<Posture> acceleration = {};  ///< of quintics only
};

enum class SplineDegree { cubic = 3, quintic = 5 };

/// What holds at the first and the last knot, where they say nothing themselves.
enum class SplineEnds {
  clamped,   ///< at rest: no velocity (and no acceleration, for quintics)
  natural,   ///< a cubic: no acceleration; a quintic: no jerk, and no change of it
  periodic,  ///< the curve closes, and goes through the first knot again as smoothly as through
             ///< others
};

/// One condition on the derivatives at the knots: a sum of factors times unknowns that is, for each
/// joint, what stands on the right.
struct SplineEquation {
  enum class Kind { given, continuous, zero, repeats_first };
  Kind kind = Kind::given;
  int derivative = 1;    ///< 1 is velocity, 4 the change of jerk
  std::size_t knot = 0;  ///< from 0
  std::vector<std::pair<int, double>> terms = {};
  Posture right;

  /// "acceleration is continuous at waypoint 2"
  [[nodiscard]] std::string text() const;
};

/// The conditions for all derivatives at the knots. Unknown 2 i is the velocity at knot i of a
/// quintic, 2 i + 1 its acceleration; of a cubic there are velocities alone. `gaps`: from each knot
/// to the next, above zero. Throws InputError for fewer than two knots, gaps that are not above
/// zero, an acceleration given to a cubic, or a periodic curve that does not end where it begins.
std::vector<SplineEquation> spline_equations(const std::vector<SplineKnot>& knots,
                                             const std::vector<double>& gaps, SplineDegree degree,
                                             SplineEnds ends);

/// One polynomial per gap. Where nothing is given: cubics have a continuous acceleration, quintics
/// a continuous jerk and derivative of it. Sources: C. de Boor, "A Practical Guide to Splines",
/// 1978, chapter IV, for cubics; for quintics the same conditions, two orders on.
JointCurve spline_through(const std::vector<SplineKnot>& knots, const std::vector<double>& gaps,
                          SplineDegree degree, SplineEnds ends);

/// A natural cubic spline; `times` ascend, one for each knot (InputError).
JointCurve spline_through(const std::vector<Posture>& knots, const std::vector<double>& times);

}  // namespace er
