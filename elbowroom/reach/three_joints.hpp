// Three joints in a row, and the ways in which they take a point to another: what brings a wrist's
// centre to its place.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "elbowroom/base/trigonometric.hpp"
#include "elbowroom/reach/screw_chain.hpp"

namespace er {

using ThreeScrews = std::array<Screw, 3>;

/// Up to four ways.
struct ThreeJoints {
  struct Way {
    std::array<double, 3> value = {};  ///< rad, or m of a joint that slides
    int free = -1;                     ///< a joint that may be anywhere, if one may
  };
  int count = 0;
  bool sure = true;  ///< none is missing: not doubtful for rounding
  std::array<Way, 4> ways = {};
  void add(double a, double b, double c, int free) {
    if (count < 4) ways[static_cast<std::size_t>(count++)] = {{a, b, c}, free};
  }
};

/// Of the sine or cosine between two axes, or of how far they miss each other (m): below this they
/// are all but in a special position, where the equation of the general case is all but a square
/// and loses half of its digits.
constexpr double kAllButSpecial = 0.01;

/// Ways to be improved, not all of them different.
struct WayCandidates {
  struct One {
    ThreeJoints::Way way;
    bool is_extra = false;
  };
  int count = 0;
  bool sure = true;  ///< each way is near one of those that are no extras
  std::array<One, 8> all = {};
  void add(const ThreeJoints::Way& way, bool is_extra) {
    if (count < static_cast<int>(all.size()))
      all[static_cast<std::size_t>(count++)] = {way, is_extra};
  }
};

/// The roots of an equation of degree 2 in the cosine and sine of an angle, a difference of terms
/// of the size `terms`, whose rounding it has.
template <class Equation>
TrigRoots angles_where(const Equation& is_zero, double terms) {
  constexpr int kSamples = 8;
  constexpr double kRounding = 1e-13;
  static const EvenAngles even(kSamples);
  std::array<double, kSamples> values;
  double most = 0.0;
  for (int i = 0; i < kSamples; ++i) {
    double& value = values[static_cast<std::size_t>(i)];
    value = is_zero(2.0 * std::numbers::pi * i / kSamples);
    most = std::max(most, std::abs(value));
  }
  const double noise = most > 0.0 ? kRounding * std::max(1.0, terms / most) : 1.0;
  return TrigPolynomial::through(values.data(), even, 2).roots(noise);
}

/// The joint that turns about an axis through what it turns, which then stays; -1 where none does.
/// `after_third` is where the third joint takes the point, all three take it to the goal.
int free_turn(const ThreeScrews& joints, const Vector3& point, const Vector3& after_third,
              const Vector3& goal);

/// Newton's steps of the point towards the goal, where the joints are regular and as long as they
/// bring it nearer: an equation loses digits where axes all but meet, which a wrist that only just
/// holds the hand would miss. How far the point is from the goal then, m.
double refine(const ThreeScrews& joints, const Vector3& point, const Vector3& goal, int steps,
              std::array<double, 3>& value);

/// The different ways that Newton's steps lead to. Extras are those of joints in the special
/// position that these are all but in.
void keep_ways(const ThreeScrews& joints, const Vector3& point, const Vector3& goal,
               const WayCandidates& candidates, ThreeJoints& out);

}  // namespace er
