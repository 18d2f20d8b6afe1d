#include "elbowroom/files/origin.hpp"

#include "elbowroom/base/instruction_set.hpp"
#include "elbowroom/files/geometry_text.hpp"

namespace er {

Origin origin_of(const std::string& version, const CellQuery& query) {
  return {.version = version,
          .instruction_set = instruction_set(),
          .arm = query.arm().name(),
          .cell = query.cell().name(),
          .cell_digest = digest_of(geometry_text(query.cell()))};
}

}  // namespace er
