#include "elbowroom/files/named_files.hpp"

#include <algorithm>

#include "elbowroom/files/document.hpp"
#include "elbowroom/files/find_file.hpp"

namespace er {
namespace {

class Collector {
 public:
  void take_document(const std::filesystem::path& file) {
    if (!take(file)) return;
    try {
      const Node root = read_document(file);
      if (const Node* list = root.find("include"))
        for (const Node& name : list->items) take_document(look_for(name, file));
      look_through(root, file);
    } catch (const InputError&) {
      // Just now it cannot be read: its own name has to do.
    }
  }

  [[nodiscard]] const std::vector<std::filesystem::path>& files() const { return files_; }

 private:
  bool take(const std::filesystem::path& file) {
    if (std::find(files_.begin(), files_.end(), file) != files_.end()) return false;
    files_.push_back(file);
    return true;
  }

  static std::filesystem::path look_for(const Node& name, const std::filesystem::path& from) {
    try {
      return find_file(name.text, from, name.place);
    } catch (const InputError&) {
      return from.parent_path() / name.text;
    }
  }

  void look_through(const Node& node, const std::filesystem::path& from) {
    for (const Node& item : node.items) look_through(item, from);
    for (const Node::Entry& entry : node.entries) {
      if (entry.key == "file" && entry.value.kind == Node::Kind::scalar)
        take(look_for(entry.value, from));
      look_through(entry.value, from);
    }
  }

  std::vector<std::filesystem::path> files_;
};

}  // namespace

std::vector<std::filesystem::path> named_files(const std::filesystem::path& file) {
  Collector collector;
  collector.take_document(file);
  return collector.files();
}

}  // namespace er
