// How near things come along a way: the option that verbs with a way share.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/base/joint_curve.hpp"
#include "elbowroom/collision/cell_query.hpp"
#include "verb.hpp"

namespace er::cli {

/// --clearances FILE, any number of times.
void add_clearances(VerbParser& parser, std::vector<std::string>& files);
/// Checks the endings of the files before any work is done.
void check_clearances(const std::vector<std::string>& files);

struct Way {
  const JointCurve& curve;
  std::string title;
  bool is_timed = true;  ///< else its parameter counts straight moves
  double asked = 0.0;    ///< m: the clearance that it is to keep; 0 where none is
};

/// Measures and writes the files, and says in a line what came of it; "" without any.
std::string write_clearances(const std::vector<std::string>& files, const CellQuery& query,
                             const Way& way);

}  // namespace er::cli
