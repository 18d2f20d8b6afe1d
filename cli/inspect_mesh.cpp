#include "inspect_mesh.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

#include "elbowroom/base/expression.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/bodies/mesh_inspection.hpp"
#include "elbowroom/draw/bodies_picture.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/exchange_file.hpp"
#include "elbowroom/files/mesh_file.hpp"
#include "elbowroom/files/mesh_json.hpp"

namespace er::cli {
namespace {

// A file as a cell file in some folder would name it.
std::string as_named_from(const std::string& cell, const std::string& file) {
  return cell.empty()
             ? file
             : std::filesystem::proximate(file, std::filesystem::absolute(cell).parent_path())
                   .string();
}

Bodies read_bodies(const std::vector<std::string>& files, double scale) {
  std::vector<Bodies> out;
  for (const std::string& file : files) {
    try {
      out.push_back(bodies_of(read_mesh_file(file, Vector3::Constant(scale))));
    } catch (const InputError& error) {
      if (!error.place().file.empty()) throw;
      throw InputError(error.message(), error.advice(), {file, 0, 0});
    }
  }
  return joined(out);
}

}  // namespace

Answer answer_mesh(const InspectMesh& asked, const Arguments& arguments) {
  MeshInspectionOptions options;
  for (const std::string& file : asked.files)
    options.files.push_back(as_named_from(asked.cell, file));
  if (std::all_of(asked.files.begin(), asked.files.end(), is_exchange_file)) {
    if (!asked.unit.empty())
      throw InputError("--unit: this file states its own unit", "leave out --unit");
    options.unit = "";
  } else if (!asked.unit.empty()) {
    options.unit = asked.unit;
    options.scale = for_option("--unit", [&] { return metres_in(asked.unit); });
  }
  if (!asked.density.empty())
    options.density =
        for_option("--density", [&] { return parse_quantity(asked.density, dimension::density); });
  if (!asked.within.empty()) {
    options.within =
        for_option("--within", [&] { return parse_quantity(asked.within, dimension::length); });
    if (!(*options.within > 0.0))
      throw InputError("--within: a distance above zero is expected", "write it like 5mm");
  }
  Bodies bodies = read_bodies(asked.files, options.scale);
  if (!asked.cell.empty()) {
    const Cell cell = load_cell(asked.cell);
    options.arm = for_option("--arm", [&] { return cell.arm(arguments.arm); });
    options.given = links_given(bodies, options.files, *options.arm);
  }
  const MeshInspection found = inspect_mesh(std::move(bodies), options);
  if (!arguments.outs.empty()) {
    const Image image = render_bodies(found, asked.apart);
    for (const std::string& file : arguments.outs) write_png(file, image);
  }
  return {found.passed() ? Exit::yes : Exit::no, found.report() + wrote(arguments.outs),
          json_of(found)};
}

}  // namespace er::cli
