#include "elbowroom/files/expansion.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/files/includes.hpp"

namespace er {
namespace {

constexpr int kDeepest = 40;                   // templates within templates
constexpr std::size_t kMostNodes = 2'000'000;  // of an expanded file
constexpr std::size_t kMostRounds = 100'000;   // of one repetition

using ScopePointer = std::shared_ptr<const Scope>;

struct Template {
  std::string name;
  std::vector<std::string> needs;
  const Node* defaults = nullptr;
  const Node* makes = nullptr;
  Place place;
  bool used = false;
};

std::size_t set_scope(Node& node, const ScopePointer& scope) {
  node.scope = scope;
  std::size_t count = 1;
  for (Node& item : node.items) count += set_scope(item, scope);
  for (Node::Entry& entry : node.entries) count += set_scope(entry.value, scope);
  return count;
}

bool is_map_with(const Node& node, std::string_view key) {
  return node.kind == Node::Kind::map && node.find(key) != nullptr;
}

// ---- templates and repetition

class Expander {
 public:
  Expander(ScopePointer values, std::vector<Template> templates)
      : values_(std::move(values)), templates_(std::move(templates)) {}

  void walk(Node& node) {
    if (node.kind == Node::Kind::list) walk_list(node);
    if (is_map_with(node, "use")) {
      node = instance(node);
      return;
    }
    if (is_map_with(node, "each"))
      throw node.find("each")->error("a repetition can only be an entry of a list");
    for (Node::Entry& entry : node.entries) walk(entry.value);
  }

  [[nodiscard]] const std::vector<Template>& templates() const { return templates_; }

 private:
  void walk_list(Node& list) {
    std::vector<Node> items;
    const auto take = [&](Node&& made) {
      if (made.kind != Node::Kind::list) return items.push_back(std::move(made));
      std::move(made.items.begin(), made.items.end(), std::back_inserter(items));
    };
    for (Node& item : list.items) {
      if (is_map_with(item, "each")) {
        repeat(item, take);
      } else if (is_map_with(item, "use")) {
        take(instance(item));
      } else {
        walk(item);
        items.push_back(std::move(item));
      }
    }
    list.items = std::move(items);
  }

  // ---- {each: {i: 1 to 4}, ...}

  struct Rounds {
    std::string name;
    Place place;
    std::vector<Definition> values;
  };

  static Rounds rounds_of(const Node::Entry& entry) {
    Rounds rounds{entry.key, entry.key_place, {}};
    try {
      check_value_name(entry.key);
    } catch (const InputError& error) {
      throw error.at(entry.key_place);
    }
    const Node& values = entry.value;
    if (values.kind == Node::Kind::list) {
      for (const Node& item : values.items)
        rounds.values.push_back({item.place, std::make_shared<const Node>(item), {}});
      if (rounds.values.empty())
        throw values.error(
            fmt::format("'{}' has no values: there is nothing to go through", entry.key),
            "give the list some values, or leave the repetition out");
      return rounds;
    }
    const std::string text = as_text(values, "values to go through");
    const auto to = text.find(" to ");
    if (to == std::string::npos)
      throw values.error(fmt::format("'{}' does not say what to go through", text),
                         "write 1 to 4, or 0 mm to 300 mm by 50 mm, or a list of values");
    const auto by = text.find(" by ", to);
    const auto read = [&](const std::string& one) {
      try {
        return evaluate(one, names_in(values.scope));
      } catch (const InputError& error) {
        throw values.placed(error);
      }
    };
    const Quantity from = read(text.substr(0, to));
    const Quantity until =
        read(text.substr(to + 4, by == std::string::npos ? std::string::npos : by - to - 4));
    const Quantity step =
        by == std::string::npos ? Quantity{1.0, dimension::number} : read(text.substr(by + 4));
    if (!(from.dimension == until.dimension && from.dimension == step.dimension))
      throw values.error("first, last and step of a repetition must be of one kind",
                         "with units write the step, too: 0 mm to 300 mm by 50 mm");
    const double count = std::floor((until.si - from.si) / step.si + 1e-9);
    if (!(step.si != 0.0) || !(count >= 0.0) || count > static_cast<double>(kMostRounds))
      throw values.error(fmt::format("'{}' is no sensible number of rounds", text));
    for (int n = 0; n <= static_cast<int>(count); ++n)
      rounds.values.push_back({values.place, nullptr, {from.si + n * step.si, from.dimension}});
    return rounds;
  }

  template <class Take>
  void repeat(const Node& item, Take take) {
    const Node& each = *item.find("each");
    if (each.kind != Node::Kind::map || each.entries.empty())
      throw each.error("a repetition needs a name and what it goes through",
                       "write each: {i: 1 to 4}");
    std::vector<Rounds> all;
    std::size_t count = 1;
    for (const Node::Entry& entry : each.entries) {
      all.push_back(rounds_of(entry));
      count *= all.back().values.size();
      if (count > kMostRounds) throw each.error("these are too many rounds");
    }
    Node body = item;
    body.remove("each");
    if (const Node* makes = item.find("makes")) {
      if (body.entries.size() != 1)
        throw item.error("beside each: and makes: nothing else can stand here",
                         "move it into makes:");
      body = Node(*makes);
    }
    for (std::size_t round = 0; round < count; ++round) {
      auto scope = std::make_shared<Scope>();
      scope->outer = item.scope;
      std::size_t rest = round;
      for (auto one = all.rbegin(); one != all.rend(); ++one) {  // the last name runs fastest
        scope->values.emplace(one->name, one->values[rest % one->values.size()]);
        rest /= one->values.size();
      }
      take(made(body, scope));
    }
  }

  // ---- {use: post, with: {...}, more keys}

  Node instance(const Node& use) {
    const Node& name = *use.find("use");
    Template& wanted = find_template(name);
    auto scope = std::make_shared<Scope>();
    scope->outer = values_;
    scope->made_by = fmt::format("template '{}'", wanted.name);
    scope->used_at = use.place;
    const auto bind = [&](const Node& map) {
      for (const Node::Entry& entry : map.entries)
        scope->values.insert_or_assign(
            entry.key, Definition{entry.key_place, std::make_shared<const Node>(entry.value), {}});
    };
    if (wanted.defaults != nullptr) bind(*wanted.defaults);
    if (const Node* with = use.find("with")) {
      std::vector<std::string> known = wanted.needs;
      if (wanted.defaults != nullptr)
        for (const Node::Entry& entry : wanted.defaults->entries) known.push_back(entry.key);
      expect_keys(*with, fmt::format("template '{}'", wanted.name), known);
      bind(*with);
    }
    for (const std::string& needed : wanted.needs)
      if (scope->values.find(needed) == scope->values.end())
        throw use.error(
            fmt::format("template '{}' needs '{}'", wanted.name, needed),
            fmt::format("give it under with:; the template stands at {}", wanted.place.text()));
    Node made_node = made(*wanted.makes, scope);
    for (const Node::Entry& entry : use.entries) {
      if (entry.key == "use" || entry.key == "with") continue;
      if (made_node.kind != Node::Kind::map)
        throw InputError(fmt::format("template '{}' does not make a group of keys, so '{}' has no "
                                     "place in it",
                                     wanted.name, entry.key),
                         "", entry.key_place);
      Node value = entry.value;
      walk(value);
      made_node.remove(entry.key);
      made_node.entries.push_back({entry.key, entry.key_place, std::move(value)});
    }
    return made_node;
  }

  Template& find_template(const Node& name) {
    const std::string text = as_text(name, "the name of a template");
    std::vector<std::string> known;
    for (Template& one : templates_) {
      if (one.name == text) {
        one.used = true;
        return one;
      }
      known.push_back(one.name);
    }
    throw name.placed(unknown_name("template", text, known));
  }

  // A copy of a template's body in a scope, with everything in it expanded.
  Node made(const Node& body, const ScopePointer& scope) {
    if (++depth_ > kDeepest)
      throw body.error("templates use each other without end", how_made(scope));
    Node copy = body;
    nodes_ += set_scope(copy, scope);
    if (nodes_ > kMostNodes) throw body.error("the file grows too large when expanded");
    substitute(copy);
    if (copy.kind == Node::Kind::list) {
      walk_list(copy);
    } else {
      walk(copy);
    }
    --depth_;
    return copy;
  }

  // Replaces each text that is "(name)" whole by the list or group that the parameter is.
  static void substitute(Node& node) {
    if (node.kind == Node::Kind::scalar && node.text.size() > 2 && node.text.front() == '(' &&
        node.text.back() == ')') {
      const Definition* found =
          find_in(node.scope, std::string_view(node.text).substr(1, node.text.size() - 2))
              .definition;
      if (found != nullptr && found->node != nullptr && found->node->kind != Node::Kind::scalar) {
        found->used = true;
        node = Node(*found->node);
      }
      return;
    }
    for (Node& item : node.items) substitute(item);
    for (Node::Entry& entry : node.entries) substitute(entry.value);
  }

  ScopePointer values_;
  std::vector<Template> templates_;
  int depth_ = 0;
  std::size_t nodes_ = 0;
};

std::vector<Template> read_templates(const Node* map) {
  std::vector<Template> templates;
  if (map == nullptr) return templates;
  if (map->kind != Node::Kind::map)
    throw map->error("expected templates as a group of names",
                     "write them like post: {needs: [x], makes: {...}}");
  for (const Node::Entry& entry : map->entries) {
    const std::string what = fmt::format("template '{}'", entry.key);
    expect_keys(entry.value, what, {"needs", "defaults", "makes"});
    Template one{entry.key,
                 {},
                 entry.value.find("defaults"),
                 &need(entry.value, what, "makes"),
                 entry.key_place};
    const auto check = [](const std::string& name, const Place& place) {
      try {
        check_value_name(name);
      } catch (const InputError& error) {
        throw error.at(place);
      }
    };
    if (const Node* needs = entry.value.find("needs"))
      for (const Node& name : as_list(*needs, "names of parameters")) {
        one.needs.push_back(as_text(name, "the name of a parameter"));
        check(one.needs.back(), name.place);
      }
    if (one.defaults != nullptr) {
      if (one.defaults->kind != Node::Kind::map)
        throw one.defaults->error("expected defaults as a group of names with values");
      for (const Node::Entry& given : one.defaults->entries) check(given.key, given.key_place);
    }
    templates.push_back(std::move(one));
  }
  return templates;
}

}  // namespace

void expand(Node& root, const std::filesystem::path& file) {
  if (root.kind != Node::Kind::map) return;
  include_files(root, file);

  auto values = std::make_shared<Scope>();
  const ScopePointer scope = values;
  set_scope(root, scope);
  if (const Node* map = root.find("values")) {
    if (map->kind != Node::Kind::map)
      throw map->error("expected values as a group of names", "write them like reach: 900 mm");
    for (const Node::Entry& entry : map->entries) {
      try {
        check_value_name(entry.key);
      } catch (const InputError& error) {
        throw error.at(entry.key_place);
      }
      if (entry.value.kind != Node::Kind::scalar)
        throw entry.value.error("a value is a quantity", "write it like 900 mm or 2 * reach");
      auto value = std::make_shared<Node>(entry.value);
      value->scope = nullptr;
      values->values.insert_or_assign(entry.key, Definition{entry.key_place, value, {}});
    }
  }
  Node templates_node;
  if (const Node* map = root.find("templates")) templates_node = *map;
  const bool has_templates = root.find("templates") != nullptr;
  root.remove("values");
  root.remove("templates");
  // Every value is worked out once here, so that a mistake shows even where nothing uses it.
  for (const auto& [name, definition] : values->values) {
    names_in(scope).find(name);
  }
  for (const auto& [name, definition] : values->values) definition.used = false;
  Expander expander(scope, read_templates(has_templates ? &templates_node : nullptr));
  for (Node::Entry& entry : root.entries) expander.walk(entry.value);
  for (const Template& one : expander.templates())
    if (!one.used)
      values->unused_templates.push_back({fmt::format("template '{}'", one.name), one.place});
}

std::vector<std::string> root_keys(std::vector<std::string> own) {
  own.insert(own.begin(), {"elbowroom", "include", "values", "templates"});
  return own;
}

Node read_expanded(const std::filesystem::path& path) {
  Node root = read_document(path);
  expand(root, path);
  return root;
}

std::vector<Unused> unused_definitions(const Node& root) {
  if (root.scope == nullptr) return {};
  std::vector<Unused> all = root.scope->unused_templates;
  for (const auto& [name, definition] : root.scope->values)
    if (!definition.used) all.push_back({fmt::format("value '{}'", name), definition.place});
  std::sort(all.begin(), all.end(),
            [](const Unused& a, const Unused& b) { return a.place.line < b.place.line; });
  return all;
}

}  // namespace er
