#include "elbowroom/files/document.hpp"

#include <fmt/format.h>
#include <yaml-cpp/eventhandler.h>
#include <yaml-cpp/exceptions.h>
#include <yaml-cpp/parser.h>

#include <fstream>
#include <sstream>
#include <utility>

namespace er {
namespace {

// Turns the parser's marks (lines and bytes from 0) into places (lines and characters from 1).
class Marks {
 public:
  Marks(const std::string& text, std::string file) : file_(std::move(file)) {
    std::istringstream in(text);
    for (std::string line; std::getline(in, line);) lines_.push_back(line);
    if (!lines_.empty() && lines_[0].rfind("\xEF\xBB\xBF", 0) == 0) lines_[0].erase(0, 3);
  }

  [[nodiscard]] Place place(const YAML::Mark& mark) const {
    if (mark.is_null()) return {file_, 0, 0};
    int column = mark.column + 1;
    if (mark.line >= 0 && static_cast<std::size_t>(mark.line) < lines_.size()) {
      const std::string& line = lines_[static_cast<std::size_t>(mark.line)];
      for (std::size_t i = 0; i < line.size() && i < static_cast<std::size_t>(mark.column); ++i)
        if ((static_cast<unsigned char>(line[i]) & 0xC0U) == 0x80U) --column;
    }
    return {file_, mark.line + 1, column};
  }

 private:
  std::string file_;
  std::vector<std::string> lines_;
};

// Builds the tree from the parser's events; the parser's own node type would swallow double keys.
class TreeBuilder : public YAML::EventHandler {
 public:
  explicit TreeBuilder(const Marks& marks) : marks_(marks) {}

  Node root;

  void OnDocumentStart(const YAML::Mark& /*mark*/) override {}
  void OnDocumentEnd() override {}

  void OnNull(const YAML::Mark& mark, YAML::anchor_t /*anchor*/) override {
    add({.kind = Node::Kind::nothing,
         .place = marks_.place(mark),
         .text = {},
         .items = {},
         .entries = {}});
  }
  void OnAlias(const YAML::Mark& mark, YAML::anchor_t /*anchor*/) override {
    throw InputError("an alias (*name) is not used in these files", "write the value out",
                     marks_.place(mark));
  }
  void OnScalar(const YAML::Mark& mark, const std::string& tag, YAML::anchor_t anchor,
                const std::string& value) override {
    refuse_extras(mark, tag, anchor);
    Node node{.kind = Node::Kind::scalar,
              .place = marks_.place(mark),
              .text = value,
              .items = {},
              .entries = {}};
    if (!open_.empty() && open_.back().kind == Node::Kind::map && !has_key_.back()) {
      take_key(node);
    } else {
      add(std::move(node));
    }
  }
  void OnSequenceStart(const YAML::Mark& mark, const std::string& tag, YAML::anchor_t anchor,
                       YAML::EmitterStyle::value /*style*/) override {
    open(mark, tag, anchor, Node::Kind::list);
  }
  void OnSequenceEnd() override { close(); }
  void OnMapStart(const YAML::Mark& mark, const std::string& tag, YAML::anchor_t anchor,
                  YAML::EmitterStyle::value /*style*/) override {
    open(mark, tag, anchor, Node::Kind::map);
  }
  void OnMapEnd() override { close(); }

 private:
  void refuse_extras(const YAML::Mark& mark, const std::string& tag, YAML::anchor_t anchor) const {
    if (anchor != 0)
      throw InputError("an anchor (&name) is not used in these files", "write the value out",
                       marks_.place(mark));
    if (!tag.empty() && tag != "?" && tag != "!")
      throw InputError(fmt::format("a tag ({}) is not used in these files", tag), "leave it out",
                       marks_.place(mark));
  }

  void open(const YAML::Mark& mark, const std::string& tag, YAML::anchor_t anchor,
            Node::Kind kind) {
    refuse_extras(mark, tag, anchor);
    if (!open_.empty() && open_.back().kind == Node::Kind::map && !has_key_.back())
      throw InputError("a key must be a plain word", "", marks_.place(mark));
    open_.push_back(
        {.kind = kind, .place = marks_.place(mark), .text = {}, .items = {}, .entries = {}});
    has_key_.push_back(false);
  }

  void close() {
    Node done = std::move(open_.back());
    open_.pop_back();
    has_key_.pop_back();
    add(std::move(done));
  }

  void take_key(const Node& key) {
    Node& map = open_.back();
    for (const Node::Entry& entry : map.entries)
      if (entry.key == key.text)
        throw InputError(fmt::format("the key '{}' stands twice, first in line {}", key.text,
                                     entry.key_place.line),
                         "keep one of them", key.place);
    map.entries.push_back({key.text, key.place, {}});
    has_key_.back() = true;
  }

  void add(Node node) {
    if (open_.empty()) {
      root = std::move(node);
    } else if (open_.back().kind == Node::Kind::list) {
      open_.back().items.push_back(std::move(node));
    } else if (has_key_.back()) {
      open_.back().entries.back().value = std::move(node);
      has_key_.back() = false;
    } else {
      throw InputError("a key is empty", "", node.place);
    }
  }

  const Marks& marks_;
  std::vector<Node> open_;
  std::vector<bool> has_key_;
};

std::string what_is(const Node& node) {
  switch (node.kind) {
    case Node::Kind::nothing:
      return "nothing";
    case Node::Kind::scalar:
      return "'" + node.text + "'";
    case Node::Kind::list:
      return fmt::format("a list of {}", node.items.size());
    case Node::Kind::map:
      return "a group of keys";
  }
  return "something else";
}

}  // namespace

const Node* Node::find(std::string_view key) const {
  for (const Entry& entry : entries)
    if (entry.key == key) return &entry.value;
  return nullptr;
}

Node* Node::find(std::string_view key) {
  return const_cast<Node*>(std::as_const(*this).find(key));  // NOLINT: this is not const
}

void Node::remove(std::string_view key) {
  std::erase_if(entries, [&](const Entry& entry) { return entry.key == key; });
}

InputError Node::error(std::string message, std::string advice) const {
  return placed(InputError(std::move(message), std::move(advice)));
}

InputError Node::placed(const InputError& error) const {
  std::string advice = error.advice();
  if (const std::string made = how_made(scope); !made.empty())
    advice += (advice.empty() ? "" : "; ") + made;
  return InputError(error.message(), advice, place);
}

Node parse_document(const std::string& text, const std::string& file) {
  const Marks marks(text, file);
  TreeBuilder builder(marks);
  try {
    std::istringstream in(text);
    YAML::Parser parser(in);
    if (!parser.HandleNextDocument(builder))
      throw InputError("the file is empty", "", {file, 1, 1});
    TreeBuilder second(marks);
    if (parser.HandleNextDocument(second))
      throw InputError("a second document begins in this file", "keep one document to a file",
                       second.root.place);
  } catch (const YAML::Exception& error) {
    throw InputError("this is not well-formed YAML: " + error.msg, "", marks.place(error.mark));
  }
  return std::move(builder.root);
}

Node read_document(const std::filesystem::path& path) {
  return parse_document(read_text(path), path.string());
}

std::string read_text(const std::filesystem::path& path) {
  std::error_code code;
  if (std::filesystem::is_directory(path, code))
    throw InputError("this is a folder, not a file", "", {path.string(), 0, 0});
  std::ifstream in(path, std::ios::binary);
  if (!in) {
    std::vector<std::string> siblings;
    const auto folder = path.has_parent_path() ? path.parent_path() : std::filesystem::path(".");
    for (const auto& entry : std::filesystem::directory_iterator(folder, code))
      siblings.push_back(entry.path().filename().string());
    const std::string near = nearest_name(path.filename().string(), siblings);
    throw InputError("there is no such file, or it may not be read",
                     near.empty() ? "" : fmt::format("did you mean '{}'?", near),
                     {path.string(), 0, 0});
  }
  std::ostringstream text;
  text << in.rdbuf();
  return text.str();
}

Place place_in(std::string_view text, std::ptrdiff_t offset, const std::string& file) {
  if (offset < 0) return {file, 0, 0};
  const auto end = text.begin() + std::min(offset, static_cast<std::ptrdiff_t>(text.size()));
  const auto line = 1 + std::count(text.begin(), end, '\n');
  const auto last = std::find(std::make_reverse_iterator(end), text.rend(), '\n').base();
  return {file, static_cast<int>(line), static_cast<int>(end - last) + 1};
}

const Node& node_at(const Node& root, std::string_view subject) {
  const Node* node = &root;
  while (!subject.empty()) {
    const Node* next = nullptr;
    std::size_t used = 1;
    if (subject[0] == '[') {
      used = subject.find(']') + 1;
      const auto index =
          static_cast<std::size_t>(std::stoul(std::string(subject.substr(1, used - 2))));
      if (node->kind == Node::Kind::list && index < node->items.size()) next = &node->items[index];
      if (node->kind == Node::Kind::map && index < node->entries.size())
        next = &node->entries[index].value;
    } else {
      if (subject[0] == '.') subject.remove_prefix(1);
      used = std::min(subject.find_first_of(".["), subject.size());
      next = node->find(subject.substr(0, used));
    }
    if (next == nullptr) break;
    node = next;
    subject.remove_prefix(used);
  }
  return *node;
}

void expect_keys(const Node& map, std::string_view what, const std::vector<std::string>& known) {
  if (map.kind != Node::Kind::map)
    throw map.error(fmt::format("expected {} as a group of keys, found {}", what, what_is(map)),
                    fmt::format("known: {}", fmt::join(known, ", ")));
  for (const Node::Entry& entry : map.entries)
    if (std::find(known.begin(), known.end(), entry.key) == known.end())
      throw map.placed(unknown_name(fmt::format("key in {}", what), entry.key, known))
          .at(entry.key_place);
}

const Node& need(const Node& map, std::string_view what, std::string_view key) {
  const Node* node = map.find(key);
  if (node == nullptr) throw map.error(fmt::format("{} needs the key '{}'", what, key));
  return *node;
}

const std::vector<Node>& as_list(const Node& node, std::string_view what) {
  if (node.kind != Node::Kind::list)
    throw node.error(fmt::format("expected a list of {}, found {}", what, what_is(node)));
  return node.items;
}

bool is_word(const Node& node, std::string_view word) {
  return node.kind == Node::Kind::scalar && node.text == word;
}

bool as_yes(const Node& node) {
  if (is_word(node, "yes") || is_word(node, "true")) return true;
  if (is_word(node, "no") || is_word(node, "false")) return false;
  throw node.error("expected yes or no");
}

std::string as_text(const Node& node, std::string_view what) {
  if (node.kind != Node::Kind::scalar)
    throw node.error(fmt::format("expected {}, found {}", what, what_is(node)));
  try {
    return with_parameters(node.text, node.scope);
  } catch (const InputError& error) {
    if (error.place().line != 0) throw;
    throw node.placed(error);
  }
}

double as_quantity(const Node& node, Dimension dimension) {
  if (node.kind != Node::Kind::scalar)
    throw node.error(fmt::format("expected {}, found {}", describe(dimension), what_is(node)));
  try {
    return evaluate(node.text, dimension, names_in(node.scope));
  } catch (const InputError& error) {
    if (error.place().line != 0) throw;
    throw node.placed(error);
  }
}

int as_whole(const Node& node, const std::string& what) {
  const double value = as_quantity(node, dimension::number);
  if (!(value >= 0.0) || value > 1e9 || value != std::floor(value))
    throw node.error(what + " is a whole number, zero or above");
  return static_cast<int>(value);
}

Vector3 as_vector(const Node& node, Dimension dimension, std::string_view what) {
  const auto& items = as_list(node, what);
  if (items.size() != 3)
    throw node.error(fmt::format("expected three values for {}, found {}", what, items.size()));
  return {as_quantity(items[0], dimension), as_quantity(items[1], dimension),
          as_quantity(items[2], dimension)};
}

void expect_kind(const Node& root, std::string_view kind) {
  const std::string wanted = fmt::format("{}/1", kind);
  if (root.kind != Node::Kind::map || root.find("elbowroom") == nullptr)
    throw root.error(fmt::format("this does not say that it is a {} file", kind),
                     fmt::format("begin the file with the line 'elbowroom: {}'", wanted));
  const Node& node = *root.find("elbowroom");
  const std::string found = as_text(node, "the kind of file");
  if (found != wanted)
    throw node.error(fmt::format("expected a file of kind '{}', found '{}'", wanted, found));
}

}  // namespace er
