#include "elbowroom/collision/clearance_profile.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

constexpr double kMostSamples = 1e6;

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
  const auto half_closing = [&](const CurvePiece& piece) {
    return 0.5 * piece.duration * most_closing(query.pairs(), largest_over(piece, 1));
  };
  double steps = 0.0;
  for (const CurvePiece& piece : curve.pieces()) steps += std::ceil(half_closing(piece) / within);
  const double coarser = std::max(1.0, steps / kMostSamples);
  double begin = 0.0;
  for (const CurvePiece& piece : curve.pieces()) {
    const double closing = half_closing(piece);
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

}  // namespace er
