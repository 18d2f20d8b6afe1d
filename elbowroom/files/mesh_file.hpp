// Mesh files, read for the convex hull of their points.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/model/shape.hpp"

namespace er {

/// All points of a mesh file (STL, OBJ, PLY, glTF, COLLADA), in the file's own units and with its
/// own node transforms applied. Throws InputError when it holds no points.
std::vector<Vector3> read_mesh_points(const std::filesystem::path& path);

/// The hull of a mesh file named in the file of `place`: looked for beside that file, then along
/// the search path. `scale` is in metres per unit of the mesh.
Hull read_hull(const std::string& name, const Vector3& scale, const Place& place);

}  // namespace er
