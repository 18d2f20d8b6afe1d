// Any text as a table of poses and as one of stick deflections: it is read, or refused with an
// InputError; never anything else.
#include <unistd.h>

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <fstream>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/recorded_file.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const std::filesystem::path file =
      std::filesystem::temp_directory_path() / ("elbowroom_fuzz_" + std::to_string(getpid()));
  std::ofstream(file, std::ios::binary)
      .write(reinterpret_cast<const char*>(data), static_cast<std::streamsize>(size));
  try {
    er::load_timed_poses(file, {});
  } catch (const er::InputError&) {
  }
  try {
    er::load_twists(file, {}, 100.0);
  } catch (const er::InputError&) {
  }
  return 0;
}
