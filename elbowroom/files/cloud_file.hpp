// Files of measured points: CSV, or the points of a PLY or another mesh file.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/model/shape.hpp"

namespace er {

/// The points of a file, in its own units. A table (.csv, .txt, .xyz) has three numbers in a line,
/// with commas, semicolons or spaces between them; more are passed over. A heading may name the
/// columns x, y and z, in any order. Throws InputError with line and column.
std::vector<Vector3> read_points(const std::filesystem::path& path);

/// The cloud of a file named in the file of `place`: looked for beside that file, then along the
/// search path. `scale` is in metres per unit of the file, `radius` in metres.
Cloud read_cloud(const std::string& name, double scale, double radius, const Place& place);

}  // namespace er
