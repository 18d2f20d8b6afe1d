// inspect of a mesh file.
#pragma once

#include <string>
#include <vector>

#include "verb.hpp"

namespace er::cli {

struct InspectMesh {
  std::vector<std::string> files;
  std::string unit;     ///< "": m
  std::string density;  ///< "": none
  std::string within;   ///< "": no shapes are looked for
  std::string cell;     ///< "": no arm to hold it against
  double apart = 0.0;
};

Answer answer_mesh(const InspectMesh& asked, const Arguments& arguments);

}  // namespace er::cli
