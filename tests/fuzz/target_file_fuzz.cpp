// Any text as a target file of the demo cell: it is read, or refused with an InputError; never
// anything else.
#include <cstddef>
#include <cstdint>
#include <string>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/target_file.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const er::Cell cell = er::load_cell(DEMO_DIR "/glaze.cell.yaml");
  try {
    er::parse_targets({reinterpret_cast<const char*>(data), size}, "fuzz.yaml", cell);
  } catch (const er::InputError&) {
  }
  return 0;
}
