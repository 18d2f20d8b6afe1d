// A YAML document as a tree in which every value knows its place. Stricter than YAML itself:
// one document to a file, no key twice, no aliases, no tags.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/pose.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/files/scope.hpp"

namespace er {

/// One value of a document.
struct Node {
  enum class Kind { nothing, scalar, list, map };
  struct Entry;

  Kind kind = Kind::nothing;
  Place place;
  std::string text;                         ///< of a scalar
  std::vector<Node> items;                  ///< of a list
  std::vector<Entry> entries;               ///< of a map, in file order
  std::shared_ptr<const Scope> scope = {};  ///< the named values that hold here

  /// Null when there is no such key.
  [[nodiscard]] const Node* find(std::string_view key) const;
  [[nodiscard]] Node* find(std::string_view key);
  void remove(std::string_view key);
  /// An error at this value's place.
  [[nodiscard]] InputError error(std::string message, std::string advice = {}) const;
  /// An error from elsewhere, given this value's place; says which template made it, if one did.
  [[nodiscard]] InputError placed(const InputError& error) const;
};

struct Node::Entry {
  std::string key;
  Place key_place;
  Node value;
};

/// Runs `read`, giving an InputError without a place that of a value.
template <class Read>
decltype(auto) at_place(const Node& node, Read read) {
  try {
    return read();
  } catch (const InputError& error) {
    if (error.place().line > 0) throw;
    throw node.placed(error);
  }
}

/// Parses text. `file` is only for messages. Throws InputError with line and column.
Node parse_document(const std::string& text, const std::string& file);

/// Reads and parses a file. Throws InputError when it cannot be read.
Node read_document(const std::filesystem::path& path);

/// The text of a file. Throws InputError that suggests the nearest name in that folder.
std::string read_text(const std::filesystem::path& path);

/// Line and column of a byte of a text, both from 1; 0 when the offset is below zero.
Place place_in(std::string_view text, std::ptrdiff_t offset, const std::string& file);

/// The value under a description key such as "links[2].joint.range", or the nearest above it.
const Node& node_at(const Node& root, std::string_view subject);

/// Checks that `map` is a map with no other keys than `known`; `what` names it in messages.
void expect_keys(const Node& map, std::string_view what, const std::vector<std::string>& known);

/// The value under a key that must be there.
const Node& need(const Node& map, std::string_view what, std::string_view key);

const std::vector<Node>& as_list(const Node& node, std::string_view what);
bool is_word(const Node& node, std::string_view word);
/// yes or true, no or false.
bool as_yes(const Node& node);
/// Parameters of a template are put in.
std::string as_text(const Node& node, std::string_view what);
/// Named values may be used.
double as_quantity(const Node& node, Dimension dimension);
/// A whole number, zero or above, that fits an int.
int as_whole(const Node& node, const std::string& what);
/// Three quantities.
Vector3 as_vector(const Node& node, Dimension dimension, std::string_view what);

/// Checks the first line of every file of ours, "elbowroom: cell/1".
void expect_kind(const Node& root, std::string_view kind);

}  // namespace er
