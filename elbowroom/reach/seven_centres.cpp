#include "elbowroom/reach/seven_centres.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/subproblems.hpp"

namespace er {
namespace {

constexpr double kPi = std::numbers::pi;

Swing carried(const Vector3& axis, const Vector3& before, const Vector3& beyond) {
  const Vector3 along = axis.dot(beyond) * axis;
  return {before + along, beyond - along, axis.cross(beyond)};
}

// The upper arm: the elbow joint (through `at`) carries the wrist.
ElbowNeighbour at_shoulder(const ScrewChain& chain, const Vector3& shoulder, const Vector3& at,
                           const Vector3& wrist) {
  const Vector3& bend = chain[3].axis;
  return {{chain[0].axis, chain[1].axis, chain[2].axis},
          carried(bend, at - shoulder, wrist - at),
          {at - shoulder, Vector3::Zero(), Vector3::Zero()}};
}

// The forearm: the elbow joint, turning the other way, carries the shoulder.
ElbowNeighbour at_wrist(const ScrewChain& chain, const Vector3& shoulder, const Vector3& at,
                        const Vector3& wrist) {
  const Vector3 bend = -chain[3].axis;
  return {{-chain[6].axis, -chain[5].axis, -chain[4].axis},
          carried(bend, wrist - at, at - shoulder),
          carried(bend, Vector3::Zero(), at - shoulder)};
}

// The foot of the elbow's axis, seen from the shoulder.
Vector3 elbow_of(const Screw& bend, const Vector3& shoulder) {
  return bend.point + bend.axis.dot(shoulder - bend.point) * bend.axis;
}

ElbowGeometry geometry_of(const ScrewChain& chain, const Vector3& shoulder, const Vector3& wrist) {
  const Vector3 at = elbow_of(chain[3], shoulder);
  return {at_shoulder(chain, shoulder, at, wrist), at_wrist(chain, shoulder, at, wrist),
          chain[3].axis, DistanceBend(chain[3].axis, wrist - at, shoulder - at)};
}

// The elbow angles at which one joint of a shoulder or wrist is at an end of its range, or at which
// the hand comes to the end of the wrist's reach. See WristAxes and angles_of_wrist: each is a
// linear equation in what is asked, and so in cosine and sine of the elbow angle.
class CircleEnds {
 public:
  CircleEnds(const ElbowCircles& circles, int lane, const WristAxes& axes,
             std::vector<double>& angles)
      : circles_(circles), lane_(lane), axes_(axes), angles_(angles) {}

  void add_reach() {
    for (const double side : {1.0, -1.0})
      add({{0, 0, 1.0}},
          axes_.first_cosine * axes_.third_cosine + side * axes_.first_sine * axes_.third_sine);
  }
  // Of the turns in the order of the axes.
  void add_limits(double first, double second, double third) {
    if (std::isfinite(first))
      add({{0, 0, axes_.first_cosine},
           {1, 0, axes_.first_sine * std::cos(first)},
           {2, 0, axes_.first_sine * std::sin(first)}},
          axes_.third_cosine);
    if (std::isfinite(second)) {
      const double away =
          axes_.third_away * std::cos(second) - axes_.third_aside * std::sin(second);
      add({{0, 0, 1.0}}, axes_.first_cosine * axes_.third_cosine - axes_.first_sine * away);
    }
    if (std::isfinite(third))
      add({{0, 0, axes_.third_cosine},
           {0, 1, axes_.third_sine * std::cos(third)},
           {0, 2, -axes_.third_sine * std::sin(third)}},
          axes_.first_cosine);
  }

 private:
  struct Term {
    int row;
    int column;
    double factor;
  };
  void add(std::initializer_list<Term> terms, double wanted) {
    double fixed = 0.0, by_cosine = 0.0, by_sine = 0.0;
    for (const Term& term : terms) {
      fixed += term.factor * circles_.fixed[term.row][term.column][lane_];
      by_cosine += term.factor * circles_.by_cosine[term.row][term.column][lane_];
      by_sine += term.factor * circles_.by_sine[term.row][term.column][lane_];
    }
    const TwoAngles two = solve_cosine_sine(by_cosine, by_sine, wanted - fixed);
    for (int i = 0; i < two.count && !two.any; ++i) angles_.push_back(two.angle[i]);
  }

  const ElbowCircles& circles_;
  int lane_;
  const WristAxes& axes_;
  std::vector<double>& angles_;
};

// A shoulder and a wrist with one value of the elbow joint; false where one of them is none.
bool join(const ThreeOfSide& shoulder, double elbow_joint, bool is_straight,
          const ThreeOfSide& wrist, int branch, ClosedSolution& out) {
  if (shoulder.kind == ThreeOfSide::kNone || wrist.kind == ThreeOfSide::kNone) return false;
  out.values = {shoulder.angles[0], shoulder.angles[1], shoulder.angles[2], elbow_joint,
                wrist.angles[0],    wrist.angles[1],    wrist.angles[2]};
  out.free_joint = shoulder.kind == ThreeOfSide::kOneIsFree ? 0
                   : wrist.kind == ThreeOfSide::kOneIsFree  ? 4
                   : is_straight                            ? 2
                                                            : -1;
  out.branch = branch;
  return true;
}

// Of a branch.
int value_of(int branch) { return branch / 4; }
int shoulder_of(int branch) { return branch / 2 % 2; }
int wrist_of(int branch) { return branch % 2; }

bool within(const ScrewChain& chain, const ClosedSolution& one, const double* lower,
            const double* upper) {
  for (int k = 0; k < chain.size(); ++k) {
    const double value = one.values[static_cast<std::size_t>(k)];
    const double raised = value - 2 * kPi * std::floor((value - lower[k] + 1e-9) / (2 * kPi));
    if (raised > upper[k] + 1e-9) return false;
  }
  return true;
}

}  // namespace

SevenCentres::SevenCentres(const ScrewChain& chain, const Vector3& shoulder, const Vector3& wrist)
    : chain_(chain),
      shoulder_(shoulder),
      wrist_in_tip_(chain.tip.inverse() * wrist),
      arm_(geometry_of(chain, shoulder, wrist)) {
  wrist_base_in_tip_ = chain.tip.rotation.transpose() * arm_.wrist.axes.base;
}

std::optional<SevenCentres> SevenCentres::of(const ScrewChain& chain) {
  if (!chain.is_turning(7)) return std::nullopt;
  const auto shoulder = meeting_point(chain[0], chain[1], chain[2]);
  const auto wrist = meeting_point(chain[4], chain[5], chain[6]);
  if (!shoulder || !wrist) return std::nullopt;
  if (distance_from(chain[3], *shoulder) < kAxisTolerance ||
      distance_from(chain[3], *wrist) < kAxisTolerance)
    return std::nullopt;
  return SevenCentres(chain, *shoulder, *wrist);
}

ElbowQuestion SevenCentres::asked(const Pose& tip) const {
  constexpr double kOnLine = 1e-9;
  const Vector3 goal = tip * wrist_in_tip_ - shoulder_;
  ElbowQuestion out;
  out.squared_distance = goal.squaredNorm();
  const Vector3 line = out.squared_distance < kOnLine * kOnLine
                           ? Vector3::UnitX()
                           : Vector3(goal / std::sqrt(out.squared_distance));
  // The half plane that elbow angles count from.
  const auto is_aside = [&](const Vector3& v) {
    return across(line, v).squaredNorm() >= kOnLine * kOnLine;
  };
  const Vector3& first = chain_[0].axis;
  out.frame = frame_of(line, is_aside(first)              ? first
                             : is_aside(Vector3::UnitX()) ? Vector3(Vector3::UnitX())
                                                          : Vector3(Vector3::UnitY()));
  out.hand = product(tip.rotation, wrist_base_in_tip_);
  return out;
}

void SevenCentres::solve(const Pose& tip, double elbow_angle, ClosedSolutions& out) const {
  out.count = 0;
  ElbowSides sides;
  elbow_sides(arm_, asked(tip), elbow_angle, sides);
  for (int branch = 0; branch < SevenSweep::kBranches; ++branch) {
    const int value = value_of(branch);
    const int shoulder = ElbowCircles::at(value, false, shoulder_of(branch));
    const int wrist = ElbowCircles::at(value, true, wrist_of(branch));
    out.count +=
        join(sides.all[shoulder], sides.elbow_joint[shoulder], sides.is_straight[shoulder] != 0.0,
             sides.all[wrist], branch, out.all[static_cast<std::size_t>(out.count)]);
  }
}

void SevenCentres::sweep(const Pose& tip, std::span<const double> elbow_angles,
                         SevenSweep& out) const {
  constexpr auto kAngles = static_cast<std::size_t>(ElbowEight::kAngles);
  const std::size_t count = elbow_angles.size();
  out.count_ = static_cast<int>(count);
  out.eights_.resize((count + kAngles - 1) / kAngles);
  elbow_circles(arm_, asked(tip), out.circles_);
  for (std::size_t from = 0; from < count; from += kAngles) {
    ElbowEight& eight = out.eights_[from / kAngles];
    if (from + kAngles <= count) {
      elbow_eight(arm_, out.circles_, elbow_angles.data() + from, eight);
    } else {
      double last[kAngles] = {};
      std::copy(elbow_angles.begin() + static_cast<std::ptrdiff_t>(from), elbow_angles.end(), last);
      elbow_eight(arm_, out.circles_, last, eight);
    }
  }
}

bool SevenSweep::posture(int i, int branch, ClosedSolution& out) const {
  const int value = value_of(branch);
  const int lane = ElbowCircles::at(value, false, 0);
  if (circles_.is_there[lane] == 0.0) return false;
  const ElbowEight& eight = eights_[static_cast<std::size_t>(i / ElbowEight::kAngles)];
  const int at = i % ElbowEight::kAngles;
  return join(eight.shoulder[value][shoulder_of(branch)][at], circles_.elbow_joint[lane],
              circles_.is_straight[lane] != 0.0, eight.wrist[value][wrist_of(branch)][at], branch,
              out);
}

std::string SevenCentres::branch(const ClosedSolution& solution) const {
  std::array<Screw, 7> at;
  chain_.place(solution.values.data(), at);
  const auto sign = [](double bend) { return bend >= 0.0 ? "+" : "-"; };
  const auto bend = [&](std::size_t first) {
    return at[first + 1].axis.dot(at[first].axis.cross(at[first + 2].axis));
  };
  // The forearm against the upper arm, seen along the elbow's axis.
  const Vector3 upper = at[3].point - shoulder_;
  const Vector3 wrist = meeting_point(at[4], at[5], at[6]).value_or(at[4].point);
  const double elbow = at[3].axis.dot(upper.cross(wrist - at[3].point));
  return std::string(sign(bend(0))) + ", " + sign(elbow) + ", " + sign(bend(4));
}

std::vector<ElbowInterval> SevenCentres::feasible(const Pose& tip, const double* lower,
                                                  const double* upper) const {
  ElbowCircles circles;
  elbow_circles(arm_, asked(tip), circles);
  std::vector<double> ends{-kPi, kPi};
  for (int value = 0; value < 2; ++value) {
    const int lane = ElbowCircles::at(value, false, 0);
    if (circles.is_there[lane] == 0.0) continue;
    CircleEnds shoulder(circles, lane, arm_.shoulder.axes, ends);
    CircleEnds wrist(circles, ElbowCircles::at(value, true, 0), arm_.wrist.axes, ends);
    shoulder.add_reach();
    wrist.add_reach();
    for (const double* limit : {lower, upper}) {
      shoulder.add_limits(limit[0], limit[1], limit[2]);
      wrist.add_limits(limit[6], limit[5], limit[4]);
    }
  }
  std::sort(ends.begin(), ends.end());
  std::vector<ElbowInterval> out;
  for (std::size_t i = 0; i + 1 < ends.size(); ++i) {
    if (ends[i + 1] - ends[i] < 1e-9) continue;
    ClosedSolutions middle;
    solve(tip, 0.5 * (ends[i] + ends[i + 1]), middle);
    for (const ClosedSolution& one : middle) {
      if (!within(chain_, one, lower, upper)) continue;
      const auto before = std::find_if(out.begin(), out.end(), [&](const ElbowInterval& other) {
        return other.branch == one.branch && std::abs(other.to - ends[i]) < 1e-9;
      });
      if (before != out.end()) {
        before->to = ends[i + 1];
      } else {
        out.push_back({one.branch, ends[i], ends[i + 1]});
      }
    }
  }
  return out;
}

}  // namespace er
