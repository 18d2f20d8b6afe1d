#include "elbowroom/collision/cell_query.hpp"

#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/input_error.hpp"
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
    boxes_[i] = aligned_box(part.shape, parts_[i]);
  }
}

void check_clearance(double clearance) {
  if (!(clearance >= 0.0) || !std::isfinite(clearance))
    throw InputError(
        fmt::format("the clearance must be zero or more, found {} mm", to_mm(clearance)));
}

CellQuery::CellQuery(Cell cell, std::string_view arm, const std::vector<OtherArm>& others)
    : CellQuery(std::move(cell), arm, others, std::make_shared<MapShelf>()) {}

CellQuery::CellQuery(Cell cell, std::string_view arm_name, const std::vector<OtherArm>& others,
                     std::shared_ptr<MapShelf> shelf) {
  Arm arm = cell.arm(arm_name);
  CheckedPairs pairs = find_checked_pairs(cell, arm, others);
  data_ = std::shared_ptr<const Data>(
      new Data{std::move(cell), std::move(arm), std::move(pairs), others, std::move(shelf)});
}

namespace {

// What stands nearest to the parts that no joint moves.
Nearest nearest_to_fixed_parts(const Arm& arm, const CheckedPairs& pairs) {
  Nearest best;
  const std::vector<Pose> links = link_poses(arm, Posture::Zero(arm.dof()));
  for (std::size_t i = 0; i < pairs.moving.size(); ++i) {
    const MovingPart& part = pairs.moving[i];
    if (!part.lever.isZero(0.0)) continue;
    const Pose pose = links[static_cast<std::size_t>(part.link)] * part.at;
    for (const StandingPart& other : pairs.standing) {
      if (pairs.meant[i][static_cast<std::size_t>(other.body)]) continue;
      const Nearest here = Nearest::of(distance(part.shape, pose, other.shape, other.pose),
                                       part.body, other.body, other.margin);
      if (here.distance < best.distance) best = here;
    }
  }
  return best;
}

}  // namespace

const CellQuery::Data::ForMoves& CellQuery::for_moves() const {
  std::call_once(data_->made, [&] {
    data_->for_moves = std::make_unique<const Data::ForMoves>(Data::ForMoves{
        covers_of(arm(), pairs(), *data_->shelf), nearest_to_fixed_parts(arm(), pairs())});
  });
  return *data_->for_moves;
}

const Covers& CellQuery::covers() const { return for_moves().covers; }
const Nearest& CellQuery::nearest_to_fixed() const { return for_moves().to_fixed; }

CellQuery CellQuery::with_contacts(const std::vector<MeantContact>& contacts) const {
  return {cell().with_contacts(contacts), arm().name(), data_->others, data_->shelf};
}

CellQuery CellQuery::with_cell(const Cell& cell) const {
  return {cell, arm().name(), data_->others, data_->shelf};
}

CellQuery CellQuery::with_arm(const Arm& arm) const {
  return {cell().with_arm(arm), arm.name(), data_->others, data_->shelf};
}

CellQuery CellQuery::with_others(const Cell& cell, std::string_view arm,
                                 const std::vector<OtherArm>& others) const {
  return {cell, arm, others, data_->shelf};
}

CellQuery CellQuery::between_arms(Cell cell, std::string_view arm) {
  CellDescription few = cell.description();
  few.fixtures.clear();
  few.zones.clear();
  std::erase_if(few.arms, [&](const Arm& one) { return one.name() != arm; });
  few.contacts.clear();
  std::vector<MeantContact> contacts = cell.contacts();
  CellQuery all(Cell::build(std::move(few)).with_known_contacts(contacts), arm);
  auto data = std::shared_ptr<Data>(
      new Data{all.cell(), all.arm(), all.pairs(), {}, std::make_shared<MapShelf>()});
  const auto of = [&](int part) {
    const int link = data->pairs.moving[static_cast<std::size_t>(part)].link;
    return data->arm.links()[static_cast<std::size_t>(link)].arm;
  };
  std::erase_if(data->pairs.self,
                [&](const SelfPair& pair) { return of(pair.first) == of(pair.second); });
  all.data_ = std::move(data);
  return all;
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
  parts.place_at(*this, posture);
  for (std::size_t i = 0; i < pairs().moving.size(); ++i)
    if (!part_is_free(i, clearance, parts)) return false;
  for (const SelfPair& pair : pairs().self)
    if (!pair_is_free(pair, clearance, parts)) return false;
  return true;
}

bool CellQuery::part_is_free(std::size_t part, double clearance, const PartPoses& parts) const {
  const MovingPart& moving = pairs().moving[part];
  const Pose& pose = parts.pose(static_cast<int>(part));
  bool free = true;
  pairs().standing_tree.for_each_near(
      parts.box(static_cast<int>(part)), [&] { return clearance; },
      [&](int item) {
        const StandingPart& other = pairs().standing[static_cast<std::size_t>(item)];
        if (pairs().meant[part][static_cast<std::size_t>(other.body)]) return true;
        free = further_apart_than(clearance + other.margin, moving.shape, pose, other.shape,
                                  other.pose);
        return free;
      });
  return free;
}

bool CellQuery::pair_is_free(const SelfPair& pair, double clearance, const PartPoses& parts) const {
  if (parts.box(pair.first).gap_to(parts.box(pair.second)) > clearance) return true;
  const MovingPart& a = pairs().moving[static_cast<std::size_t>(pair.first)];
  const MovingPart& b = pairs().moving[static_cast<std::size_t>(pair.second)];
  return further_apart_than(clearance, a.shape, parts.pose(pair.first), b.shape,
                            parts.pose(pair.second));
}

// Gives every pair of parts that may be nearer than `reach` of its links (the second is -1 for what
// stands) to `consider`.
template <class Reach, class Consider>
void CellQuery::look(const PostureRef& posture, PartPoses& parts, Against against, Reach reach,
                     Consider consider) const {
  const CheckedPairs& all = pairs();
  parts.place_at(*this, posture);
  for (std::size_t i = 0; against.surroundings && i < all.moving.size(); ++i) {
    const MovingPart& part = all.moving[i];
    const Pose& pose = parts.pose(static_cast<int>(i));
    const auto near = [&] { return std::max(reach(part.link, -1), 0.0); };
    all.standing_tree.for_each_near(parts.box(static_cast<int>(i)), near, [&](int item) {
      const StandingPart& other = all.standing[static_cast<std::size_t>(item)];
      if (all.meant[i][static_cast<std::size_t>(other.body)]) return true;
      const Separation found = distance(part.shape, pose, other.shape, other.pose);
      consider(part.link, -1, Nearest::of(found, part.body, other.body, other.margin));
      return true;
    });
  }
  if (!against.itself) return;
  for (const SelfPair& pair : all.self) {
    const MovingPart& a = all.moving[static_cast<std::size_t>(pair.first)];
    const MovingPart& b = all.moving[static_cast<std::size_t>(pair.second)];
    if (parts.box(pair.first).gap_to(parts.box(pair.second)) > std::max(reach(a.link, b.link), 0.0))
      continue;
    const Separation found =
        distance(a.shape, parts.pose(pair.first), b.shape, parts.pose(pair.second));
    consider(a.link, b.link, Nearest::of(found, a.body, b.body));
  }
}

Nearest CellQuery::nearest(const PostureRef& posture, PartPoses& parts, Against against) const {
  Nearest best;
  look(
      posture, parts, against, [&](int, int) { return best.distance; },
      [&](int, int, const Nearest& found) {
        if (found.distance < best.distance) best = found;
      });
  return best;
}

void CellQuery::nearest_of_links(const PostureRef& posture, PartPoses& parts,
                                 std::span<Nearest> out, Against against) const {
  std::fill(out.begin(), out.end(), Nearest{});
  const auto at = [&](int link) -> Nearest& { return out[static_cast<std::size_t>(link)]; };
  look(
      posture, parts, against,
      [&](int a, int b) {
        return b < 0 ? at(a).distance : std::max(at(a).distance, at(b).distance);
      },
      [&](int a, int b, const Nearest& found) {
        if (found.distance < at(a).distance) at(a) = found;
        if (b >= 0 && found.distance < at(b).distance)
          at(b) = {found.distance, found.second, found.first, found.point_second,
                   found.point_first};
      });
}

std::string CellQuery::describe(const Nearest& nearest) const { return describe(nearest, 0.0); }

std::string CellQuery::describe(const Nearest& nearest, double clearance) const {
  if (nearest.first < 0) return "nothing to meet";
  const bool deep = nearest.distance < 0.0;
  const bool is_asked = clearance > 0.0;
  const std::string asked = text_length(clearance);
  const std::string length = is_asked && !deep ? text_length_unlike(nearest.distance, clearance)
                                               : text_length(std::abs(nearest.distance));
  std::string text = fmt::format("{} and {}, {} {}", name(nearest.first), name(nearest.second),
                                 length, deep ? "deep" : "apart");
  if (is_asked)
    text += fmt::format(", where {}{} of clearance is asked for",
                        !deep && length == asked ? "more than " : "", asked);
  return text;
}

std::string CellQuery::fault_of(const PostureRef& posture, double clearance) const {
  if (std::string breach = arm().limit_breach(posture); !breach.empty()) return breach;
  return is_free(posture, clearance) ? "" : describe(nearest(posture), clearance);
}

}  // namespace er
