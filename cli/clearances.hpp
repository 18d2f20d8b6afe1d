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

/// What is said of them; both empty without any files.
struct Clearances {
  std::string text = {};
  std::string json = {};
};

/// Measures and writes the files.
Clearances write_clearances(const std::vector<std::string>& files, const CellQuery& query,
                            const Way& way);

/// The JSON of an answer, with the clearances where there are any.
std::string with_clearances(const std::string& json, const Clearances& clearances);

}  // namespace er::cli
