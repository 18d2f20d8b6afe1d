#include "elbowroom/files/question_file.hpp"

#include <fmt/format.h>

#include "elbowroom/files/document.hpp"
#include "elbowroom/files/end_reading.hpp"
#include "elbowroom/files/expansion.hpp"

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
  const EndReader ends(arm, targets_named_in(root, path, cell));
  const Node& list = need(root, "a question file", "questions");
  for (const Node& item : as_list(list, "questions")) {
    expect_keys(item, "a question", {"name", "from", "to"});
    for (const Node* from : each_of(need(item, "a question", "from")))
      for (const Node* to : each_of(need(item, "a question", "to"))) {
        const ReadEnd start = ends.read(*from, EndKinds::fixed);
        ReadEnd end = ends.read(*to, EndKinds::any_target);
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
