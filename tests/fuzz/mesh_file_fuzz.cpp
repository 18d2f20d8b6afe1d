// Any bytes as a mesh file, from the file to its shapes: taken apart, or refused with an
// InputError. The first byte says which format it is.
#include <array>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <string>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/bodies/mesh_inspection.hpp"
#include "elbowroom/files/mesh_file.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const std::array<std::string, 5> kNames{"a.stl", "a.obj", "a.ply", "a.gltf", "a.dae"};
  if (size == 0) return 0;
  try {
    const std::string_view content(reinterpret_cast<const char*>(data) + 1, size - 1);
    er::Bodies bodies = er::bodies_of(er::parse_mesh(content, kNames[data[0] % kNames.size()]));
    // Rough shapes: finer ones take all the time.
    const double within = 0.1 * (bodies.high - bodies.low).norm();
    er::MeshInspectionOptions options{.files = {"a"}};
    if (within > 0.0 && std::isfinite(within)) options.within = within;
    static_cast<void>(er::inspect_mesh(std::move(bodies), options).report());
  } catch (const er::InputError&) {
  }
  return 0;
}
