// Which pairs of parts can meet when one arm moves through a cell, worked out once per cell.
#pragma once

#include <limits>
#include <string>
#include <string_view>
#include <vector>

#include "elbowroom/model/box_tree.hpp"
#include "elbowroom/model/cell.hpp"

namespace er {

/// m; added to every bound on motion that is made from levers: covers the rounding of poses and
/// sums.
inline constexpr double kMotionMargin = 1e-9;

/// A part of the moving arm.
struct MovingPart {
  Shape shape;
  Pose at;            ///< in its link's frame
  int link = 0;       ///< of the arm
  int body = 0;       ///< index into CheckedPairs::bodies
  double radius = 0;  ///< of its bounding sphere about its own origin
  /// lever[j]: the most that any point of the part moves per unit of joint j, whatever the posture.
  /// Zero for joints that do not carry the part.
  Posture lever;
};

/// A part that stays where it is while the arm moves.
struct StandingPart {
  Shape shape;
  Pose pose;  ///< in the world
  int body = 0;
  bool is_zone = false;   ///< a volume without matter
  bool may_move = false;  ///< a piece, or part of another arm: elsewhere in the next question
  double margin = 0.0;    ///< of a zone: distances to it count from so far outside its volume
  /// m/s: the cap of a zone that has one
  double speed = std::numeric_limits<double>::infinity();
};

/// Two parts of the arm that can meet each other.
struct SelfPair {
  int first = 0;  ///< indices into CheckedPairs::moving
  int second = 0;
  int shared = 0;  ///< the last link that carries both
  Posture lever;   ///< the same bound for how the two move relative to each other
};

struct CheckedPairs {
  std::vector<std::string> bodies;  ///< "teasel.forearm", "kiln", ...
  std::vector<MovingPart> moving;
  std::vector<StandingPart> standing;
  std::vector<StandingPart> slow;  ///< parts of zones that cap speeds; they are in no one's way
  BoxTree standing_tree;           ///< over `standing`
  std::vector<SelfPair> self;
  std::vector<std::vector<bool>> meant;  ///< meant[moving part][body]: never checked

  bool has_solids = false;  ///< whether anything may be inside something without touching it

  /// Pairs of links that are never checked because a joint joins them.
  std::vector<std::pair<int, int>> joined_links;
};

/// How the other arms of a cell stand while one moves. Arms not named stand in their stance `home`,
/// or at zero when they have none.
struct OtherArm {
  std::string name;
  Posture posture;
};

/// The first link of the rigid body that a link belongs to: up the tree over joints that do not
/// move.
int rigid_group(const Arm& arm, int link);

/// True for two links of one rigid body, or of two that a joint joins: such a pair is never
/// checked. A held piece is joined to what it is fixed to and to the fingers on that, not to the
/// link before; links of two arms that were made one never are.
bool are_joined(const Arm& arm, int a, int b);

/// The most that a point fixed in a link (given in its frame) moves per unit of each joint,
/// whatever the posture.
Posture lever_of_point(const Arm& arm, int link, const Vector3& point);

/// The furthest that any two things close in, of which one moves, where the joints go by `travel`
/// (>= 0).
double most_closing(const CheckedPairs& pairs, const Posture& travel);

/// Links joined by a joint (rigidly joined links count as one) and meant contacts are left out.
CheckedPairs find_checked_pairs(const Cell& cell, const Arm& arm,
                                const std::vector<OtherArm>& others = {});

}  // namespace er
