#include "elbowroom/files/xml_values.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>

#include "elbowroom/files/document.hpp"

namespace er {

Place XmlValues::place_at(std::ptrdiff_t offset) const { return place_in(text_, offset, file_); }

Place XmlValues::place_of(const pugi::xml_node& node) const {
  const Place place = place_at(node.offset_debug());
  return {place.file, place.line, std::max(1, place.column - 1)};
}

InputError XmlValues::error(const pugi::xml_node& node, std::string message,
                            std::string advice) const {
  return InputError(std::move(message), std::move(advice), place_of(node));
}

std::vector<Note> XmlValues::take_notes(const pugi::xml_node& root) {
  std::string list;
  for (const auto& [what, count] : passed_over_)
    list += fmt::format("{}{} ({})", list.empty() ? "" : ", ", what, count);
  if (!list.empty())
    note(root, "elements that the format does not have were passed over: " + list,
         "nothing to do, unless you counted on one of them");
  return std::move(notes_);
}

void XmlValues::note(const pugi::xml_node& node, std::string text, std::string advice) {
  notes_.push_back({place_of(node), "robot XML", std::move(text), std::move(advice)});
}

std::string XmlValues::usable_name(const std::string& raw, const pugi::xml_node& node,
                                   const char* what) {
  std::string name = raw;
  for (char& c : name)
    if (c == ' ' || c == '.' || c == ',' || c == '\t' || c == '\n' || c == '\r') c = '_';
  if (name.empty()) throw error(node, fmt::format("this {} has no name", what), "add name=\"...\"");
  if (name != raw && renamed_.insert(raw).second)
    note(node, fmt::format("the name '{}' is '{}' here", raw, name),
         "names have no blanks, dots or commas");
  return name;
}

double XmlValues::number(std::string_view text, const pugi::xml_node& node,
                         const std::string& what) const {
  while (!text.empty() && (text.front() == ' ' || text.front() == '+')) text.remove_prefix(1);
  while (!text.empty() && text.back() == ' ') text.remove_suffix(1);
  double value = 0.0;
  const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (code != std::errc{} || end != text.data() + text.size() || !std::isfinite(value))
    throw error(
        node, fmt::format("{} is '{}', which is no number", what, text),
        "write a figure; a file made by a program may hold what that one failed to work out");
  return value;
}

double XmlValues::attribute(const pugi::xml_node& node, const char* name, double otherwise) const {
  const pugi::xml_attribute found = node.attribute(name);
  return found ? number(found.value(), node, fmt::format("{} of <{}>", name, node.name()))
               : otherwise;
}

double XmlValues::needed(const pugi::xml_node& node, const char* name) const {
  if (!node.attribute(name))
    throw error(node, fmt::format("<{}> needs the attribute {}", node.name(), name));
  return attribute(node, name, 0.0);
}

std::vector<double> XmlValues::numbers(const pugi::xml_node& node, const char* name,
                                       std::size_t count,
                                       const std::vector<double>& otherwise) const {
  const pugi::xml_attribute found = node.attribute(name);
  if (!found) return otherwise;
  std::vector<double> values;
  std::string text = found.value();
  std::replace_if(
      text.begin(), text.end(), [](char c) { return c == '\t' || c == '\n' || c == '\r'; }, ' ');
  for (std::size_t start = 0; start < text.size();) {
    const std::size_t end = std::min(text.find(' ', start), text.size());
    if (end > start)
      values.push_back(number(std::string_view(text).substr(start, end - start), node,
                              fmt::format("{} of <{}>", name, node.name())));
    start = end + 1;
  }
  if (values.size() != count)
    throw error(node, fmt::format("{} of <{}> needs {} numbers, found {}", name, node.name(), count,
                                  values.size()));
  return values;
}

Vector3 XmlValues::vector(const pugi::xml_node& node, const char* name,
                          const Vector3& otherwise) const {
  const auto v = numbers(node, name, 3, {otherwise.x(), otherwise.y(), otherwise.z()});
  return {v[0], v[1], v[2]};
}

Pose XmlValues::origin(const pugi::xml_node& parent) {
  const pugi::xml_node node = parent.child("origin");
  if (!node) return {};
  expect_children(node, {});
  const Vector3 rpy = vector(node, "rpy", Vector3::Zero());
  return {rotation_from_rpy(rpy.x(), rpy.y(), rpy.z()), vector(node, "xyz", Vector3::Zero())};
}

void XmlValues::expect_children(const pugi::xml_node& node,
                                const std::vector<std::string_view>& known) {
  for (const pugi::xml_node& child : node.children())
    if (child.type() == pugi::node_element &&
        std::find(known.begin(), known.end(), child.name()) == known.end())
      pass_over(child.name());
}

}  // namespace er
