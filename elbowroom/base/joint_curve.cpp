#include "elbowroom/base/joint_curve.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cassert>
#include <cmath>

#include "elbowroom/base/input_error.hpp"

namespace er {

void state_in(const CurvePiece& piece, double time, JointState& out) {
  const auto joints = static_cast<Eigen::Index>(piece.joints.size());
  for (Posture* vector : {&out.position, &out.velocity, &out.acceleration, &out.jerk})
    vector->resize(joints);
  for (Eigen::Index k = 0; k < joints; ++k) {
    const auto [value, first, second, third] =
        all_at(piece.joints[static_cast<std::size_t>(k)], time);
    out.position[k] = value;
    out.velocity[k] = first;
    out.acceleration[k] = second;
    out.jerk[k] = third;
  }
}

CurvePiece slower(CurvePiece piece, double factor) {
  piece.duration *= factor;
  for (Quintic& c : piece.joints) {
    double scale = 1.0;
    for (double& coefficient : c) {
      coefficient *= scale;
      scale /= factor;
    }
  }
  return piece;
}

Posture largest_over(const CurvePiece& piece, int derivative) {
  Posture largest(static_cast<Eigen::Index>(piece.joints.size()));
  for (std::size_t k = 0; k < piece.joints.size(); ++k) {
    Quintic of = piece.joints[k];
    for (int i = 0; i < derivative; ++i) of = derivative_of(of);
    const Extremes extremes = extremes_of(of, piece.duration);
    largest[static_cast<Eigen::Index>(k)] = std::max(extremes.high, -extremes.low);
  }
  return largest;
}

JointCurve::JointCurve(std::vector<CurvePiece> pieces) : pieces_(std::move(pieces)) {
  starts_.reserve(pieces_.size() + 1);
  double time = 0.0;
  for (const CurvePiece& piece : pieces_) {
    if (!(piece.duration > 0.0) || !std::isfinite(piece.duration))
      throw InputError(fmt::format("a stretch of a curve must last longer than zero, found {} s",
                                   piece.duration));
    if (piece.joints.size() != pieces_.front().joints.size())
      throw InputError("the stretches of a curve have different numbers of joints");
    starts_.push_back(time);
    time += piece.duration;
  }
  if (!pieces_.empty()) starts_.push_back(time);
}

void JointCurve::at(double time, JointState& out) const {
  assert(!pieces_.empty());
  time = std::clamp(time, 0.0, duration());
  const auto after = std::upper_bound(starts_.begin(), starts_.end() - 1, time);
  const auto index = static_cast<std::size_t>(after - starts_.begin()) - 1;
  const CurvePiece& piece = pieces_[std::min(index, pieces_.size() - 1)];
  state_in(piece, std::min(time - starts_[index], piece.duration), out);
}

JointState JointCurve::at(double time) const {
  JointState state;
  at(time, state);
  return state;
}

JointCurve JointCurve::stretched(double factor) const {
  std::vector<CurvePiece> pieces;
  pieces.reserve(pieces_.size());
  for (const CurvePiece& piece : pieces_) pieces.push_back(slower(piece, factor));
  return JointCurve(std::move(pieces));
}

JointCurve JointCurve::reversed() const {
  std::vector<CurvePiece> back;
  for (std::size_t i = pieces_.size(); i-- > 0;) {
    CurvePiece piece = pieces_[i];
    for (Quintic& c : piece.joints) {
      c = shifted(c, piece.duration);
      for (const std::size_t odd : {1U, 3U, 5U}) c[odd] = -c[odd];
    }
    back.push_back(std::move(piece));
  }
  return JointCurve(std::move(back));
}

JointCurve JointCurve::cut(double from, double to) const {
  if (!(from >= 0.0) || !(to > from) || !(to <= duration() * (1.0 + 1e-12)))
    throw InputError(
        fmt::format("a curve of {:g} cannot be cut from {:g} to {:g}", duration(), from, to));
  std::vector<CurvePiece> kept;
  for (std::size_t i = 0; i < pieces_.size(); ++i) {
    const double begin = std::max(from, starts_[i]);
    const double end = std::min(to, starts_[i + 1]);
    if (end - begin <= 1e-12 * duration()) continue;
    CurvePiece piece = pieces_[i];
    piece.duration = end - begin;
    for (Quintic& c : piece.joints) c = shifted(c, begin - starts_[i]);
    kept.push_back(std::move(piece));
  }
  return JointCurve(std::move(kept));
}

JointCurve JointCurve::joints(int first, int count) const {
  assert(first >= 0 && count > 0 && first + count <= dof());
  std::vector<CurvePiece> few;
  for (const CurvePiece& piece : pieces_)
    few.push_back(
        {piece.duration, {piece.joints.begin() + first, piece.joints.begin() + first + count}});
  return JointCurve(std::move(few));
}

JointCurve JointCurve::then(const JointCurve& next) const {
  if (pieces_.empty()) return next;
  if (next.pieces_.empty()) return *this;
  const Posture jump = next.at(0.0).position - at(duration()).position;
  if (jump.cwiseAbs().maxCoeff() > 1e-6)
    throw InputError(
        fmt::format("the second curve begins {:.3g} rad (or m) from where the first "
                    "ends",
                    jump.cwiseAbs().maxCoeff()));
  std::vector<CurvePiece> all = pieces_;
  all.insert(all.end(), next.pieces_.begin(), next.pieces_.end());
  return JointCurve(std::move(all));
}

JointCurve at_rest(const Posture& posture, double duration) {
  CurvePiece piece{duration, {}};
  for (const double value : posture) piece.joints.push_back({value});
  return JointCurve({std::move(piece)});
}

namespace {

constexpr double kSameTime = 1e-12;  // of the whole

}  // namespace

JointCurve side_by_side(const std::vector<StartedCurve>& curves, double until) {
  std::vector<double> times{0.0, until};
  for (const StartedCurve& one : curves) {
    if (one.curve.pieces().empty() || !(one.begins >= 0.0) ||
        !(one.begins + one.curve.duration() <= until * (1.0 + kSameTime)))
      throw InputError("curves side by side begin at zero or later and end before they all do");
    double time = one.begins;
    times.push_back(time);
    for (const CurvePiece& piece : one.curve.pieces()) times.push_back(time += piece.duration);
  }
  std::sort(times.begin(), times.end());
  std::vector<CurvePiece> pieces;
  double from = 0.0;
  for (const double to : times) {
    if (to > until || to - from <= kSameTime * until) continue;
    CurvePiece piece{to - from, {}};
    for (const StartedCurve& one : curves) {
      const double middle = 0.5 * (from + to) - one.begins;
      const bool moves = middle > 0.0 && middle < one.curve.duration();
      const JointCurve own = moves ? one.curve.cut(std::max(from - one.begins, 0.0),
                                                   std::min(to - one.begins, one.curve.duration()))
                                   : at_rest(one.curve.at(middle).position, piece.duration);
      const Quintics& joints = own.pieces().front().joints;
      piece.joints.append(joints.begin(), joints.end());
    }
    pieces.push_back(std::move(piece));
    from = to;
  }
  return JointCurve(std::move(pieces));
}

JointCurve lines_through(const std::vector<Posture>& waypoints) {
  if (waypoints.size() < 2) throw InputError("a path needs at least two waypoints");
  std::vector<CurvePiece> pieces;
  for (std::size_t i = 0; i + 1 < waypoints.size(); ++i) {
    CurvePiece piece(1.0, {});
    for (Eigen::Index k = 0; k < waypoints[i].size(); ++k)
      piece.joints.push_back({waypoints[i][k], waypoints[i + 1][k] - waypoints[i][k]});
    pieces.push_back(std::move(piece));
  }
  return JointCurve(std::move(pieces));
}

}  // namespace er
