#include "elbowroom/files/stance_writing.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/base/expression.hpp"
#include "elbowroom/files/cell_writer.hpp"
#include "elbowroom/files/document.hpp"
#include "elbowroom/files/write_file.hpp"

namespace er {
namespace {

// Where a place is in a text, as an offset in bytes. Columns count characters.
std::size_t offset_of(const std::string& text, const Place& place) {
  std::size_t at = 0;
  for (int line = 1; line < place.line; ++line) at = text.find('\n', at) + 1;
  for (int column = 1; column < place.column && at < text.size();) {
    ++at;
    const bool continues = (static_cast<unsigned char>(text[at]) & 0xC0U) == 0x80U;
    if (!continues) ++column;
  }
  return at;
}

// Puts an entry before the first of a map, in the map's own style.
void put_first(std::string& text, const Node& map, const std::string& entry) {
  const std::size_t at = offset_of(text, map.place);
  if (text[at] == '{') {
    const bool empty = map.entries.empty();
    text.insert(at + 1, entry + (empty ? "" : ", "));
    return;
  }
  const std::string indent(static_cast<std::size_t>(map.place.column - 1), ' ');
  text.insert(at, entry + "\n" + indent);
}

const Node* find_arm(const Node& root, const std::string& name) {
  const Node* arms = root.find("arms");
  if (arms == nullptr || arms->kind != Node::Kind::list) return nullptr;
  for (const Node& item : arms->items)
    if (const Node* own = item.find("name"); own != nullptr && own->text == name) return &item;
  return nullptr;
}

}  // namespace

std::string stance_line(const Arm& arm, const std::string& name, const Posture& posture) {
  std::vector<std::string> values;
  for (int k = 0; k < arm.dof(); ++k)
    values.push_back(text_of_quantity(posture[k], value_dimension(arm.moving_joint(k).kind)));
  return fmt::format("{}: [{}]", name, fmt::join(values, ", "));
}

std::string text_with_stance(const std::string& text, const std::string& file, const Arm& arm,
                             const std::string& name, const Posture& posture) {
  arm.check_posture(posture);
  check_value_name(name);
  const std::string line = stance_line(arm, name, posture);
  if (arm.find_stance(name) != nullptr)
    throw InputError(fmt::format("arm '{}' has a stance '{}' already", arm.name(), name),
                     "give another name, or take the old one out first");
  const Node root = parse_document(text, file);
  const Node* node = find_arm(root, arm.name());
  if (node == nullptr || node->kind != Node::Kind::map)
    throw InputError(
        fmt::format("arm '{}' is not described in {} itself", arm.name(), file),
        fmt::format("it comes from an included file or a template; under stances: add {}", line));
  std::string out = text;
  const Node* stances = node->find("stances");
  if (stances != nullptr && stances->kind == Node::Kind::map) {
    put_first(out, *stances, line);
  } else if (stances == nullptr) {
    put_first(out, *node, fmt::format("stances: {{{}}}", line));
  } else {
    throw stances->error("stances are not a group of names here",
                         fmt::format("write the new one by hand: {}", line));
  }
  return out;
}

void save_stance(const std::filesystem::path& file, const Arm& arm, const std::string& name,
                 const Posture& posture) {
  write_file(file, text_with_stance(read_text(file), file.string(), arm, name, posture));
}

}  // namespace er
