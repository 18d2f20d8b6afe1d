// inspect of a mesh file.
#pragma once

#include <string>

#include "verb.hpp"

namespace er::cli {

struct InspectMesh {
  std::string file;
  std::string unit;     ///< "": what the format says, or m
  std::string density;  ///< "": none
  std::string cell;     ///< "": no arm to hold it against
  double apart = 0.0;
};

/// By its ending; CAD exchange files, too, which are refused with what to do.
bool is_mesh_file(const std::string& file);
Answer answer_mesh(const InspectMesh& asked, const Arguments& arguments);

}  // namespace er::cli
