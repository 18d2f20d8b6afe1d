// Mass, centre of mass and moments of inertia of shapes and links.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/model/shape.hpp"

namespace er {

/// SI. `inertia` is about the centre of mass, along the axes of the link's frame.
struct Inertial {
  double mass = 0.0;  ///< kg; 0 is "not stated"
  Vector3 centre = Vector3::Zero();
  Matrix3 inertia = Matrix3::Zero();
};

/// Of a solid shape of even density, in the shape's own frame, about its centre of mass.
Inertial inertial_of(const Shape& shape, double density);

/// Of what closed triangles enclose, whichever side of theirs is out, in the corners' frame.
Inertial inertial_within(const std::vector<Vector3>& corners,
                         const std::vector<std::array<int, 3>>& faces, double density);

/// Two bodies as one. Both in the same frame.
Inertial joined(const Inertial& a, const Inertial& b);

/// The same body seen from an outer frame.
Inertial moved(const Inertial& inertial, const Pose& pose);

/// Of parts that together weigh `mass` and have one density; all parts count that collide, or all
/// if none does. Where parts overlap the overlap counts twice. No part: a point at the origin.
Inertial inertial_of(const std::vector<Part>& parts, double mass);

/// "" when a body can have this inertia, else why not: a negative mass, a tensor that is not
/// symmetric, a principal moment below zero or above the sum of the other two.
std::string fault_of(const Inertial& inertial);

}  // namespace er
