// Mesh files (STL, OBJ, PLY, glTF, COLLADA), and CAD exchange files where the build reads them: as
// they are, as hulls of their points, or body by body.
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

/// By its ending, in whatever letters; CAD exchange files, too.
bool is_mesh_file(const std::filesystem::path& path);

/// A surface for each node of the file that has a name of its own, with its colour, with all
/// transforms of nodes applied; `scale` is in metres per unit of the file. Points without triangles
/// come, too. A CAD exchange file states its unit, so `scale` must be 1 for it. Throws InputError
/// when the file cannot be read, holds no points, or is a CAD exchange file that this build does
/// not read.
std::vector<Surface> read_mesh_file(const std::filesystem::path& path,
                                    const Vector3& scale = Vector3::Ones());
/// The same of a file's content, as it is; the ending of its name says what it is. Not of CAD
/// exchange files.
std::vector<Surface> parse_mesh(std::string_view content, const std::string& name);

/// The hull of what is meant of a mesh file, or the mesh itself. The file is looked for beside that
/// of the place, then along the search path. Faults of the mesh are errors at `place`.
Hull read_hull(const FileOrigin& from, const Place& place);
Mesh read_mesh(const FileOrigin& from, bool is_skin, const Place& place);

}  // namespace er
