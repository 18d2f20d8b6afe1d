// All that is looked at before exact shapes are: an arm's parts covered by balls, what stands
// around them, and what of it is how far from any place. Made once for a question.
#pragma once

#include <cstdint>
#include <vector>

#include "elbowroom/collision/checked_pairs.hpp"
#include "elbowroom/collision/cover.hpp"
#include "elbowroom/collision/lane_obstacles.hpp"
#include "elbowroom/collision/map_shelf.hpp"
#include "elbowroom/kinematics/lane_tree.hpp"

namespace er {

/// Lengths here are floats, in metres, counted from `centre`; whoever compares them adds `margin`,
/// which is more than their rounding. Things keep the numbers that they have in CheckedPairs.
struct Covers {
  Vector3 centre = Vector3::Zero();  ///< in the world: where the arm is mounted
  /// m: bounds the rounding of a ball's centre, a distance to it and a bound on its motion, all
  /// together. Of lengths up to R they add less than 24 roundings of 2^-24 R.
  float margin = 0.0F;
  LaneTree tree = {};  ///< about `centre`

  /// Balls, those of one part after each other, each before its finer ones, in the frame of the
  /// joint that carries the part.
  std::vector<float> x = {};
  std::vector<float> y = {};
  std::vector<float> z = {};
  std::vector<float> radius = {};
  std::vector<float> inside = {};  ///< of a leaf: a smaller ball that is all inside the part
  std::vector<int> next = {};
  struct PartCover {
    int joint = -1;  ///< of the tree; -1: it never moves
    int first = 0;   ///< its balls
    int end = 0;
  };
  std::vector<PartCover> parts = {};
  struct PairCover {
    int first = 0;  ///< parts
    int second = 0;
    float keep = 0.0F;  ///< where their roots are further apart than this, they do not touch
  };
  std::vector<PairCover> pairs = {};  ///< of CheckedPairs::self
  /// The most that things (of a ball: its centre) move per unit of each posture entry: a row for
  /// each entry, as long as there are things, padded with zeros to whole eights.
  struct Levers {
    int entries = 0;
    std::size_t row = 0;
    std::vector<float> values = {};
    Posture most = {};  ///< of each row
  };
  Levers ball_levers = {};
  Levers pair_levers = {};  ///< of self pairs, relative to each other

  LaneObstacles standing = {};
  SpaceMap map;  ///< of what stands, but `listed`
  /// What some part of the arm is meant to touch is not in the map, but looked at by itself.
  LaneObstacles listed = {};
};

/// `shelf` keeps the map of what does not move for the next question.
Covers covers_of(const Arm& arm, const CheckedPairs& pairs, MapShelf& shelf);

}  // namespace er
