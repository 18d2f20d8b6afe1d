#include "elbowroom/reach/seven_centres.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/elbow_sweep.hpp"
#include "elbowroom/reach/subproblems.hpp"

namespace er {
namespace {

constexpr double kPi = std::numbers::pi;

// A rotation whose first axis is `along` and whose second lies towards `aside`.
Matrix3 frame_of(const Vector3& along, const Vector3& aside) {
  Matrix3 out;
  out.col(0) = along.normalized();
  out.col(1) = across(out.col(0), aside).normalized();
  out.col(2) = out.col(0).cross(out.col(1));
  return out;
}

// Angles at which a direction, turned about `line` from where `at_zero` puts it, has a given height
// along `h`.
void add_crossings(const Vector3& line, const Vector3& turned, const Vector3& h, double height,
                   std::vector<double>& angles) {
  const TwoAngles two = turns_to_height(line, turned, h, height);
  for (int i = 0; i < two.count && !two.any; ++i) angles.push_back(two.angle[i]);
}

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
      wrist_(wrist),
      shoulder_axes_(chain[0], chain[1], chain[2]),
      wrist_axes_(chain[4], chain[5], chain[6]) {
  const Screw& bend = chain[3];
  elbow_ = bend.point + bend.axis.dot(shoulder - bend.point) * bend.axis;
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

int SevenCentres::frames(const Pose& moved, std::array<Frame, 2>& out) const {
  const Vector3 goal = moved * wrist_ - shoulder_;
  const Screw& bend = chain_[3];
  const TwoAngles bends =
      turns_to_distance(bend.axis, wrist_ - bend.point, shoulder_ - bend.point, goal.norm());
  // The half plane that elbow angles count from.
  Vector3 aside = chain_[0].axis;
  if (goal.cross(aside).norm() < 1e-9 * goal.norm()) aside = Vector3::UnitX();
  const Matrix3 goal_frame = frame_of(goal, aside);
  for (int i = 0; i < bends.count; ++i) {
    const Pose turn = motion_of(bend, bends.angle[i]);
    const Vector3 wrist_now = turn * wrist_ - shoulder_;
    Vector3 elbow = elbow_ - shoulder_;
    const bool straight = wrist_now.cross(elbow).norm() < 1e-9 * wrist_now.norm();
    if (straight) elbow = bend.axis;
    out[static_cast<std::size_t>(i)] = {bends.angle[i], turn.rotation,
                                        goal_frame * frame_of(wrist_now, elbow).transpose(),
                                        goal_frame.col(0), straight};
  }
  return bends.count;
}

ElbowCircle SevenCentres::circle(const Frame& frame, const Pose& moved) const {
  return {frame.line,
          frame.at_zero * shoulder_axes_.third,
          frame.at_zero * shoulder_axes_.pointer,
          moved.rotation * wrist_axes_.third,
          moved.rotation * wrist_axes_.pointer,
          (frame.at_zero * frame.elbow).transpose()};
}

void SevenCentres::solve(const Pose& tip, double elbow_angle, ClosedSolutions& out) const {
  out.count = 0;
  const Pose moved = chain_.motion_to(tip);
  std::array<Frame, 2> all;
  const int many = frames(moved, all);
  if (many == 0) return;
  const ElbowCircle circles[2] = {circle(all[0], moved), circle(all[many == 2 ? 1 : 0], moved)};
  ElbowSides sides;
  elbow_sides(circles, shoulder_axes_, wrist_axes_, elbow_angle, sides);
  for (int f = 0; f < many; ++f) {
    const ThreeOfSide* of = sides.all + ElbowSides::at(f, false, 0);
    add(all[static_cast<std::size_t>(f)], {of, of + 1}, {of + 2, of + 3}, out);
  }
}

void SevenCentres::solve(const Pose& tip, const double* elbow_angles, int count,
                         ClosedSolutions* out) const {
  for (int i = 0; i < count; ++i) out[i].count = 0;
  const Pose moved = chain_.motion_to(tip);
  std::array<Frame, 2> all;
  const int many = frames(moved, all);
  for (int f = 0; f < many; ++f) {
    const Frame& frame = all[static_cast<std::size_t>(f)];
    const ElbowCircle circle = this->circle(frame, moved);
    for (int from = 0; from < count; from += ElbowBranches::kAngles) {
      const int angles = std::min(ElbowBranches::kAngles, count - from);
      double eight[ElbowBranches::kAngles];
      for (int i = 0; i < ElbowBranches::kAngles; ++i)
        eight[i] = elbow_angles[from + std::min(i, angles - 1)];
      ElbowBranches branches;
      elbow_branches(circle, shoulder_axes_, wrist_axes_, eight, branches);
      for (int i = 0; i < angles; ++i)
        add(frame, {&branches.shoulder[0][i], &branches.shoulder[1][i]},
            {&branches.wrist[0][i], &branches.wrist[1][i]}, out[from + i]);
    }
  }
}

void SevenCentres::add(const Frame& frame, const ThreeOfSide* const (&shoulders)[2],
                       const ThreeOfSide* const (&wrists)[2], ClosedSolutions& out) {
  int count = out.count;
  for (const ThreeOfSide* shoulder : shoulders) {
    if (shoulder->kind == ThreeOfSide::kNone) continue;
    for (const ThreeOfSide* wrist : wrists) {
      if (wrist->kind == ThreeOfSide::kNone) continue;
      ClosedSolution& one = out.all[static_cast<std::size_t>(count++)];
      one.values = {shoulder->angles[0], shoulder->angles[1], shoulder->angles[2],
                    frame.elbow_joint,   wrist->angles[0],    wrist->angles[1],
                    wrist->angles[2]};
      one.free_joint = shoulder->kind == ThreeOfSide::kFirstIsFree ? 0
                       : wrist->kind == ThreeOfSide::kFirstIsFree  ? 4
                       : frame.straight                            ? 2
                                                                   : -1;
    }
  }
  out.count = count;
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
  std::vector<ElbowInterval> out;
  const Pose moved = chain_.motion_to(tip);
  std::array<Frame, 2> all;
  const int count = frames(moved, all);
  std::vector<double> ends{-kPi, kPi};
  const auto axis = [&](int i) -> const Vector3& { return chain_[i].axis; };
  for (int f = 0; f < count; ++f) {
    const Frame& frame = all[static_cast<std::size_t>(f)];
    // R1 R2 R3 = turn(angle) * at_zero. With one of the three at an end of its range, the two
    // others keep a scalar product; so for the last three, with the hand's turn in place of the
    // whole.
    const Matrix3& elbow = frame.elbow;
    const Vector3& line = frame.line;
    for (const double* limit : {lower, upper}) {
      if (std::isfinite(limit[0]))  // axis 2 . R1^T U axis 3 is what it is at zero
        add_crossings(line, frame.at_zero * axis(2), rotation_about(axis(0), limit[0]) * axis(1),
                      axis(1).dot(axis(2)), ends);
      if (std::isfinite(limit[1]))
        add_crossings(line, frame.at_zero * axis(2), axis(0),
                      axis(0).dot(rotation_about(axis(1), limit[1]) * axis(2)), ends);
      if (std::isfinite(limit[2]))  // axis 1 . U R3^T axis 2
        add_crossings(line,
                      frame.at_zero * (rotation_about(axis(2), limit[2]).transpose() * axis(1)),
                      axis(0), axis(0).dot(axis(1)), ends);
      // R5 R6 R7 = elbow^T U^T W, so W (R5 R6 R7)^T = U elbow.
      const Matrix3 with_elbow = frame.at_zero * elbow;
      if (std::isfinite(limit[4]))  // W axis 7 against U elbow R5 axis 6
        add_crossings(line, with_elbow * (rotation_about(axis(4), limit[4]) * axis(5)),
                      moved.rotation * axis(6), axis(5).dot(axis(6)), ends);
      if (std::isfinite(limit[5]))
        add_crossings(line, with_elbow * axis(4), moved.rotation * axis(6),
                      axis(4).dot(rotation_about(axis(5), limit[5]) * axis(6)), ends);
      if (std::isfinite(limit[6]))  // U elbow axis 5 against W R7^T axis 6
        add_crossings(line, with_elbow * axis(4),
                      moved.rotation * (rotation_about(axis(6), limit[6]).transpose() * axis(5)),
                      axis(4).dot(axis(5)), ends);
    }
  }
  std::sort(ends.begin(), ends.end());
  for (std::size_t i = 0; i + 1 < ends.size(); ++i) {
    if (ends[i + 1] - ends[i] < 1e-9) continue;
    ClosedSolutions middle;
    solve(tip, 0.5 * (ends[i] + ends[i + 1]), middle);
    for (int branch = 0; branch < middle.count; ++branch) {
      if (!within(chain_, middle.all[static_cast<std::size_t>(branch)], lower, upper)) continue;
      const auto before = std::find_if(out.begin(), out.end(), [&](const ElbowInterval& one) {
        return one.branch == branch && std::abs(one.to - ends[i]) < 1e-9;
      });
      if (before != out.end()) {
        before->to = ends[i + 1];
      } else {
        out.push_back({branch, ends[i], ends[i + 1]});
      }
    }
  }
  return out;
}

}  // namespace er
