// Eight intervals of a straight joint line, or eight postures, looked at side by side with the
// balls that cover the arm: most of what is far from everything is told apart here, and never comes
// to exact shapes.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "elbowroom/collision/covers.hpp"

namespace er {

/// Question, answer and working memory of scans; one per thread.
struct CoverScan {
  static constexpr int kIntervals = 8;
  /// Whether to stop as soon as something is too near for certain: the rest is not looked at then.
  /// For a blocked place, intervals have no length, and nothing is said of what is open.
  enum class Find { blocked_place, first_blocked, all };

  CoverScan(const Covers& covers, const CheckedPairs& checked);
  /// How far joints may stray from the line (or an empty posture), and the line's joint travel per
  /// unit, which scans of intervals without length do not need.
  void set_tube(const Covers& covers, const PostureRef& tube);
  void set_line(const Covers& covers, const PostureRef& step);

  // The question. Lanes are bits, the first interval the lowest.
  std::array<std::array<double, kIntervals>, kMaxJoints> middle = {};  ///< postures, by entries
  std::array<float, kIntervals> half = {};  ///< half the length of each interval, of the line
  float clearance = 0.0F;
  std::vector<std::uint8_t> parts = {};  ///< moving parts: in which lanes to look
  std::vector<std::uint8_t> pairs = {};  ///< self pairs, the same

  /// The answer: where it stays open. A part or pair that is in neither is clear of everything
  /// (further away than the clearance) over the whole interval.
  struct Open {
    std::uint8_t half_way = 0;  ///< the balls are clear in the middle: a shorter interval will do
    std::uint8_t exact = 0;     ///< they are not, or only just: exact shapes have to tell
  };
  std::vector<Open> open_parts = {};
  std::vector<Open> open_pairs = {};
  std::uint8_t open = 0;  ///< lanes in which anything is open at all
  /// What is open half way is clear in this share of each interval, about its middle.
  std::array<float, kIntervals> proved = {};
  /// Lanes in whose middle two things are too near for certain, because balls inside them are; and
  /// the first such pair: a part and what stands there, or a self pair (then `standing` is -1).
  std::uint8_t blocked = 0;
  struct Blocked {
    int lane = 0;
    int item = -1;  ///< part, or self pair
    int standing = -1;
  };
  Blocked first_blocked = {};

  // How far each ball or pair comes nearer per unit of the line, and over the tube; padded.
  std::vector<float> ball_travel = {};
  std::vector<float> ball_tube = {};
  std::vector<float> pair_travel = {};
  std::vector<float> pair_tube = {};
  // Of each joint of the tree: how far it turns or slides per unit, how much it and those before it
  // turn, and (once needed) how its frame moves: turning, and the velocity of the point that it has
  // at the centre.
  struct JointMotion {
    float step = 0.0F;
    float turning = 0.0F;
    std::array<std::array<float, kIntervals>, 3> turn = {};
    std::array<std::array<float, kIntervals>, 3> velocity = {};
  };
  std::vector<JointMotion> motions = {};
  std::uint8_t has_motions = 0;  ///< in which lanes
  float speed_rounding = 0.0F;   ///< m per unit: of a point's velocity
  bool has_tube = false;
  std::vector<std::array<std::array<float, kIntervals>, 3>> roots = {};  ///< centres, by parts
  // Of each joint of the tree, and first of the mount: a frame by columns, then position.
  std::vector<std::array<std::array<float, kIntervals>, 12>> frames = {};
};

/// False for postures that no kernel can place: not finite, or turned by more than a million
/// radians. Comparisons with what comes of them would say that they are clear of everything.
bool can_be_placed(const PostureRef& posture);

/// Allocates nothing. The same answer on every instruction set. All postures must be placeable.
void scan(const Covers& covers, const CheckedPairs& checked, CoverScan& scan,
          CoverScan::Find find = CoverScan::Find::first_blocked);

}  // namespace er
