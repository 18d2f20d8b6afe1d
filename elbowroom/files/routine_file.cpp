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

// The stance that an arm begins in.
std::string read_start(const Node& start, const Arm& arm) {
  std::string name = as_text(start, "a stance name");
  at_place(start, [&] { return arm.stance(name).size(); });
  return name;
}

// `arm` and `start`, or a list of several under `arms`.
void read_arms(const Node& root, const Cell& cell, Routine& routine) {
  const Node* list = root.find("arms");
  if (list == nullptr) {
    const Arm& arm = arm_of_file(root, cell);
    routine.arm = arm.name();
    if (const Node* start = root.find("start")) routine.start = read_start(*start, arm);
    return;
  }
  for (const char* key : {"arm", "start"})
    if (const Node* one = root.find(key))
      throw one->error(fmt::format("'{}' is said under arms: where several take part", key),
                       "write arms: [{arm: teasel, start: home}, {arm: bracken, start: home}]");
  for (const Node& item : as_list(*list, "arms that take part")) {
    expect_keys(item, "an arm that takes part", {"arm", "start"});
    const Node& name = need(item, "an arm that takes part", "arm");
    const Arm& arm =
        at_place(name, [&]() -> const Arm& { return cell.arm(as_text(name, "an arm name")); });
    ArmStart one{arm.name()};
    if (const Node* start = item.find("start")) one.start = read_start(*start, arm);
    if (routine.arm.empty()) {
      routine.arm = one.arm;
      routine.start = one.start;
    } else {
      routine.others.push_back(std::move(one));
    }
  }
  if (routine.others.empty())
    throw list->error("several arms are two or more", "name another one, or write arm: NAME");
}

// What the steps of each arm may refer to. A target is for the first arm unless it says otherwise.
std::vector<ArmContext> contexts_of(const Node& root, const Cell& cell, const Routine& routine) {
  std::vector<ArmContext> out;
  for (const std::string& name : routine.arms()) {
    Node own = root;
    if (!out.empty()) std::erase_if(own.entries, [](const auto& e) { return e.key == "tool"; });
    const Arm& arm = cell.arm(name);
    ArmContext context{arm, read_target_defaults(own, cell, arm)};
    if (const Node* all = root.find("targets")) {
      Node list = *all;
      (void)as_list(list, "targets");
      std::erase_if(list.items, [&](const Node& item) {
        const Node* of = item.find("arm");
        return (of == nullptr ? routine.arm : as_text(*of, "an arm name")) != name;
      });
      for (Node& item : list.items)
        std::erase_if(item.entries, [](const auto& e) { return e.key == "arm"; });
      if (!list.items.empty() || out.empty()) {
        context.targets = read_targets(list, cell, arm, context.defaults);
        context.target_pieces = pieces_of_targets(list, cell, context.defaults);
      }
    }
    out.push_back(std::move(context));
  }
  if (const Node* all = root.find("targets"))
    for (const Node& item : all->items)
      if (const Node* of = item.find("arm")) {
        const std::vector<std::string> arms = routine.arms();
        const std::string name = as_text(*of, "an arm name");
        if (std::find(arms.begin(), arms.end(), name) == arms.end())
          throw of->placed(unknown_name("arm that takes part", name, arms));
      }
  return out;
}

Routine routine_of(const Node& root, const std::filesystem::path& file, const Cell& cell) {
  expect_kind(root, "routine");
  expect_keys(root, "a routine file",
              root_keys(with_target_defaults({"name", "arm", "start", "arms", "at_once",
                                              "clearance", "speed", "profile", "keep_jerk", "round",
                                              "seed", "targets", "steps"})));
  Routine routine;
  read_arms(root, cell, routine);
  if (const Node* name = root.find("name")) routine.name = as_text(*name, "a name");
  if (const Node* at_once = root.find("at_once")) {
    routine.at_once = as_yes(*at_once);
    if (routine.others.empty())
      throw at_once->error("one arm alone does nothing at once with another",
                           "name several under arms:");
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
  const std::vector<ArmContext> arms = contexts_of(root, cell, routine);
  const StepContext context{cell, arms, file, routine.drawings};
  const Node& steps = need(root, "a routine file", "steps");
  for (const Node& item : as_list(steps, "steps")) read_steps(item, context, {}, routine.steps);
  if (routine.steps.empty()) throw steps.error("a routine needs at least one step");
  at_place(steps, [&] { return check_routine(cell, routine), 0; });
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
