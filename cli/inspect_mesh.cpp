#include "inspect_mesh.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <filesystem>

#include "elbowroom/base/units.hpp"
#include "elbowroom/bodies/mesh_inspection.hpp"
#include "elbowroom/draw/bodies_picture.hpp"
#include "elbowroom/draw/render.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/mesh_file.hpp"
#include "elbowroom/files/mesh_json.hpp"

namespace er::cli {
namespace {

double read_scale(const std::string& unit) {
  return for_option("--unit", [&] {
    const Quantity one = in_unit(1.0, unit);
    if (!(one.dimension == dimension::length))
      throw InputError(fmt::format("'{}' is no unit of length", unit), "such as mm or m");
    return one.si;
  });
}

}  // namespace

bool is_mesh_file(const std::string& file) {
  std::string ending = std::filesystem::path(file).extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  for (const char* known :
       {".stl", ".obj", ".ply", ".gltf", ".glb", ".dae", ".step", ".stp", ".iges", ".igs"})
    if (ending == known) return true;
  return false;
}

Answer answer_mesh(const InspectMesh& asked, const Arguments& arguments) {
  MeshInspectionOptions options{.file = asked.file};
  if (!asked.unit.empty()) {
    options.unit = asked.unit;
    options.scale = read_scale(asked.unit);
  }
  if (!asked.density.empty())
    options.density =
        for_option("--density", [&] { return parse_quantity(asked.density, dimension::density); });
  std::optional<Arm> arm;
  if (!asked.cell.empty()) {
    const Cell cell = load_cell(asked.cell);
    arm = for_option("--arm", [&] { return cell.arm(arguments.arm); });
    options.arm = &*arm;
  }
  MeshInspection found;
  try {
    found = inspect_mesh(read_mesh_file(asked.file), options);
  } catch (const InputError& error) {
    if (!error.place().file.empty()) throw;
    throw InputError(error.message(), error.advice(), {asked.file, 0, 0});
  }
  if (!arguments.outs.empty()) {
    const Scene scene = bodies_scene(found, asked.apart);
    const Image image = render(scene, View{});
    for (const std::string& file : arguments.outs) write_png(file, image);
  }
  return {found.passed() ? Exit::yes : Exit::no, found.report() + wrote(arguments.outs),
          json_of(found)};
}

}  // namespace er::cli
