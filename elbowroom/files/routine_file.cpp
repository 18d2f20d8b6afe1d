#include "elbowroom/files/routine_file.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/files/expansion.hpp"
#include "elbowroom/files/reading.hpp"
#include "elbowroom/files/route_reading.hpp"
#include "elbowroom/files/step_reading.hpp"
#include "elbowroom/routine/check_routine.hpp"

namespace er {
namespace {

void read_profile(const Node& root, Routine& routine) {
  if (const Node* profile = root.find("profile"))
    routine.profile =
        at_place(*profile, [&] { return profile_named(as_text(*profile, "a profile")); });
  if (const Node* keep = root.find("keep_jerk")) {
    routine.keep_jerk = as_yes(*keep);
    if (routine.keep_jerk && routine.profile != Profile::time_optimal)
      throw keep->error("keeping jerk limits is asked of profile time-optimal",
                        "add: profile: time-optimal, or take profile: jerk-limited");
  }
  if (const Node* round = root.find("round")) {
    routine.corners = at_place(
        *round, [&] { return parse_corner_bounds(as_text(*round, "how far off corners may be")); });
    if (routine.profile != Profile::time_optimal)
      throw round->error("only profile time-optimal goes round corners",
                         "add: profile: time-optimal");
  }
}

// In the frame of which piece each target of the list is, if of one.
std::vector<std::string> pieces_of_targets(const Node& list, const Cell& cell,
                                           const TargetDefaults& defaults) {
  std::vector<std::string> out;
  for (const Node& item : as_list(list, "targets")) {
    const Node* in = item.find("in");
    const std::string frame = in != nullptr ? as_text(*in, "a frame name") : defaults.frame;
    const bool is_piece = std::any_of(cell.pieces().begin(), cell.pieces().end(),
                                      [&](const Body& piece) { return piece.name == frame; });
    out.push_back(is_piece ? frame : std::string{});
  }
  return out;
}

Routine routine_of(const Node& root, const std::filesystem::path& file, const Cell& cell) {
  expect_kind(root, "routine");
  expect_keys(
      root, "a routine file",
      root_keys(with_target_defaults({"name", "arm", "start", "clearance", "speed", "profile",
                                      "keep_jerk", "round", "seed", "targets", "steps"})));
  const Arm& arm = arm_of_file(root, cell);
  const TargetDefaults defaults = read_target_defaults(root, cell, arm);
  Routine routine;
  routine.arm = arm.name();
  if (const Node* name = root.find("name")) routine.name = as_text(*name, "a name");
  if (const Node* start = root.find("start")) {
    routine.start = as_text(*start, "a stance name");
    at_place(*start, [&] { return arm.stance(routine.start).size(); });
  }
  if (const Node* clearance = root.find("clearance"))
    routine.clearance = read_clearance(*clearance);
  if (const Node* speed = root.find("speed")) routine.speed = read_speed(*speed);
  read_profile(root, routine);
  if (const Node* seed = root.find("seed")) {
    const double value = as_quantity(*seed, dimension::number);
    if (!(value >= 0.0) || value != static_cast<double>(static_cast<std::uint64_t>(value)))
      throw seed->error("a seed is a whole number, zero or above");
    routine.seed = static_cast<std::uint64_t>(value);
  }
  std::vector<Target> targets;
  std::vector<std::string> target_pieces;
  if (const Node* list = root.find("targets")) {
    targets = read_targets(*list, cell, arm, defaults);
    target_pieces = pieces_of_targets(*list, cell, defaults);
  }
  const StepContext context{cell, arm, defaults, targets, target_pieces, file, routine.drawings};
  const Node& steps = need(root, "a routine file", "steps");
  for (const Node& item : as_list(steps, "steps")) read_steps(item, context, {}, routine.steps);
  if (routine.steps.empty()) throw steps.error("a routine needs at least one step");
  at_place(steps, [&] { return check_routine(cell, routine).size(); });
  return routine;
}

}  // namespace

Routine load_routine(const std::filesystem::path& path, const Cell& cell) {
  return routine_of(read_expanded(path), path, cell);
}

Routine parse_routine(const std::string& text, const std::string& file, const Cell& cell) {
  Node root = parse_document(text, file);
  expand(root, file);
  return routine_of(root, file, cell);
}

}  // namespace er
