// Bad input: what a file, an argument or a call said that cannot mean anything.
#pragma once

#include <span>
#include <stdexcept>
#include <string>
#include <string_view>

namespace er {

/// A spot in a text. Lines and columns count from 1, columns in characters; 0 is "not known".
struct Place {
  std::string file;
  int line = 0;
  int column = 0;

  /// "glaze.cell.yaml:12:7", or less when less is known, or "" when nothing is.
  [[nodiscard]] std::string text() const;
};

/// Thrown for input that cannot mean anything. (An answer of "no" is a Verdict instead.)
class InputError : public std::runtime_error {
 public:
  /// `message` says what was found and what was expected; `advice`, if any, says what to do.
  explicit InputError(std::string message, std::string advice = {}, Place place = {});

  /// An error about one key of a description, such as "links[2].joint.range". Whoever read the
  /// description from a file knows the place of that key and adds it with at().
  static InputError about(std::string subject, std::string message, std::string advice = {});

  [[nodiscard]] InputError at(Place place) const;

  [[nodiscard]] const std::string& message() const { return message_; }
  [[nodiscard]] const std::string& advice() const { return advice_; }
  [[nodiscard]] const std::string& subject() const { return subject_; }
  [[nodiscard]] const Place& place() const { return place_; }

 private:
  InputError(std::string message, std::string advice, Place place, std::string subject);

  std::string message_;
  std::string advice_;
  Place place_;
  std::string subject_;
};

/// The known name nearest to `name` by edit distance, or "" when none is near.
std::string nearest_name(std::string_view name, std::span<const std::string> known);

/// The error for a name that is not there: lists what there is and suggests the nearest.
/// `kind` is the noun in the message: "stance", "key", "verb".
InputError unknown_name(std::string_view kind, std::string_view name,
                        std::span<const std::string> known, Place place = {});

}  // namespace er
