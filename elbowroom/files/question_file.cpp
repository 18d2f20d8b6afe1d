#include "elbowroom/files/question_file.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/files/document.hpp"
#include "elbowroom/files/expansion.hpp"
#include "elbowroom/files/reading.hpp"
#include "elbowroom/files/target_file.hpp"
#include "elbowroom/files/target_reading.hpp"

namespace er {
namespace {

// A value, or each of a list of them.
std::vector<const Node*> each_of(const Node& node) {
  if (node.kind != Node::Kind::list) return {&node};
  std::vector<const Node*> out;
  for (const Node& item : node.items) out.push_back(&item);
  if (out.empty()) throw node.error("an empty list asks for nothing");
  return out;
}

struct End {
  std::string name;
  Posture posture = {};
  std::vector<Target> targets = {};
};

// "home", or {stance: home}, {posture: [..]}, {target: upper_2}, {any_target: [..]}.
class EndReader {
 public:
  EndReader(const Arm& arm, const std::vector<Target>& targets) : arm_(arm), targets_(targets) {
    for (const Target& target : targets) names_.push_back(target.name());
  }

  [[nodiscard]] End read(const Node& node, bool may_be_target) const {
    if (node.kind == Node::Kind::scalar) return stance(node);
    std::vector<std::string> known{"stance", "posture"};
    if (may_be_target) known.insert(known.end(), {"target", "any_target"});
    expect_keys(node, "an end of a route", known);
    if (node.entries.size() != 1) throw node.error("an end of a route is one thing");
    const Node& value = node.entries.front().value;
    const std::string& key = node.entries.front().key;
    if (key == "stance") return stance(value);
    if (key == "posture") return {.name = "a posture", .posture = read_posture(value, arm_)};
    End out;
    if (key == "target") {
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

 private:
  [[nodiscard]] End stance(const Node& node) const {
    const std::string name = as_text(node, "a stance");
    return {.name = name, .posture = at_place(node, [&] { return arm_.stance(name); })};
  }
  [[nodiscard]] const Target& target(const Node& node) const {
    const std::string name = as_text(node, "a target");
    const auto found = std::find(names_.begin(), names_.end(), name);
    if (found == names_.end()) throw node.placed(unknown_name("target", name, names_));
    return targets_[static_cast<std::size_t>(found - names_.begin())];
  }

  const Arm& arm_;
  const std::vector<Target>& targets_;
  std::vector<std::string> names_;
};

std::vector<Target> targets_of(const Node& root, const std::filesystem::path& path,
                               const Cell& cell) {
  const Node* file = root.find("targets");
  if (file == nullptr) return {};
  const std::string name = as_text(*file, "the name of a target file");
  return at_place(*file, [&] { return load_targets(path.parent_path() / name, cell); });
}

}  // namespace

RouteQuestions load_questions(const std::filesystem::path& path, const Cell& cell) {
  const Node root = read_expanded(path);
  expect_kind(root, "questions");
  expect_keys(root, "a question file", root_keys({"name", "arm", "targets", "questions"}));
  RouteQuestions out;
  const Node* name = root.find("arm");
  const Arm& arm = at_place(name != nullptr ? *name : root, [&]() -> const Arm& {
    return cell.arm(name != nullptr ? as_text(*name, "an arm name") : std::string{});
  });
  out.arm = arm.name();
  const std::vector<Target> targets = targets_of(root, path, cell);
  const EndReader ends(arm, targets);
  const Node& list = need(root, "a question file", "questions");
  for (const Node& item : as_list(list, "questions")) {
    expect_keys(item, "a question", {"name", "from", "to"});
    for (const Node* from : each_of(need(item, "a question", "from")))
      for (const Node* to : each_of(need(item, "a question", "to"))) {
        const End start = ends.read(*from, false);
        End end = ends.read(*to, true);
        if (end.posture.size() > 0 && end.posture == start.posture) continue;
        std::string title = fmt::format("{} to {}", start.name, end.name);
        if (const Node* own = item.find("name")) title = as_text(*own, "a name") + ": " + title;
        out.questions.push_back({title, start.posture, end.posture, std::move(end.targets)});
      }
  }
  if (out.questions.empty()) throw list.error("there is no question");
  return out;
}

}  // namespace er
