// Solids and skins of triangles.
#pragma once

#include <array>
#include <cstdint>
#include <string>
#include <vector>

#include "elbowroom/model/shape.hpp"

namespace er {

/// What a mesh is made of; shared by all copies of it. In the shape's own frame, metres.
struct MeshData {
  std::vector<Vector3> corners = {};           ///< each place once
  std::vector<std::array<int, 3>> faces = {};  ///< in the order of the tree
  BoxTree tree = {};                           ///< over the faces
  BoundingBall ball = {};
  double reach = 0.0;      ///< of a ball about the origin that holds it
  double thickness = 0.0;  ///< m; each triangle stands for all that is no further from it
  bool is_skin = false;    ///< nothing is inside it
  int dropped = 0;         ///< triangles of the source that had less than three corners
  FileOrigin origin = {};

  [[nodiscard]] std::array<Vector3, 3> triangle(int face) const {
    const auto& [a, b, c] = faces[static_cast<std::size_t>(face)];
    return {corners[static_cast<std::size_t>(a)], corners[static_cast<std::size_t>(b)],
            corners[static_cast<std::size_t>(c)]};
  }
};

/// A mesh of triangles, which may share corners or repeat them. Unless it is to be a skin, its
/// surface must be closed: each edge is passed as often one way as the other. Which side is out
/// does not matter. Triangles with less than three different corners are dropped. Throws InputError
/// for what is not finite, empty, not closed, or faces both ways, and says where; or for a
/// thickness below zero.
Mesh mesh_of(std::vector<Vector3> corners, std::vector<std::array<int, 3>> faces,
             bool is_skin = false, FileOrigin origin = {}, double thickness = 0.0);

/// Whether a shape is a mesh that is not a skin.
bool is_solid_mesh(const Shape& shape);

/// Whether a point (in the mesh's own frame) is inside: the surface winds about it. Solids may
/// overlap; always false for a skin. What is within the thickness alone is not. Points on the
/// surface may go either way. Allocates nothing.
bool encloses(const MeshData& mesh, const Vector3& point);

}  // namespace er
