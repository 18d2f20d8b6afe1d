// Mesh files (STL, OBJ, PLY, glTF, COLLADA), as hulls of their points or as they are.
#pragma once

#include <array>
#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/model/shape.hpp"

namespace er {

/// What is in a mesh file, in the file's own units and with its own node transforms applied.
struct MeshSource {
  std::vector<Vector3> points = {};
  std::vector<std::array<int, 3>> faces = {};
};

/// Throws InputError when the file cannot be read, or holds no points.
MeshSource read_mesh_file(const std::filesystem::path& path);

/// A mesh file named in the file of `place`: looked for beside that file, then along the search
/// path. `scale` is in metres per unit of the mesh. Faults of the mesh are errors at `place`.
Hull read_hull(const std::string& name, const Vector3& scale, const Place& place);
Mesh read_mesh(const std::string& name, const Vector3& scale, bool is_skin, const Place& place);

}  // namespace er
