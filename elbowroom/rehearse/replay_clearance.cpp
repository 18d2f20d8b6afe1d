#include "elbowroom/rehearse/replay_clearance.hpp"

#include <algorithm>

#include "elbowroom/collision/distance.hpp"

namespace er {

ReplayClearance::ReplayClearance(const Cell& cell, const Arm& arm)
    : cell_(cell), arm_(arm), all_(parts_of(cell, arm)), links_(arm.links().size()) {
  for (const CellParts::Item& item : all_.items) poses_.push_back(item.at);
}

ReplayClearance::ReplayClearance(const Cell& cell, const Arm& arm, const MeantContact& pair)
    : ReplayClearance(cell, arm) {
  all_.pairs.clear();
  for (std::size_t i = 0; i < all_.items.size(); ++i)
    for (std::size_t k = 0; k < all_.items.size(); ++k)
      if (all_.items[i].body == pair.first && all_.items[k].body == pair.second)
        all_.pairs.emplace_back(i, k);
}

void ReplayClearance::stand(int other, const PostureRef& posture) {
  const Arm& arm = cell_.arms()[static_cast<std::size_t>(other)];
  const std::vector<Pose> links = link_poses(arm, posture);
  for (std::size_t i = 0; i < all_.items.size(); ++i)
    if (all_.items[i].other == other)
      poses_[i] = links[static_cast<std::size_t>(all_.items[i].other_link)] * all_.items[i].in_body;
}

ReplayClearance::Result ReplayClearance::nearest(const PostureRef& posture, double below) {
  link_poses(arm_, posture, links_);
  for (std::size_t i = 0; i < all_.items.size(); ++i)
    if (all_.items[i].link >= 0)
      poses_[i] = links_[static_cast<std::size_t>(all_.items[i].link)] * all_.items[i].at;
  Result best{below, {}};
  std::pair<std::size_t, std::size_t> pair{0, 0};
  for (const auto& [i, k] : all_.pairs) {
    const double centres = (poses_[i].position - poses_[k].position).norm();
    const double margin = all_.items[i].margin + all_.items[k].margin;
    if (centres - all_.items[i].radius - all_.items[k].radius - margin >= best.distance) continue;
    const double worth = std::max(best.distance + margin, 0.0);
    const Separation apart =
        distance_within(worth, all_.items[i].shape, poses_[i], all_.items[k].shape, poses_[k]);
    if (apart.lower_bound > worth) continue;
    const double d = apart.distance - margin;
    if (d >= best.distance) continue;
    best.distance = d;
    pair = {i, k};
  }
  if (best.distance < below)
    best.pair = all_.items[pair.first].body + ", " + all_.items[pair.second].body;
  return best;
}

}  // namespace er
