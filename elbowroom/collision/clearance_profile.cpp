#include "elbowroom/collision/clearance_profile.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

constexpr double kMostSamples = 1e6;

// The most that any two things close in per unit of a piece's parameter.
double closing_over(const CheckedPairs& pairs, const CurvePiece& piece) {
  Posture speed(static_cast<Eigen::Index>(piece.joints.size()));
  for (std::size_t k = 0; k < piece.joints.size(); ++k) {
    const Extremes of = extremes_of(derivative_of(piece.joints[k]), piece.duration);
    speed[static_cast<Eigen::Index>(k)] = std::max(of.high, -of.low);
  }
  double most = 0.0;
  for (const MovingPart& part : pairs.moving) most = std::max(most, part.lever.dot(speed));
  for (const SelfPair& pair : pairs.self) most = std::max(most, pair.lever.dot(speed));
  return most;
}

std::vector<int> checked_links(const CheckedPairs& pairs) {
  std::vector<int> links;
  for (const MovingPart& part : pairs.moving)
    if (links.empty() || links.back() != part.link) links.push_back(part.link);
  return links;
}

}  // namespace

std::pair<std::size_t, std::size_t> ClearanceProfile::least() const {
  std::pair<std::size_t, std::size_t> best{0, 0};
  for (std::size_t k = 0; k < nearest.size(); ++k)
    for (std::size_t i = 0; i < nearest[k].size(); ++i)
      if (nearest[k][i].distance < nearest[best.first][best.second].distance) best = {k, i};
  return best;
}

ClearanceProfile clearance_profile(const CellQuery& query, const JointCurve& curve, double within,
                                   const Supervision& supervision) {
  if (curve.pieces().empty() || curve.dof() != query.arm().dof())
    throw InputError(fmt::format("a motion of {} joints, where {} has {}", curve.dof(),
                                 query.arm().name(), query.arm().dof()));
  if (!(within > 0.0)) throw InputError("how far a profile may be off must be above zero");
  ClearanceProfile out;
  out.links = checked_links(query.pairs());
  out.nearest.resize(out.links.size());
  PartPoses parts(query);
  std::vector<Nearest> here(query.arm().links().size());
  JointState state;
  const auto look = [&](double at) {
    curve.at(at, state);
    query.nearest_of_links(state.position, parts, here);
    out.at.push_back(at);
    for (std::size_t k = 0; k < out.links.size(); ++k)
      out.nearest[k].push_back(here[static_cast<std::size_t>(out.links[k])]);
  };
  // Something that is nearest half-way between two looks was no more than half of what it can move
  // between them further away at one of them.
  double steps = 0.0;
  for (const CurvePiece& piece : curve.pieces())
    steps += std::ceil(0.5 * closing_over(query.pairs(), piece) * piece.duration / within);
  const double coarser = std::max(1.0, steps / kMostSamples);
  double begin = 0.0;
  for (const CurvePiece& piece : curve.pieces()) {
    const double closing = 0.5 * closing_over(query.pairs(), piece) * piece.duration;
    const double count = std::max(1.0, std::ceil(closing / (coarser * within)));
    out.between = std::max(out.between, closing / count);
    for (double i = 0.0; i < count; ++i) look(begin + piece.duration * i / count);
    begin += piece.duration;
    if (supervision.progress)
      supervision.progress(begin / curve.duration(), "measuring clearances");
    if (supervision.stop.stop_requested()) break;
  }
  look(std::min(begin, curve.duration()));
  return out;
}

JointCurve lines_through(const std::vector<Posture>& waypoints) {
  if (waypoints.size() < 2) throw InputError("a path needs at least two waypoints");
  std::vector<CurvePiece> pieces;
  for (std::size_t i = 0; i + 1 < waypoints.size(); ++i) {
    CurvePiece piece{.duration = 1.0, .joints = {}};
    for (Eigen::Index k = 0; k < waypoints[i].size(); ++k)
      piece.joints.push_back({waypoints[i][k], waypoints[i + 1][k] - waypoints[i][k]});
    pieces.push_back(std::move(piece));
  }
  return JointCurve(std::move(pieces));
}

}  // namespace er
