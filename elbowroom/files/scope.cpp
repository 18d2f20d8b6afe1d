#include "elbowroom/files/scope.hpp"

#include <fmt/format.h>

#include <cmath>

#include "elbowroom/files/document.hpp"

namespace er {
namespace {

Quantity value_of(const Found& found, std::string_view name) {
  const Definition& definition = *found.definition;
  definition.used = true;
  if (definition.node == nullptr) return definition.quantity;
  const Node& node = *definition.node;
  if (node.kind != Node::Kind::scalar)
    throw InputError(fmt::format("'{}' is not a quantity", name), "", definition.place);
  if (definition.being_worked_out)
    throw InputError(fmt::format("the value '{}' is defined by itself in the end", name),
                     "one value of the loop must stand on its own", definition.place);
  definition.being_worked_out = true;
  try {
    const Quantity value = evaluate(node.text, names_in(found.scope));
    definition.being_worked_out = false;
    return value;
  } catch (const InputError& error) {
    definition.being_worked_out = false;
    if (error.place().line != 0) throw;
    throw node.placed(error);
  }
}

std::string text_of_number(double value) {
  return value == std::round(value) && std::abs(value) < 1e15 ? fmt::format("{:.0f}", value)
                                                              : fmt::format("{}", value);
}

// The bracket that closes the one at `open`, or npos.
std::size_t closing_bracket(const std::string& text, std::size_t open) {
  int depth = 0;
  for (std::size_t i = open; i < text.size(); ++i) {
    if (text[i] == '(') ++depth;
    if (text[i] == ')' && --depth == 0) return i;
  }
  return std::string::npos;
}

// What "(inside)" becomes within a text.
std::string parameter_text(const std::string& inside, const std::shared_ptr<const Scope>& scope) {
  const Found found = find_in(scope, inside);
  if (found.definition != nullptr && found.definition->node != nullptr) {
    found.definition->used = true;
    const Node& node = *found.definition->node;
    if (node.kind != Node::Kind::scalar)
      throw InputError(fmt::format("'{}' is not a text, so it cannot be part of one", inside));
    try {
      const Quantity value = evaluate(node.text, names_in(found.scope));
      if (value.dimension == dimension::number) return text_of_number(value.si);
    } catch (const InputError&) {  // not a number: a text, then
    }
    return with_parameters(node.text, found.scope);
  }
  return text_of_number(evaluate(inside, dimension::number, names_in(scope)));
}

}  // namespace

Found find_in(const std::shared_ptr<const Scope>& scope, std::string_view name) {
  for (auto level = scope; level != nullptr; level = level->outer) {
    const auto found = level->values.find(name);
    if (found == level->values.end()) continue;
    const Definition& definition = found->second;
    const bool own = definition.node != nullptr && definition.node->scope != nullptr;
    return {&definition, own ? definition.node->scope : level};
  }
  return {};
}

bool Scope::has_parameters() const { return outer != nullptr; }

NamedValues names_in(const std::shared_ptr<const Scope>& scope) {
  if (scope == nullptr) return {};
  return {.find = [scope](std::string_view name) -> std::optional<Quantity> {
            const Found found = find_in(scope, name);
            if (found.definition == nullptr) return std::nullopt;
            return value_of(found, name);
          },
          .all =
              [scope] {
                std::vector<std::string> names;
                for (const Scope* level = scope.get(); level != nullptr; level = level->outer.get())
                  for (const auto& [name, definition] : level->values) names.push_back(name);
                return names;
              }};
}

std::string with_parameters(const std::string& text, const std::shared_ptr<const Scope>& scope) {
  if (scope == nullptr || !scope->has_parameters()) return text;
  std::string out;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const std::size_t end = text[i] == '(' ? closing_bracket(text, i) : std::string::npos;
    if (end == std::string::npos) {
      out += text[i];
      continue;
    }
    out += parameter_text(text.substr(i + 1, end - i - 1), scope);
    i = end;
  }
  return out;
}

std::string how_made(const std::shared_ptr<const Scope>& scope) {
  for (const Scope* level = scope.get(); level != nullptr; level = level->outer.get())
    if (!level->made_by.empty())
      return fmt::format("in {}, used at {}", level->made_by, level->used_at.text());
  return {};
}

}  // namespace er
