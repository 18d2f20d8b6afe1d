#include "elbowroom/files/target_file.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/files/document.hpp"
#include "elbowroom/files/expansion.hpp"
#include "elbowroom/files/reading.hpp"
#include "elbowroom/files/route_reading.hpp"
#include "elbowroom/files/target_reading.hpp"

namespace er {
namespace {

const Arm& arm_of(const Node& root, const Cell& cell) {
  const Node* name = root.find("arm");
  const std::string text = name != nullptr ? as_text(*name, "an arm name") : std::string{};
  return at_place(name != nullptr ? *name : root, [&]() -> const Arm& { return cell.arm(text); });
}

std::vector<std::string> with_defaults(std::vector<std::string> keys) {
  keys.insert(keys.end(), target_default_keys().begin(), target_default_keys().end());
  return keys;
}

double read_clearance(const Node& node) {
  const double clearance = as_quantity(node, dimension::length);
  if (clearance < 0.0) throw node.error("a clearance must be zero or more");
  return clearance;
}

// What only free moves can be told: rules on the way, and what it should be short of.
void read_way(const Node& node, const Cell& cell, const Arm& arm, const TargetDefaults& defaults,
              Step& step) {
  for (const char* key : {"keep", "cost", "improve"})
    if (const Node* found = node.find(key); found && step.kind == StepKind::line_to)
      throw found->error(fmt::format("a straight move has no choice of way: '{}' is for go", key));
  if (const Node* keep = node.find("keep"))
    for (const Node& item : as_list(*keep, "keep"))
      step.keep.push_back(read_rule(item, cell, arm, defaults, step.keep.size() + 1));
  if (const Node* cost = node.find("cost")) step.cost = read_route_cost(*cost);
  if (const Node* improve = node.find("improve")) step.improve = read_rounds(*improve);
}

Step read_step(const Node& node, const Cell& cell, const Arm& arm,
               const std::vector<Target>& targets, const TargetDefaults& defaults) {
  expect_keys(node, "a step",
              {"name", "go", "line", "clearance", "speed", "keep", "cost", "improve"});
  const Node* go = node.find("go");
  const Node* line = node.find("line");
  if ((go == nullptr) == (line == nullptr))
    throw node.error("a step is either a free move (go) or a straight tool move (line)",
                     "write go: {stance: home}, go: {target: NAME} or line: {target: NAME}");
  Step step;
  const Node& move = go != nullptr ? *go : *line;
  expect_keys(move, go != nullptr ? "a free move" : "a straight move",
              go != nullptr ? std::vector<std::string>{"stance", "target"}
                            : std::vector<std::string>{"target"});
  if (move.entries.size() != 1) throw move.error("a move has one end", "name one target or stance");
  const Node::Entry& end = move.entries.front();
  const std::string name = as_text(end.value, "a name");
  if (end.key == "stance") {
    at_place(end.value, [&] { return arm.stance(name); });
    step.kind = StepKind::go_to_stance;
    step.stance = name;
  } else {
    std::vector<std::string> known;
    for (const Target& target : targets) known.push_back(target.name());
    const auto found = std::find(known.begin(), known.end(), name);
    if (found == known.end()) throw end.value.placed(unknown_name("target", name, known));
    step.kind = go != nullptr ? StepKind::go_to_target : StepKind::line_to;
    step.target = targets[static_cast<std::size_t>(found - known.begin())];
    if (line != nullptr && step.target.full_pose() == nullptr)
      throw end.value.error(
          fmt::format(
              "a straight move needs a target that is one full place; '{}' leaves something "
              "open or asks for more",
              name),
          "go: to it instead, or give it a place with nothing left open");
  }
  step.name = fmt::format("{} {}", go != nullptr ? "go to" : "line to", name);
  if (const Node* own = node.find("name")) step.name = as_text(*own, "a step name");
  if (const Node* clearance = node.find("clearance")) step.clearance = read_clearance(*clearance);
  if (const Node* speed = node.find("speed")) step.speed = read_speed(*speed);
  read_way(node, cell, arm, defaults, step);
  return step;
}

std::vector<Target> targets_of(const Node& root, const Cell& cell) {
  expect_kind(root, "targets");
  expect_keys(root, "a target file", root_keys(with_defaults({"name", "arm", "targets"})));
  const Arm& arm = arm_of(root, cell);
  return read_targets(need(root, "a target file", "targets"), cell, arm,
                      read_target_defaults(root, cell, arm));
}

}  // namespace

std::vector<Target> load_targets(const std::filesystem::path& path, const Cell& cell) {
  return targets_of(read_expanded(path), cell);
}

std::vector<Target> parse_targets(const std::string& text, const std::string& file,
                                  const Cell& cell) {
  Node root = parse_document(text, file);
  expand(root, file);
  return targets_of(root, cell);
}

Routine load_routine(const std::filesystem::path& path, const Cell& cell) {
  const Node root = read_expanded(path);
  expect_kind(root, "routine");
  expect_keys(root, "a routine file",
              root_keys(with_defaults({"name", "arm", "start", "clearance", "speed", "profile",
                                       "keep_jerk", "round", "seed", "targets", "steps"})));
  const Arm& arm = arm_of(root, cell);
  Routine routine;
  routine.arm = arm.name();
  if (const Node* name = root.find("name")) routine.name = as_text(*name, "a name");
  if (const Node* start = root.find("start")) {
    routine.start = as_text(*start, "a stance name");
    at_place(*start, [&] { return arm.stance(routine.start); });
  }
  if (const Node* clearance = root.find("clearance"))
    routine.clearance = read_clearance(*clearance);
  if (const Node* speed = root.find("speed")) routine.speed = read_speed(*speed);
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
  if (const Node* seed = root.find("seed")) {
    const double value = as_quantity(*seed, dimension::number);
    if (!(value >= 0.0) || value != static_cast<double>(static_cast<std::uint64_t>(value)))
      throw seed->error("a seed is a whole number, zero or above");
    routine.seed = static_cast<std::uint64_t>(value);
  }
  std::vector<Target> targets;
  if (const Node* list = root.find("targets"))
    targets = read_targets(*list, cell, arm, read_target_defaults(root, cell, arm));
  for (const Node& item : as_list(need(root, "a routine file", "steps"), "steps"))
    routine.steps.push_back(
        read_step(item, cell, arm, targets, read_target_defaults(root, cell, arm)));
  if (routine.steps.empty()) throw root.find("steps")->error("a routine needs at least one step");
  return routine;
}

}  // namespace er
