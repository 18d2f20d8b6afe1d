// How near two convex parts can come to each other over a short stretch of a straight joint line,
// to second order: what slides along something does not come nearer to it, however far it goes.
//
// Take any unit vector n from one part towards the other. At the middle of the stretch each point p
// moves at v + w x p, and n . (v + w x p) is linear in p: so the least of n . p over a convex part,
// moved on by so much, is a support point of the part in a direction turned a little, and as a
// function of how far it is moved on it is concave: the least over the stretch is at one of its
// ends. What is left out is at most half the square of the stretch times the largest acceleration.
#pragma once

#include <vector>

#include "elbowroom/base/twist.hpp"
#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/model/core_shape.hpp"

namespace er {

/// How every link moves with the arm as in `parts`, where the joints go on by `step` per unit: the
/// twist of the point that it has at the world's origin. `out` grows to the number of links, and
/// allocates nothing then.
void link_twists(const Arm& arm, const PartPoses& parts, const PostureRef& step,
                 std::vector<Twist>& out);

/// How much turning of links each joint makes per unit; zero for sliding joints.
Posture turns_of(const Arm& arm);

/// A convex part, or element of one, where it is, and how it moves.
struct CoreInMotion {
  const CoreShape& core;
  Twist twist = {};  ///< of the point that it has at the world's origin
};

/// A lower bound on the distance of the two at any time within `half` of now, less what their
/// accelerations add to that (bend_within). `normal`: unit, from b towards a; any will do, that of
/// their nearest points does best. Allocates nothing.
double least_ahead(const CoreInMotion& a, const CoreInMotion& b, const Vector3& normal,
                   double half);

/// The most that a pair with this lever (of a part, or of a pair relative to the link that carries
/// both) can come nearer within `half`, beyond straight on, where the joints go by `travel` (>= 0)
/// per unit. Of a point p on a chain of joints that turn at w1, w2, ..., with the velocity vj that
/// joint j gives it, the acceleration is the sum of wj x vj and, for all i before j, of 2 wi x vj:
/// at most twice the sum of all turnings times the sum of all levers times travel.
double bend_within(const Posture& lever, const Posture& turns, const Posture& travel, double half);

}  // namespace er
