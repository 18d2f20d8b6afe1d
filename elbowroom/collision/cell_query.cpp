#include "elbowroom/collision/cell_query.hpp"

#include <fmt/format.h>

#include "elbowroom/base/units.hpp"

namespace er {

PartPoses::PartPoses(const CellQuery& query)
    : links_(query.arm().links().size()),
      parts_(query.pairs().moving.size()),
      boxes_(query.pairs().moving.size()) {}

void PartPoses::place_at(const CellQuery& query, const PostureRef& posture) {
  link_poses(query.arm(), posture, links_);
  for (std::size_t i = 0; i < parts_.size(); ++i) {
    const MovingPart& part = query.pairs().moving[i];
    parts_[i] = links_[static_cast<std::size_t>(part.link)] * part.at;
    boxes_[i] = AlignedBox::of(part.shape, parts_[i]);
  }
}

CellQuery::CellQuery(Cell cell, std::string_view arm_name, const std::vector<OtherArm>& others) {
  Arm arm = cell.arm(arm_name);
  CheckedPairs pairs = find_checked_pairs(cell, arm, others);
  data_ =
      std::make_shared<const Data>(Data{std::move(cell), std::move(arm), std::move(pairs), others});
}

CellQuery CellQuery::with_contacts(const std::vector<MeantContact>& contacts) const {
  return {cell().with_contacts(contacts), arm().name(), data_->others};
}

CellQuery CellQuery::with_arm(const Arm& arm) const {
  return {cell().with_arm(arm), arm.name(), data_->others};
}

bool CellQuery::is_free(const PostureRef& posture, double clearance) const {
  PartPoses parts(*this);
  return is_free(posture, clearance, parts);
}

Nearest CellQuery::nearest(const PostureRef& posture) const {
  PartPoses parts(*this);
  return nearest(posture, parts);
}

bool CellQuery::is_free(const PostureRef& posture, double clearance, PartPoses& parts) const {
  const CheckedPairs& all = pairs();
  parts.place_at(*this, posture);
  for (std::size_t i = 0; i < all.moving.size(); ++i) {
    const MovingPart& part = all.moving[i];
    const Pose& pose = parts.pose(static_cast<int>(i));
    bool free = true;
    all.standing_tree.for_each_near(
        parts.box(static_cast<int>(i)), [&] { return clearance; },
        [&](int item) {
          const StandingPart& other = all.standing[static_cast<std::size_t>(item)];
          if (all.meant[i][static_cast<std::size_t>(other.body)]) return true;
          free = further_apart_than(clearance + other.margin, part.shape, pose, other.shape,
                                    other.pose);
          return free;
        });
    if (!free) return false;
  }
  for (const SelfPair& pair : all.self) {
    if (parts.box(pair.first).gap_to(parts.box(pair.second)) > clearance) continue;
    const MovingPart& a = all.moving[static_cast<std::size_t>(pair.first)];
    const MovingPart& b = all.moving[static_cast<std::size_t>(pair.second)];
    if (!further_apart_than(clearance, a.shape, parts.pose(pair.first), b.shape,
                            parts.pose(pair.second)))
      return false;
  }
  return true;
}

Nearest CellQuery::nearest(const PostureRef& posture, PartPoses& parts) const {
  const CheckedPairs& all = pairs();
  parts.place_at(*this, posture);
  Nearest best;
  const auto consider = [&](const Separation& found, int first, int second) {
    if (found.distance >= best.distance) return;
    best = {found.distance, first, second, found.point_a, found.point_b};
  };
  const auto reach = [&] { return std::max(best.distance, 0.0); };
  for (std::size_t i = 0; i < all.moving.size(); ++i) {
    const MovingPart& part = all.moving[i];
    const Pose& pose = parts.pose(static_cast<int>(i));
    all.standing_tree.for_each_near(parts.box(static_cast<int>(i)), reach, [&](int item) {
      const StandingPart& other = all.standing[static_cast<std::size_t>(item)];
      if (all.meant[i][static_cast<std::size_t>(other.body)]) return true;
      Separation found = distance(part.shape, pose, other.shape, other.pose);
      found.distance -= other.margin;
      consider(found, part.body, other.body);
      return true;
    });
  }
  for (const SelfPair& pair : all.self) {
    if (parts.box(pair.first).gap_to(parts.box(pair.second)) > reach()) continue;
    const MovingPart& a = all.moving[static_cast<std::size_t>(pair.first)];
    const MovingPart& b = all.moving[static_cast<std::size_t>(pair.second)];
    consider(distance(a.shape, parts.pose(pair.first), b.shape, parts.pose(pair.second)), a.body,
             b.body);
  }
  return best;
}

std::string CellQuery::describe(const Nearest& nearest) const {
  if (nearest.first < 0) return "nothing to meet";
  const bool deep = nearest.distance < 0.0;
  return fmt::format("{} and {}, {:.1f} mm {}", name(nearest.first), name(nearest.second),
                     to_mm(deep ? -nearest.distance : nearest.distance), deep ? "deep" : "apart");
}

std::string CellQuery::describe(const Nearest& nearest, double clearance) const {
  if (clearance <= 0.0) return describe(nearest);
  return fmt::format("{}, where {} is asked for", describe(nearest), text_length(clearance));
}

std::string CellQuery::fault_of(const PostureRef& posture, double clearance) const {
  if (std::string breach = arm().limit_breach(posture); !breach.empty()) return breach;
  return is_free(posture, clearance) ? "" : describe(nearest(posture), clearance);
}

}  // namespace er
