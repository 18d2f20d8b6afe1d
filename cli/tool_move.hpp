// Moves of the tool on the command line, which `pace` puts time on: straight lines, arcs, traces.
#pragma once

#include "elbowroom/pace/pace.hpp"
#include "route_question.hpp"

namespace er::cli {

struct ToolMoveArguments {
  bool straight = false;
  std::string arc;    ///< a point on the way
  std::string trace;  ///< a table of poses
  std::string stray = "0.2 mm";
  bool steady = false;
  bool compare = false;

  [[nodiscard]] bool given() const { return straight || !arc.empty() || !trace.empty(); }
};

/// --straight, --arc, --trace, --stray, --steady and --compare.
void add_tool_move(VerbParser& parser, ToolMoveArguments& arguments);

struct AskedToolMove {
  ToolCurve curve;
  CellQuery query;         ///< with the contacts that the target means
  std::string notes = {};  ///< lines of text
};

/// From --from, or for a trace from the posture nearest to it that is on the first pose, to the end
/// that the question names.
Verdict<AskedToolMove> read_tool_move(const CellQuery& query, const ToolMoveArguments& arguments,
                                      const RouteQuestion& question);

}  // namespace er::cli
