// The solid shapes that links, fixtures and pieces are made of.
#pragma once

#include <array>
#include <memory>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "elbowroom/base/pose.hpp"

namespace er {

/// Centred on its frame, edges along the axes. Metres.
struct Box {
  Vector3 size = Vector3::Constant(0.1);
};

struct Sphere {
  double radius = 0.05;
};

/// Along z, centred on its frame.
struct Cylinder {
  double radius = 0.05;
  double length = 0.1;
};

/// A cylinder with half-spheres on its ends, along z, centred. `length` is between the centres of
/// the half-spheres, so the whole is length + 2 radius long.
struct Capsule {
  double radius = 0.05;
  double length = 0.1;
};

/// The half-space of the points where normal . p <= offset.
struct HullPlane {
  Vector3 normal = Vector3::UnitZ();  ///< unit
  double offset = 0.0;
};

/// What a convex hull is made of; shared by all copies of it.
struct HullData {
  std::vector<Vector3> corners = {};
  std::vector<std::array<int, 3>> faces = {};  ///< corner indices, counter-clockwise from outside
  std::vector<HullPlane> planes = {};          ///< of its faces, each once
  Vector3 middle = Vector3::Zero();            ///< of the box along its axes that holds it
  Vector3 half = Vector3::Zero();              ///< of that box
  double radius = 0.0;                         ///< of a ball about the same middle that holds it
  std::string file = {};                       ///< the mesh it was made from, as it was written
  Vector3 scale = Vector3::Ones();             ///< metres per unit of that file
};

/// The smallest convex solid that holds a set of points (model/hull.hpp makes one).
struct Hull {
  std::shared_ptr<const HullData> data = {};
};

using Shape = std::variant<Box, Sphere, Cylinder, Capsule, Hull>;

std::string_view name_of(const Shape& shape);

/// The radius of the smallest sphere about the shape's own origin that holds it.
double bounding_radius(const Shape& shape);

/// Half the size of a box along the outer axes, centred on the shape's origin, that holds the shape
/// when turned by `rotation`.
Vector3 half_extent(const Shape& shape, const Matrix3& rotation);

/// The volume, m^3.
double volume(const Shape& shape);

/// Throws InputError about `subject` unless every size is a positive finite number.
void check_shape(const Shape& shape, const std::string& subject);

/// Red, green, blue and opacity in 0 to 1. Pictures draw everything opaque.
struct Colour {
  double red = 0.7;
  double green = 0.7;
  double blue = 0.7;
  double opacity = 1.0;
};

/// A round shape given by its ends. Throws InputError when they coincide.
struct Part;
Part cylinder_between(const Vector3& from, const Vector3& to, double radius);
/// The ends are the centres of the capsule's half-spheres.
Part capsule_between(const Vector3& from, const Vector3& to, double radius);

/// One shape fixed in the frame of its link, fixture or piece.
struct Part {
  Shape shape = Box{};
  Pose at = {};
  Colour colour = {};
  std::string material = {};  ///< a name that goes with the colour; empty has none
  std::string texture = {};   ///< a picture file, as it was written; kept, but not drawn
  bool looks = true;          ///< drawn in pictures
  bool collides = true;       ///< counted in distances and collision checks
};

}  // namespace er
