#include "elbowroom/collision/cover_scan.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "elbowroom/base/float_rounding.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/collision/cover_scan.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include "elbowroom/collision/lane_boxes-inl.hpp"
#include "elbowroom/collision/obstacle_lanes-inl.hpp"
#include "elbowroom/kinematics/lane_tree-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

// Balls that are clear in the middle by less than this share of what they may move would have to be
// halved many times, as where something slides along something: exact shapes see that at once.
constexpr float kWorthHalving = 0.125F;
constexpr int kMostLeaves = 96;  // of one part that are looked at with exact distances at once
constexpr int kMostNear = 64;    // obstacles near one part

void store_frame(const PackPose& frame, std::array<std::array<float, kLanes>, 12>& to, int at) {
  const hn::Rebind<float, Tag> floats;
  const PackVector* columns[] = {&frame.x, &frame.y, &frame.z, &frame.position};
  for (std::size_t c = 0; c < 4; ++c) {
    hn::StoreU(hn::DemoteTo(floats, columns[c]->x), floats, to[3 * c].data() + at);
    hn::StoreU(hn::DemoteTo(floats, columns[c]->y), floats, to[3 * c + 1].data() + at);
    hn::StoreU(hn::DemoteTo(floats, columns[c]->z), floats, to[3 * c + 2].data() + at);
  }
}

void place_joints(const LaneTree& tree, CoverScan& scan) {
  for (int at = 0; at < kLanes; at += kPackSize) {
    PackPose frames[kMaxMovingLinks];
    for (std::size_t j = 0; j < tree.joints.size(); ++j) {
      const LaneTree::Joint& joint = tree.joints[j];
      const Pack value = load(scan.middle[static_cast<std::size_t>(joint.entry)].data() + at);
      frames[j] = placed_joint(joint, frames, value);
      store_frame(frames[j], scan.frames[j + 1], at);
    }
  }
}

struct FloatFrame {
  FloatVector x;
  FloatVector y;
  FloatVector z;
  FloatVector position;
};

HWY_INLINE FloatFrame load_frame(const CoverScan& scan, int joint, int at) {
  const auto& from = scan.frames[static_cast<std::size_t>(joint + 1)];
  const auto column = [&](std::size_t c) HWY_ATTR {
    return FloatVector{load(from[c].data() + at), load(from[c + 1].data() + at),
                       load(from[c + 2].data() + at)};
  };
  return {column(0), column(3), column(6), column(9)};
}

HWY_INLINE FloatVector load_vector(const std::array<std::array<float, kLanes>, 3>& from, int at) {
  return {load(from[0].data() + at), load(from[1].data() + at), load(from[2].data() + at)};
}

HWY_INLINE void store_vector(const FloatVector& v, std::array<std::array<float, kLanes>, 3>& to,
                             int at) {
  store(v.x, to[0].data() + at);
  store(v.y, to[1].data() + at);
  store(v.z, to[2].data() + at);
}

// How the frames of all joints move.
void find_motions(const LaneTree& tree, CoverScan& scan, int at) {
  for (std::size_t j = 0; j < tree.joints.size(); ++j) {
    const LaneTree::Joint& joint = tree.joints[j];
    CoverScan::JointMotion& out = scan.motions[j];
    const FloatFrame frame = load_frame(scan, static_cast<int>(j), at);
    const FloatVector along = pack(out.step) * frame.z;
    const FloatPack zero = pack(0.0F);
    FloatVector turn = {zero, zero, zero};
    FloatVector velocity = turn;
    if (joint.before >= 0) {
      const CoverScan::JointMotion& before = scan.motions[static_cast<std::size_t>(joint.before)];
      turn = load_vector(before.turn, at);
      velocity = load_vector(before.velocity, at);
    }
    if (joint.turn_ratio != 0.0) {
      turn = turn + along;
      velocity = velocity + cross(frame.position, along);
    } else {
      velocity = velocity + along;
    }
    store_vector(turn, out.turn, at);
    store_vector(velocity, out.velocity, at);
  }
}

HWY_INLINE FloatVector centre_of(const Covers& covers, const FloatFrame& frame, int ball) {
  const auto i = static_cast<std::size_t>(ball);
  return frame.position + pack(covers.x[i]) * frame.x + pack(covers.y[i]) * frame.y +
         pack(covers.z[i]) * frame.z;
}

HWY_INLINE FloatPack map_at(const SpaceMap& map, const FloatVector& point) {
  const hn::Rebind<std::int32_t, FloatTag> ints;
  const auto reach = static_cast<float>(map.reach());
  const FloatPack cells = pack(static_cast<float>(SpaceMap::kSide) / (2.0F * reach));
  const auto index = [&](FloatPack along) HWY_ATTR {
    const FloatPack cell = (along + pack(reach)) * cells;
    return hn::ConvertTo(ints, largest(least(cell, pack(SpaceMap::kSide - 0.5F)), pack(0.0F)));
  };
  const auto place = hn::ShiftLeft<2 * SpaceMap::kSideBits>(index(point.x)) +
                     hn::ShiftLeft<SpaceMap::kSideBits>(index(point.y)) + index(point.z);
  return hn::GatherIndex(FloatTag(), map.cells(), place);
}

// A leaf that is not clear by the map.
struct Leaf {
  FloatVector centre;
  FloatPack keep;        // the distance that it has to keep in the middle
  FloatPack travel;      // and beyond that, for the whole interval
  FloatVector velocity;  // of the centre in the middle
  FloatPack speed;       // its size, or more
  float bend;            // times half an interval, squared: how far joints that turn bend its way
  FloatPack touch;       // what is nearer than this to the centre is too near for certain
  FloatMask lanes;
};

// One pack of lanes of a scan.
class PackScan {
 public:
  PackScan(const Covers& covers, const CheckedPairs& checked, CoverScan& scan, CoverScan::Find find,
           int at)
      : covers_(covers),
        checked_(checked),
        scan_(scan),
        places_(find == CoverScan::Find::blocked_place),
        at_(at),
        half_(places_ ? pack(0.0F) : load(scan.half.data() + at)) {}

  void look_at_part(std::size_t part, Leaf* leaves) {
    const Covers::PartCover& cover = covers_.parts[part];
    store_vector(centre_of(covers_, load_frame(scan_, cover.joint, at_), cover.first),
                 scan_.roots[part], at_);
    if (const unsigned lanes = lanes_of(scan_.parts[part]))
      look_around(part, mask_of(lanes), leaves);
  }

  // By their roots; most are far from each other.
  HWY_INLINE void look_at_pair(std::size_t pair) {
    const unsigned lanes = lanes_of(scan_.pairs[pair]);
    if (lanes == 0) return;
    const Covers::PairCover& both = covers_.pairs[pair];
    const FloatVector between = root_of(both.first) - root_of(both.second);
    const FloatPack keep = pack(both.keep + scan_.clearance + scan_.pair_tube[pair]) +
                           pack(scan_.pair_travel[pair]) * half_;
    const FloatMask near = hn::And(mask_of(lanes), dot(between, between) <= keep * keep);
    if (!none(near)) look_between(pair, near);
  }

 private:
  [[nodiscard]] unsigned lanes_of(unsigned bits) const {
    return (bits >> at_) & ((1U << kFloatPackSize) - 1U);
  }

  HWY_INLINE FloatVector root_of(int part) const {
    return load_vector(scan_.roots[static_cast<std::size_t>(part)], at_);
  }

  HWY_INLINE Leaf leaf_at(const FloatVector& centre, int ball, FloatMask lanes) const {
    const auto i = static_cast<std::size_t>(ball);
    Leaf leaf;
    leaf.centre = centre;
    leaf.keep = pack(covers_.radius[i] + covers_.margin + scan_.clearance + scan_.ball_tube[i]);
    leaf.travel = pack(scan_.ball_travel[i]) * half_;
    leaf.touch = pack(scan_.clearance + covers_.inside[i] - covers_.margin);
    leaf.lanes = lanes;
    return leaf;
  }

  // `proved`: the share of the interval in which what is open half way is clear.
  void settle(CoverScan::Open& open, FloatMask half_way, FloatMask exact, FloatPack proved) const {
    float* shares = scan_.proved.data() + at_;
    store(choose(exact, load(shares), least(proved, load(shares))), shares);
    const unsigned is_exact = bits_of(exact);
    open.exact = static_cast<std::uint8_t>(open.exact | (is_exact << at_));
    open.half_way =
        static_cast<std::uint8_t>(open.half_way | ((bits_of(half_way) & ~is_exact) << at_));
    scan_.open = static_cast<std::uint8_t>(scan_.open | open.exact | open.half_way);
  }

  // The first lane counts, and in it what has the lowest number: so that it does not matter how
  // many lanes are looked at together.
  void found_blocked(unsigned lanes, int item, int standing) {
    int lane = at_;
    for (unsigned left = lanes; (left & 1U) == 0; left >>= 1) ++lane;
    CoverScan::Blocked& first = scan_.first_blocked;
    if (scan_.blocked == 0 || lane < first.lane ||
        (lane == first.lane && item == first.item && standing < first.standing))
      first = {lane, item, standing};
    scan_.blocked = static_cast<std::uint8_t>(scan_.blocked | (lanes << at_));
  }

  // How far a ball's centre moves from the middle of an interval, straight on and by what joints
  // that turn bend its way; see bend_within in approach.hpp. Mostly less than what levers allow.
  void travel_ahead(int joint, int ball, Leaf& leaf) {
    if (places_) return;
    const unsigned bit = 1U << at_;
    if ((scan_.has_motions & bit) == 0) find_motions(covers_.tree, scan_, at_);
    scan_.has_motions = static_cast<std::uint8_t>(scan_.has_motions | bit);
    const CoverScan::JointMotion& motion = scan_.motions[static_cast<std::size_t>(joint)];
    leaf.velocity =
        load_vector(motion.velocity, at_) + cross(load_vector(motion.turn, at_), leaf.centre);
    leaf.speed =
        pack(kRoundedUp) * hn::Sqrt(dot(leaf.velocity, leaf.velocity)) + pack(scan_.speed_rounding);
    leaf.bend = motion.turning * scan_.ball_travel[static_cast<std::size_t>(ball)];
    leaf.travel = least(leaf.travel, travel_at(leaf.speed, leaf));
  }
  [[nodiscard]] HWY_INLINE FloatPack travel_at(FloatPack speed, const Leaf& leaf) const {
    return half_ * (speed + half_ * pack(leaf.bend));
  }
  // How much nearer to an obstacle.
  [[nodiscard]] FloatPack travel_towards(const LaneObstacle& obstacle, const Leaf& leaf) const {
    const FloatPack speed =
        approach_to(covers_.standing, obstacle, leaf.centre, leaf.velocity, leaf.speed);
    return least(leaf.travel, travel_at(speed + pack(scan_.speed_rounding), leaf));
  }

  // Of the root of a part, or of any ball.
  HWY_INLINE bool is_far_from_ball(const LaneObstacle& obstacle, const Leaf& leaf) const {
    const FloatVector from = {leaf.centre.x - pack(obstacle.ball[0]),
                              leaf.centre.y - pack(obstacle.ball[1]),
                              leaf.centre.z - pack(obstacle.ball[2])};
    const FloatPack keep = leaf.keep + leaf.travel + pack(obstacle.ball_radius);
    return none(hn::And(leaf.lanes, dot(from, from) <= keep * keep));
  }
  HWY_INLINE bool is_far_from(const LaneObstacle& obstacle, const Leaf& leaf) const {
    if (is_far_from_ball(obstacle, leaf)) return true;
    if (obstacle.kind == LaneObstacle::Kind::hull) return false;
    const FloatPack away = distance_to(covers_.standing, obstacle, leaf.centre);
    return none(hn::And(leaf.lanes, away <= leaf.keep + leaf.travel));
  }

  bool is_far_from_listed(std::size_t part, const Leaf& root) const;
  void look_around(std::size_t part, FloatMask lanes, Leaf* leaves);
  int near_obstacles(std::size_t part, const FloatVector& low, const FloatVector& high, int* near);
  void measure(std::size_t part, const int* near, int near_count, const Leaf& root,
               const Leaf* leaves, int count);
  void look_between(std::size_t pair, FloatMask lanes);

  const Covers& covers_;
  const CheckedPairs& checked_;
  CoverScan& scan_;
  bool places_;  // alone: intervals have no length
  int at_;
  FloatPack half_;
};

// What it may not touch of what others may is not in the map.
bool PackScan::is_far_from_listed(std::size_t part, const Leaf& root) const {
  bool is_far = true;
  for (const LaneObstacle& whole : covers_.listed.items) {
    const StandingPart& other = checked_.standing[static_cast<std::size_t>(whole.standing)];
    if (checked_.meant[part][static_cast<std::size_t>(other.body)]) continue;
    const FloatPack gap = distance_to(covers_.listed, whole, root.centre);
    is_far = is_far && none(hn::And(root.lanes, gap <= root.keep + root.travel));
  }
  return is_far;
}

// A part and what stands around it: down its balls, by the map; then those leaves that the map
// leaves open, by distances to what is near them.
void PackScan::look_around(std::size_t part, FloatMask lanes, Leaf* leaves) {
  const Covers::PartCover& cover = covers_.parts[part];
  if (cover.joint < 0) return;
  const FloatPack far = pack(1e9F);
  FloatVector low = {far, far, far};
  FloatVector high = {pack(-1e9F), pack(-1e9F), pack(-1e9F)};
  int count = 0;
  const auto keep_leaf = [&](const Leaf& leaf) HWY_ATTR {
    const FloatPack all = leaf.keep + leaf.travel;
    const FloatVector size = {all, all, all};
    const FloatVector from = leaf.centre - size;
    const FloatVector to = leaf.centre + size;
    low = {choose(leaf.lanes, least(low.x, from.x), low.x),
           choose(leaf.lanes, least(low.y, from.y), low.y),
           choose(leaf.lanes, least(low.z, from.z), low.z)};
    high = {choose(leaf.lanes, largest(high.x, to.x), high.x),
            choose(leaf.lanes, largest(high.y, to.y), high.y),
            choose(leaf.lanes, largest(high.z, to.z), high.z)};
    leaves[count++] = leaf;
  };
  Leaf root = leaf_at(root_of(static_cast<int>(part)), cover.first, lanes);
  const bool by_map = is_far_from_listed(part, root);
  if (by_map) {
    const FloatPack away = map_at(covers_.map, root.centre) - root.keep;
    lanes = hn::And(lanes, away <= root.travel);
    if (none(lanes)) return;
    travel_ahead(cover.joint, cover.first, root);
    lanes = hn::And(lanes, away <= root.travel);
    if (none(lanes)) return;
  }
  root.lanes = lanes;
  const FloatFrame frame = load_frame(scan_, cover.joint, at_);
  if (!by_map) travel_ahead(cover.joint, cover.first, root);
  if (cover.end == cover.first + 1) keep_leaf(root);
  for (int ball = cover.first + 1; ball < cover.end;) {
    Leaf leaf = leaf_at(centre_of(covers_, frame, ball), ball, lanes);
    const int next = covers_.next[static_cast<std::size_t>(ball)];
    const bool is_leaf = next == ball + 1;
    if (places_ && is_leaf) leaf.keep = leaf.touch + pack(2.0F * covers_.margin);
    if (by_map) {
      const FloatPack away = map_at(covers_.map, leaf.centre) - leaf.keep;
      leaf.lanes = hn::And(lanes, away <= leaf.travel);
      if (!none(leaf.lanes)) {
        travel_ahead(cover.joint, ball, leaf);
        leaf.lanes = hn::And(lanes, away <= leaf.travel);
      }
    } else {
      travel_ahead(cover.joint, ball, leaf);
    }
    const bool is_clear = none(leaf.lanes);
    ball = is_clear ? next : ball + 1;
    if (is_clear || !is_leaf) continue;
    if (count == kMostLeaves) return settle(scan_.open_parts[part], lanes, lanes, pack(1.0F));
    keep_leaf(leaf);
  }
  if (count == 0) return;
  int near[kMostNear];
  const int near_count = near_obstacles(part, low, high, near);
  if (near_count < 0) return settle(scan_.open_parts[part], lanes, lanes, pack(1.0F));
  measure(part, near, near_count, root, leaves, count);
}

// Obstacles that come near the box about all lanes; -1 when there are too many.
int PackScan::near_obstacles(std::size_t part, const FloatVector& low, const FloatVector& high,
                             int* near) {
  const auto lowest = [](FloatPack v) HWY_ATTR { return hn::MinOfLanes(FloatTag(), v); };
  const auto highest = [](FloatPack v) HWY_ATTR { return hn::MaxOfLanes(FloatTag(), v); };
  const FloatVector from = {lowest(low.x), lowest(low.y), lowest(low.z)};
  const FloatVector to = {highest(high.x), highest(high.y), highest(high.z)};
  int count = 0;
  for_each_overlapping(covers_.standing.boxes, from, to, [&](int item) {
    const int standing = covers_.standing.items[static_cast<std::size_t>(item)].standing;
    const int body = checked_.standing[static_cast<std::size_t>(standing)].body;
    if (checked_.meant[part][static_cast<std::size_t>(body)]) return true;
    if (count == kMostNear) {
      count = -1;
      return false;
    }
    near[count++] = item;
    return true;
  });
  return count;
}

void PackScan::measure(std::size_t part, const int* near, int near_count, const Leaf& root,
                       const Leaf* leaves, int count) {
  FloatMask half_way = mask_of(0);
  FloatMask exact = mask_of(0);
  FloatPack proved = pack(1.0F);
  for (int n = 0; n < near_count; ++n) {
    const LaneObstacle& obstacle = covers_.standing.items[static_cast<std::size_t>(near[n])];
    const FloatPack most = pack(obstacle.exact_below);
    const FloatPack rounding = pack(2.0F * obstacle.rounding);
    FloatMask blocked = mask_of(0);
    if (is_far_from(obstacle, root)) continue;
    for (int l = 0; l < count; ++l) {
      const Leaf& leaf = leaves[l];
      if (obstacle.kind == LaneObstacle::Kind::hull && is_far_from_ball(obstacle, leaf)) continue;
      const FloatPack away = distance_to(covers_.standing, obstacle, leaf.centre);
      const FloatPack gap = away - leaf.keep;
      if (none(hn::And(leaf.lanes, gap <= leaf.travel))) continue;
      const FloatPack travel = places_ ? leaf.travel : travel_towards(obstacle, leaf);
      const FloatMask is_open = hn::And(leaf.lanes, gap <= travel);
      if (none(is_open)) continue;
      half_way = hn::Or(half_way, is_open);
      proved = choose(is_open, least(proved, gap / travel), proved);
      exact = hn::Or(exact, hn::And(leaf.lanes, gap <= pack(kWorthHalving) * travel));
      blocked = hn::Or(blocked, hn::And(leaf.lanes, away <= least(leaf.touch, most) - rounding));
    }
    if (!none(blocked)) found_blocked(bits_of(blocked), static_cast<int>(part), obstacle.standing);
  }
  if (!places_) settle(scan_.open_parts[part], half_way, exact, proved);
}

// Two parts of the arm: all leaves of one against the root and the leaves of the other.
void PackScan::look_between(std::size_t pair, FloatMask lanes) {
  const Covers::PairCover& both = covers_.pairs[pair];
  const Covers::PartCover& a = covers_.parts[static_cast<std::size_t>(both.first)];
  const Covers::PartCover& b = covers_.parts[static_cast<std::size_t>(both.second)];
  const FloatVector root_b = root_of(both.second);
  const FloatPack apart = pack(2.0F * covers_.margin + scan_.clearance + scan_.pair_tube[pair]);
  const FloatPack travel = pack(scan_.pair_travel[pair]) * half_;
  const auto radius = [&](int ball)
                          HWY_ATTR { return pack(covers_.radius[static_cast<std::size_t>(ball)]); };
  const auto too_near = [&](const FloatVector& between, FloatPack keep)
                            HWY_ATTR { return dot(between, between) <= keep * keep; };
  const FloatFrame frame_a = load_frame(scan_, a.joint, at_);
  const FloatFrame frame_b = load_frame(scan_, b.joint, at_);
  FloatMask half_way = mask_of(0);
  FloatMask exact = mask_of(0);
  FloatMask blocked = mask_of(0);
  FloatPack proved = pack(1.0F);
  const auto inside = [&](int ball)
                          HWY_ATTR { return pack(covers_.inside[static_cast<std::size_t>(ball)]); };
  const FloatPack touch = pack(scan_.clearance - 2.0F * covers_.margin);
  for (int i = a.first; i < a.end; ++i) {
    if (covers_.next[static_cast<std::size_t>(i)] != i + 1) continue;
    const FloatVector at_a = centre_of(covers_, frame_a, i);
    const FloatPack keep_a = radius(i) + apart;
    if (none(hn::And(lanes, too_near(at_a - root_b, keep_a + radius(b.first) + travel)))) continue;
    for (int k = b.first; k < b.end; ++k) {
      if (covers_.next[static_cast<std::size_t>(k)] != k + 1) continue;
      const FloatVector between = at_a - centre_of(covers_, frame_b, k);
      const FloatPack keep = keep_a + radius(k);
      const FloatPack certain = inside(i) + inside(k) + touch;
      const auto touches = [&](FloatMask where) HWY_ATTR {
        return hn::And(hn::And(where, too_near(between, certain)), certain > pack(0.0F));
      };
      if (places_) {
        blocked = hn::Or(blocked, touches(lanes));
        continue;
      }
      const FloatMask is_open = hn::And(lanes, too_near(between, keep + travel));
      if (none(is_open)) continue;
      half_way = hn::Or(half_way, is_open);
      proved =
          choose(is_open, least(proved, (hn::Sqrt(dot(between, between)) - keep) / travel), proved);
      const FloatMask are_near =
          hn::And(lanes, too_near(between, keep + pack(kWorthHalving) * travel));
      if (none(are_near)) continue;
      exact = hn::Or(exact, are_near);
      blocked = hn::Or(blocked, touches(are_near));
    }
  }
  if (!none(blocked)) found_blocked(bits_of(blocked), static_cast<int>(pair), -1);
  if (!places_) settle(scan_.open_pairs[pair], half_way, exact, proved);
}

void add_up(const Covers::Levers& levers, const PostureRef& travel, float* out) {
  FloatPack by[kMaxJoints];
  for (int e = 0; e < levers.entries; ++e) by[e] = pack(kRoundedUp * static_cast<float>(travel[e]));
  for (std::size_t i = 0; i < levers.row; i += static_cast<std::size_t>(kFloatPackSize)) {
    const float* lever = levers.values.data() + i;
    FloatPack sum = pack(0.0F);
    for (int e = 0; e < levers.entries; ++e, lever += levers.row) sum = sum + by[e] * load(lever);
    store(sum, out + i);
  }
}

void scan_lanes(const Covers& covers, const CheckedPairs& checked, CoverScan& scan,
                CoverScan::Find find) {
  place_joints(covers.tree, scan);
  Leaf leaves[kMostLeaves];
  const auto is_settled = [&] { return scan.blocked != 0 && find != CoverScan::Find::all; };
  // All lanes of one part, then of the next, from the tip down: it is what most often meets
  // something.
  for (std::size_t p = covers.parts.size(); p-- > 0 && !is_settled();)
    for (int at = 0; at < kLanes; at += kFloatPackSize)
      PackScan(covers, checked, scan, find, at).look_at_part(p, leaves);
  for (std::size_t s = 0; s < checked.self.size() && !is_settled(); ++s)
    for (int at = 0; at < kLanes; at += kFloatPackSize)
      PackScan(covers, checked, scan, find, at).look_at_pair(s);
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {

HWY_EXPORT(scan_lanes);
HWY_EXPORT(add_up);

}  // namespace

CoverScan::CoverScan(const Covers& covers, const CheckedPairs& checked)
    : parts(covers.parts.size()),
      pairs(checked.self.size()),
      open_parts(covers.parts.size()),
      open_pairs(checked.self.size()),
      ball_travel(covers.ball_levers.row),
      ball_tube(covers.ball_levers.row),
      pair_travel(covers.pair_levers.row),
      pair_tube(covers.pair_levers.row),
      motions(covers.tree.joints.size()),
      roots(covers.parts.size()),
      frames(covers.tree.joints.size() + 1) {
  // The mount's frame: the world's axes about the centre.
  for (const std::size_t one : {0U, 4U, 8U}) frames[0][one].fill(1.0F);
}

void CoverScan::set_tube(const Covers& covers, const PostureRef& tube) {
  if (tube.size() == 0 && !has_tube) return;
  has_tube = tube.size() > 0;
  if (has_tube) {
    HWY_DYNAMIC_DISPATCH(add_up)(covers.ball_levers, tube, ball_tube.data());
    HWY_DYNAMIC_DISPATCH(add_up)(covers.pair_levers, tube, pair_tube.data());
  } else {
    std::fill(ball_tube.begin(), ball_tube.end(), 0.0F);
    std::fill(pair_tube.begin(), pair_tube.end(), 0.0F);
  }
}

void CoverScan::set_line(const Covers& covers, const PostureRef& step) {
  const Posture travel = step.cwiseAbs();
  double turned = 0.0;
  for (std::size_t j = 0; j < motions.size(); ++j) {
    const LaneTree::Joint& joint = covers.tree.joints[j];
    const double turns = joint.turn_ratio * step[joint.entry];
    JointMotion& out = motions[j];
    out.step =
        static_cast<float>(joint.turn_ratio != 0.0 ? turns : joint.slide_ratio * step[joint.entry]);
    out.turning = kRoundedUp * static_cast<float>(std::abs(turns));
    if (joint.before >= 0) out.turning += motions[static_cast<std::size_t>(joint.before)].turning;
    turned += std::abs(turns);
  }
  speed_rounding = covers.margin * static_cast<float>(2.0 * turned);
  HWY_DYNAMIC_DISPATCH(add_up)(covers.ball_levers, travel, ball_travel.data());
  HWY_DYNAMIC_DISPATCH(add_up)(covers.pair_levers, travel, pair_travel.data());
}

bool can_be_placed(const PostureRef& posture) {
  return posture.allFinite() && (posture.array().abs() <= 1e6).all();
}

void scan(const Covers& covers, const CheckedPairs& checked, CoverScan& scan,
          CoverScan::Find find) {
  scan.open = 0;
  scan.blocked = 0;
  scan.has_motions = 0;
  scan.proved.fill(1.0F);
  std::fill(scan.open_parts.begin(), scan.open_parts.end(), CoverScan::Open{});
  std::fill(scan.open_pairs.begin(), scan.open_pairs.end(), CoverScan::Open{});
  HWY_DYNAMIC_DISPATCH(scan_lanes)(covers, checked, scan, find);
}

}  // namespace er
#endif
