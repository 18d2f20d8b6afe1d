#include "elbowroom/files/end_reading.hpp"

#include <algorithm>

#include "elbowroom/files/reading.hpp"
#include "elbowroom/files/target_file.hpp"

namespace er {

std::vector<Target> targets_named_in(const Node& root, const std::filesystem::path& path,
                                     const Cell& cell) {
  const Node* file = root.find("targets");
  if (file == nullptr) return {};
  const std::string name = as_text(*file, "the name of a target file");
  return at_place(*file, [&] { return load_targets(path.parent_path() / name, cell); });
}

EndReader::EndReader(const Arm& arm, std::vector<Target> targets)
    : arm_(arm), targets_(std::move(targets)) {
  for (const Target& target : targets_) names_.push_back(target.name());
}

ReadEnd EndReader::read(const Node& node, EndKinds kinds,
                        const std::vector<std::string>& others) const {
  if (node.kind == Node::Kind::scalar) return stance(node);
  std::vector<std::string> ways{"stance", "posture"};
  if (kinds != EndKinds::fixed) ways.emplace_back("target");
  if (kinds == EndKinds::any_target) ways.emplace_back("any_target");
  std::vector<std::string> known = ways;
  known.insert(known.end(), others.begin(), others.end());
  expect_keys(node, others.empty() ? "an end of a route" : "a waypoint", known);
  const Node::Entry* chosen = nullptr;
  for (const Node::Entry& entry : node.entries) {
    if (std::find(ways.begin(), ways.end(), entry.key) == ways.end()) continue;
    if (chosen != nullptr)
      throw node.error("it is one thing, '" + chosen->key + "' or '" + entry.key + "'");
    chosen = &entry;
  }
  if (chosen == nullptr)
    throw node.error("it does not say where", "give a stance, a posture or a target");
  return value_of(*chosen);
}

ReadEnd EndReader::value_of(const Node::Entry& entry) const {
  const Node& value = entry.value;
  if (entry.key == "stance") return stance(value);
  if (entry.key == "posture") return {.name = "a posture", .posture = read_posture(value, arm_)};
  ReadEnd out;
  if (entry.key == "target") {
    out.targets.push_back(target(value));
    out.name = out.targets.front().name();
    return out;
  }
  for (const Node& item : as_list(value, "any_target")) {
    out.targets.push_back(target(item));
    out.name += (out.name.empty() ? "" : " or ") + out.targets.back().name();
  }
  if (out.targets.empty()) throw value.error("an empty list asks for nothing");
  return out;
}

ReadEnd EndReader::stance(const Node& node) const {
  const std::string name = as_text(node, "a stance");
  return {.name = name, .posture = at_place(node, [&] { return arm_.stance(name); })};
}

const Target& EndReader::target(const Node& node) const {
  const std::string name = as_text(node, "a target");
  const auto found = std::find(names_.begin(), names_.end(), name);
  if (found == names_.end()) throw node.placed(unknown_name("target", name, names_));
  return targets_[static_cast<std::size_t>(found - names_.begin())];
}

}  // namespace er
