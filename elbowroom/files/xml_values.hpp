// Reading values out of the elements of a robot XML file, with the line in every error, and keeping
// account of what was tolerated.
#pragma once

#include <map>
#include <pugixml.hpp>
#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "elbowroom/base/pose.hpp"
#include "elbowroom/model/note.hpp"

namespace er {

class XmlValues {
 public:
  /// `text` must outlive this; it is where lines are counted.
  XmlValues(const std::string& text, std::string file) : text_(text), file_(std::move(file)) {}

  [[nodiscard]] const std::string& file() const { return file_; }
  /// Of a byte of the text, and of an element's '<'.
  [[nodiscard]] Place place_at(std::ptrdiff_t offset) const;
  [[nodiscard]] Place place_of(const pugi::xml_node& node) const;
  [[nodiscard]] InputError error(const pugi::xml_node& node, std::string message,
                                 std::string advice = {}) const;

  /// A number in an attribute: what it is when missing, or an error when it must be there.
  double attribute(const pugi::xml_node& node, const char* name, double otherwise) const;
  double needed(const pugi::xml_node& node, const char* name) const;
  std::vector<double> numbers(const pugi::xml_node& node, const char* name, std::size_t count,
                              const std::vector<double>& otherwise) const;
  Vector3 vector(const pugi::xml_node& node, const char* name, const Vector3& otherwise) const;
  /// The <origin> of an element, or no displacement.
  Pose origin(const pugi::xml_node& parent);
  /// A name as this library allows them: blanks, dots and commas become underscores, with a note.
  std::string usable_name(const std::string& raw, const pugi::xml_node& node, const char* what);

  /// Something tolerated.
  void note(const pugi::xml_node& node, std::string text, std::string advice);
  /// Something that is not part of the format, or that nothing here can hold: only counted.
  void pass_over(const std::string& what) { ++passed_over_[what]; }
  void expect_children(const pugi::xml_node& node, const std::vector<std::string_view>& known);
  /// All notes, the counts among them as one.
  std::vector<Note> take_notes(const pugi::xml_node& root);

 private:
  double number(std::string_view text, const pugi::xml_node& node, const std::string& what) const;

  const std::string& text_;
  std::string file_;
  std::map<std::string, int> passed_over_;
  std::set<std::string> renamed_;
  std::vector<Note> notes_;
};

}  // namespace er
