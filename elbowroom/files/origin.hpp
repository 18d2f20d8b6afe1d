// What a saved result was found by, and from.
#pragma once

#include <string>

#include "elbowroom/collision/cell_query.hpp"

namespace er {

struct Origin {
  std::string version = {};          ///< of Elbowroom, that found it
  std::string instruction_set = {};  ///< that it was found on
  std::string arm = {};
  std::string cell = {};         ///< its name
  std::string cell_digest = {};  ///< of its geometry_text
};

/// Of what is found now.
Origin origin_of(const std::string& version, const CellQuery& query);

}  // namespace er
