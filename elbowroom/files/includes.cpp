#include "elbowroom/files/includes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "elbowroom/files/find_file.hpp"

namespace er {
namespace {

// Joins what an included file says into the file that includes it.
void merge(Node& into, Node&& from) {
  for (Node::Entry& entry : from.entries) {
    if (entry.key == "elbowroom" || entry.key == "include") continue;
    Node* mine = into.find(entry.key);
    if (mine == nullptr) {
      into.entries.push_back(std::move(entry));
    } else if (mine->kind == Node::Kind::list && entry.value.kind == Node::Kind::list) {
      std::move(mine->items.begin(), mine->items.end(), std::back_inserter(entry.value.items));
      mine->items = std::move(entry.value.items);
    } else if (mine->kind == Node::Kind::map && entry.value.kind == Node::Kind::map) {
      for (Node::Entry& inner : entry.value.entries) {
        if (const Node* twice = mine->find(inner.key))
          throw twice->error(fmt::format("'{}' is given here and in an included file, at {}",
                                         inner.key, inner.key_place.text()),
                             "keep one of them");
        mine->entries.push_back(std::move(inner));
      }
    }  // else: of single values the including file's own counts
  }
}

// `open` are the files being included just now, `done` those that have been.
void include_into(Node& root, const std::filesystem::path& file,
                  std::vector<std::filesystem::path>& open, std::set<std::string>& done) {
  const Node* list = root.find("include");
  if (list == nullptr) return;
  const std::string kind = as_text(need(root, "a file", "elbowroom"), "the kind of file");
  const std::vector<Node> names = as_list(*list, "files to include");
  for (auto name = names.rbegin(); name != names.rend();
       ++name) {  // each goes before what is there
    const std::filesystem::path path = find_file(as_text(*name, "a file name"), file, name->place);
    const auto same = [&](const std::filesystem::path& other) {
      std::error_code code;
      return std::filesystem::equivalent(path, other, code);
    };
    if (std::any_of(open.begin(), open.end(), same))
      throw name->error(fmt::format("'{}' includes itself in the end", name->text));
    std::error_code code;
    if (!done.insert(std::filesystem::weakly_canonical(path, code).string()).second) continue;
    Node included = read_document(path);
    const Node* own = included.find("elbowroom");
    if (own == nullptr || (own->text != kind && own->text != "shared/1"))
      throw(own != nullptr ? *own : included)
          .error(fmt::format("only files of kind '{}' or 'shared/1' can be included here", kind),
                 fmt::format("included at {}", name->place.text()));
    open.push_back(path);
    include_into(included, path, open, done);
    open.pop_back();
    merge(root, std::move(included));
  }
}

}  // namespace

void include_files(Node& root, const std::filesystem::path& file) {
  std::vector<std::filesystem::path> open{file};
  std::set<std::string> done;
  include_into(root, file, open, done);
  root.remove("include");
}

}  // namespace er
