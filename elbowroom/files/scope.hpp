// The named values that an expression in a file may use, depending on where it stands.
#pragma once

#include <map>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "elbowroom/base/expression.hpp"
#include "elbowroom/base/input_error.hpp"

namespace er {

struct Node;

/// One named value: a quantity, or what a file says it is.
struct Definition {
  Place place = {};
  /// Null when `quantity` is given outright. A node that has no scope of its own means the names of
  /// the level it is defined on (owning that would be a circle).
  std::shared_ptr<const Node> node = {};
  Quantity quantity = {};
  mutable bool used = false;
  mutable bool being_worked_out = false;
};

/// A name that was defined and never used.
struct Unused {
  std::string what;  ///< "value 'reach'"
  Place place;
};

/// A level of names. A file's values are the outermost; each use of a template and each round of a
/// repetition adds one.
struct Scope {
  std::shared_ptr<const Scope> outer = {};
  std::map<std::string, Definition, std::less<>> values = {};
  std::string made_by = {};                   ///< "template 'post'" when this is the inside of one
  Place used_at = {};                         ///< where that template was used
  std::vector<Unused> unused_templates = {};  ///< of the outermost level

  /// True inside a template or repetition: texts have (name) replaced.
  [[nodiscard]] bool has_parameters() const;
};

/// A definition, and the scope that its own expression is worked out in.
struct Found {
  const Definition* definition = nullptr;
  std::shared_ptr<const Scope> scope = {};
};

/// Looks in a scope and further out. The definition is null when there is no such name.
Found find_in(const std::shared_ptr<const Scope>& scope, std::string_view name);

/// The names of a scope, as an expression wants them. A null scope has none.
NamedValues names_in(const std::shared_ptr<const Scope>& scope);

/// `text` with each "(expression)" replaced: by the number it gives, or by the text of the
/// parameter it names. Throws InputError for a name that is not known.
std::string with_parameters(const std::string& text, const std::shared_ptr<const Scope>& scope);

/// "in template 'post', used at cell.yaml:31:5", or "" outside of templates.
std::string how_made(const std::shared_ptr<const Scope>& scope);

}  // namespace er
