// What is in a mesh file, as JSON.
#pragma once

#include <string>

#include "elbowroom/bodies/mesh_inspection.hpp"

namespace er {

/// Documented in docs/json.md under `inspect` of a mesh file.
std::string json_of(const MeshInspection& inspection);

}  // namespace er
