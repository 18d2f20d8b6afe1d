// Any text as a cell file: it is read, or refused with an InputError; never anything else.
#include <cstddef>
#include <cstdint>
#include <string>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/cell_file.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  try {
    er::parse_cell({reinterpret_cast<const char*>(data), size}, "fuzz.yaml");
  } catch (const er::InputError&) {
  }
  return 0;
}
