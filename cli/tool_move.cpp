#include "tool_move.hpp"

#include <fmt/format.h>

#include "elbowroom/base/units.hpp"
#include "elbowroom/files/recorded_file.hpp"
#include "elbowroom/kinematics/named_frame.hpp"
#include "elbowroom/model/posture_text.hpp"
#include "elbowroom/reach/reach.hpp"

namespace er::cli {
namespace {

Vector3 read_point(const std::string& text) {
  return for_option("--arc", [&] {
    const std::vector<std::string> values = split_at_commas(text);
    if (values.size() != 3)
      throw InputError(fmt::format("a point has three lengths, found {}", values.size()),
                       "write it like \"350 mm, 0 mm, 420 mm\"");
    Vector3 out;
    for (std::size_t i = 0; i < 3; ++i)
      out[static_cast<Eigen::Index>(i)] = parse_quantity(values[i], dimension::length);
    return out;
  });
}

// Where the tool is to end, and the target that says so.
struct End {
  Pose pose;
  std::optional<Target> target = {};
};

// --leave is about the whole way, not about its end alone.
End read_end(const CellQuery& query, RouteQuestion question, const Tool& tool) {
  question.a.freedoms.clear();
  const AskedRoute asked = read_asked_route(query, question);
  if (asked.end.size() > 0) return {tool_pose(query.arm(), tool, asked.end)};
  if (asked.targets.size() > 1)
    throw InputError("a tool move ends at one target", "give one --target");
  const Target& target = asked.targets.front();
  return {target.pose(), target};
}

std::vector<Pose> read_trace(const CellQuery& query, const std::string& file,
                             const RouteQuestion& question) {
  const Arm& arm = query.arm();
  std::vector<Pose> poses = load_timed_poses(file, arm.rotations()).poses;
  const Pose frame =
      for_option("--in", [&] { return named_frame(query.cell(), arm, question.a.frame); });
  for (Pose& pose : poses) pose = frame * pose;
  return poses;
}

ToolTrace trace_through(const std::vector<Pose>& poses, const std::string& file) {
  try {
    return ToolTrace(poses);
  } catch (const InputError& error) {
    throw error.at({file, 0, 0});
  }
}

// What --leave says of the whole way.
ToolFreedom read_tool_freedom(const Arguments& arguments) {
  AtPlace place;
  read_leave(arguments, place);
  if (!place.along[0].is_exact() || !place.along[1].is_exact() || !place.along[2].is_exact() ||
      !place.standoff.is_exact() || place.axis != Vector3::UnitZ())
    throw InputError("--leave: along a tool's path its turn about z and its tilt can be left open",
                     "leave the others out");
  return {.turn = place.turn, .tilt = place.tilt};
}

// A trace from a posture in which all of it can be done: the nearest to the start, or, where
// something is left open, that from which it is quickest.
Verdict<ToolCurve> begun_near(const CellQuery& query, const Posture& start, const std::string& tool,
                              const ToolTrace& trace, const ToolFreedom& freedom,
                              const ToolCurveOptions& options) {
  if (!freedom.is_none()) return ToolLadder(query, tool, trace, freedom, options).curve_near(start);
  Target first;
  first.place(tool, trace.at(0.0)).within(1e-9, 1e-9);
  const auto reached = reach(query, first, {.clearance = options.clearance, .from = start});
  if (!reached) return reached.reason();
  std::optional<Reason> refused;
  for (const Posture& posture : reached->postures()) {
    auto curve = follow_tool_path(query, posture, tool, trace, options);
    if (curve) return curve;
    if (!refused) refused = curve.reason();
  }
  if (has_joints_to_spare(query.arm(), query.arm().end_tool(tool)))
    if (auto curve = ToolLadder(query, tool, trace, {}, options).curve_near(start)) return curve;
  if (ToolLadder(query, tool, trace, {.turn = Band::free()}, options).curve_near(start))
    refused->remedies.push_back({"leave the turn about the tool's axis open: --leave turn=free"});
  return *refused;
}

}  // namespace

void add_tool_move(VerbParser& parser, ToolMoveArguments& arguments) {
  parser.flag(
      "--straight", arguments.straight,
      "instead of a route: the tool goes in a straight line from --from to the end, turning "
      "evenly");
  parser.text(
      "--arc", arguments.arc,
      "instead of a route: the tool goes along an arc through this point of the world: \"350 "
      "mm, 0 mm, 420 mm\"");
  parser.text("--trace", arguments.trace,
              "instead of a route: the tool follows a table of poses: x mm, y mm, z mm, and roll, "
              "pitch, yaw deg or a quaternion; it begins at the first, in a posture near --from");
  const std::vector<std::string> moves{"--straight", "--arc", "--trace"};
  parser.goes_with("--tool", moves).goes_with("--leave", moves).goes_with("--in", {"--trace"});
  parser.text("--stray", arguments.stray, "how far a tool move may be off its path at most");
  parser.goes_with("--stray", moves);
  parser.flag("--steady", arguments.steady,
              "of a tool move: no, unless --tool-speed is kept from the first ramp to the last");
  parser.flag("--compare", arguments.compare,
              "of a tool move: beside a joint move between the same postures");
}

Verdict<AskedToolMove> read_tool_move(const CellQuery& query, const ToolMoveArguments& arguments,
                                      const RouteQuestion& question) {
  const int kinds = (arguments.straight ? 1 : 0) + (arguments.arc.empty() ? 0 : 1) +
                    (arguments.trace.empty() ? 0 : 1);
  if (kinds > 1)
    throw InputError("a tool move is one of --straight, --arc and --trace", "leave the others out");
  const Arm& arm = query.arm();
  const double clearance = read_clearance(question.a);
  const double stray =
      for_option("--stray", [&] { return parse_quantity(arguments.stray, dimension::length); });
  if (!(stray > 0.0))
    throw InputError("--stray: a tool move is off a little, so this is above zero");
  const Tool tool = for_option("--tool", [&] { return arm.end_tool(question.a.tool); });
  Posture start = read_posture_argument(arm, question.from, "--from");
  const ToolCurveOptions options{.clearance = clearance, .deviation = stray};
  const ToolFreedom freedom = read_tool_freedom(question.a);
  if (!arguments.trace.empty()) {
    if (!question.to.empty() || !question.a.target.empty() || !question.a.place.empty())
      throw InputError("--trace: it ends where the table does", "leave out --to and the target");
    const std::vector<Pose> poses = read_trace(query, arguments.trace, question);
    const ToolTrace trace = trace_through(poses, arguments.trace);
    const auto curve = begun_near(query, start, tool.name, trace, freedom, options);
    if (!curve) return curve.reason();
    return AskedToolMove{*curve, query,
                         fmt::format("  begins in posture \"{}\"\n",
                                     posture_argument(arm, curve->curve.at(0.0).position))};
  }
  const End end = read_end(query, question, tool);
  const CellQuery with = end.target ? with_meant_contacts(query, *end.target) : query;
  const Pose from = tool_pose(arm, tool, start);
  const ToolPath path = for_option(arguments.straight ? "--straight" : "--arc", [&]() -> ToolPath {
    if (arguments.straight) return ToolLine(from, end.pose);
    return ToolArc(from, read_point(arguments.arc), end.pose);
  });
  const auto curve = follow_freely(with, tool.name, path, freedom, start, options);
  if (!curve) {
    Reason reason = curve.reason();
    if (freedom.is_none())
      reason.remedies = ways_to_do_whole(with, tool.name, path, start, options);
    return reason;
  }
  return AskedToolMove{*curve, with};
}

}  // namespace er::cli
