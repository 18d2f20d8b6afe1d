// Mesh files (STL, OBJ, PLY, glTF, COLLADA): as they are, as hulls of their points, or body by
// body.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/bodies/split.hpp"
#include "elbowroom/model/shape.hpp"
#include "elbowroom/model/surface.hpp"

namespace er {

/// By its ending, in whatever letters.
bool is_mesh_file(const std::filesystem::path& path);
/// STEP and IGES: no meshes, and refused with what to do.
bool is_exchange_file(const std::filesystem::path& path);

/// A surface for each node of the file that has a name of its own, with its colour, with all
/// transforms of nodes applied; `scale` is in metres per unit of the file. Points without triangles
/// come, too. Throws InputError when the file cannot be read, holds no points, or is a CAD exchange
/// file.
std::vector<Surface> read_mesh_file(const std::filesystem::path& path,
                                    const Vector3& scale = Vector3::Ones());
/// The same of a file's content; the ending of its name says what it is.
std::vector<Surface> parse_mesh(std::string_view content, const std::string& name);

/// The hull of what is meant of a mesh file, or the mesh itself. The file is looked for beside that
/// of the place, then along the search path. Faults of the mesh are errors at `place`.
Hull read_hull(const FileOrigin& from, const Place& place);
Mesh read_mesh(const FileOrigin& from, bool is_skin, const Place& place);

}  // namespace er
