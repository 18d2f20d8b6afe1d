// The solid shapes that links, fixtures and pieces are made of.
#pragma once

#include <array>
#include <memory>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "elbowroom/base/pose.hpp"
#include "elbowroom/model/box_tree.hpp"

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

/// A cone along z, centred on its frame; cut off where `top` is above zero.
struct Cone {
  double radius = 0.05;  ///< of its lower end
  double top = 0.0;      ///< of its upper end
  double length = 0.1;
};

/// All that is not above the plane z = 0 of its frame: a floor, a wall. It has no end, so it cannot
/// move: fixtures and zones alone are made of it.
struct HalfSpace {};

/// The half-space of the points where normal . p <= offset.
struct HullPlane {
  Vector3 normal = Vector3::UnitZ();  ///< unit
  double offset = 0.0;
};

/// The file that a hull, mesh or cloud was made from.
struct FileOrigin {
  std::string file = {};            ///< as it was written; empty: none
  Vector3 scale = Vector3::Ones();  ///< m per unit of it
  std::vector<int> bodies = {};     ///< those that were taken, by number; none: all of it
  double detail = 0.0;  ///< m that the shape may be off what is in the file; 0: it is as it is

  bool operator==(const FileOrigin&) const = default;
};

/// What a convex hull is made of; shared by all copies of it.
struct HullData {
  std::vector<Vector3> corners = {};
  std::vector<std::array<int, 3>> faces = {};  ///< corner indices, counter-clockwise from outside
  std::vector<HullPlane> planes = {};          ///< of its faces, each once
  Vector3 middle = Vector3::Zero();            ///< of the box along its axes that holds it
  Vector3 half = Vector3::Zero();              ///< of that box
  double radius = 0.0;                         ///< of a ball about the same middle that holds it
  FileOrigin origin = {};                      ///< the mesh it was made from
};

/// The smallest convex solid that holds a set of points (model/hull.hpp makes one).
struct Hull {
  std::shared_ptr<const HullData> data = {};
};

struct MeshData;

/// The solid within closed surfaces of triangles, or a skin of triangles (model/mesh.hpp makes
/// one).
struct Mesh {
  std::shared_ptr<const MeshData> data = {};
};

struct CloudData;

/// Many balls of one radius, as of measured points (model/cloud.hpp makes one).
struct Cloud {
  std::shared_ptr<const CloudData> data = {};
};

using Shape = std::variant<Box, Sphere, Cylinder, Capsule, Hull, Cone, HalfSpace, Mesh, Cloud>;

/// Lets several lambdas be one visitor of a shape.
template <class... F>
struct Overloaded : F... {
  using F::operator()...;
};
template <class... F>
Overloaded(F...) -> Overloaded<F...>;

std::string_view name_of(const Shape& shape);

/// Of hulls, meshes and clouds, also when they come from no file; null for all others.
const FileOrigin* origin_of(const Shape& shape);

/// What closed triangles enclose, m^3: below zero when they face inwards.
double enclosed_volume(const std::vector<Vector3>& corners,
                       const std::vector<std::array<int, 3>>& faces);

/// False for meshes and clouds.
bool is_convex(const Shape& shape);
/// False for half-spaces.
bool is_bounded(const Shape& shape);

/// The radius of the smallest sphere about the shape's own origin that holds it; infinite for
/// half-spaces.
double bounding_radius(const Shape& shape);

/// A ball that holds the shape, about wherever is best, in the shape's frame.
struct BoundingBall {
  Vector3 middle = Vector3::Zero();
  double radius = 0.0;
};
BoundingBall bounding_ball(const Shape& shape);

/// The smallest box along the shape's own axes that holds it.
AlignedBox own_box(const Shape& shape);

/// Half the size of a box along the outer axes, centred on the shape's origin, that holds the shape
/// when turned by `rotation`. As small as can be, but for meshes and clouds, whose own box is
/// turned.
Vector3 half_extent(const Shape& shape, const Matrix3& rotation);

/// A box along the outer axes that holds a shape at `pose`. Of a half-space that is not square to
/// them: everything.
AlignedBox aligned_box(const Shape& shape, const Pose& pose);

/// The volume, m^3: infinite for half-spaces, without overlaps for clouds, zero for skins.
double volume(const Shape& shape);

/// Throws InputError about `subject` unless every size is a positive finite number; and for what
/// has no end, if it `may_move`.
void check_shape(const Shape& shape, const std::string& subject, bool may_move = false);

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
/// From the middle of its lower end to that of its upper end.
Part cone_between(const Vector3& from, const Vector3& to, double radius, double top);
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
