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

#include "elbowroom/collision/cell_query.hpp"

namespace er {

/// How a link moves per unit of a joint line: a point at p at velocity + turning x p (world).
struct LinkMotion {
  Vector3 turning = Vector3::Zero();
  Vector3 velocity = Vector3::Zero();

  LinkMotion operator-(const LinkMotion& other) const {
    return {turning - other.turning, velocity - other.velocity};
  }
};

/// Of every link, with the arm as in `parts`, where the joints go on by `step` per unit. `out` has
/// as many entries as the arm has links; allocates nothing then.
void link_motions(const Arm& arm, const PartPoses& parts, const PostureRef& step,
                  std::vector<LinkMotion>& out);

/// How much turning of links each joint makes per unit; zero for sliding joints.
Posture turns_of(const Arm& arm);

/// A part where it is, and how it moves.
struct PartInMotion {
  const Shape& shape;
  const Pose& pose;
  LinkMotion motion = {};
};

/// A lower bound on the distance of the two at any time within `half` of now, but for what their
/// accelerations (over half squared, times a half) add. `normal`: unit, from b towards a; any will
/// do, that of their nearest points does best. Allocates nothing.
double least_ahead(const PartInMotion& a, const PartInMotion& b, const Vector3& normal,
                   double half);

}  // namespace er
