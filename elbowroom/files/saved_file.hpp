// JSON files that Elbowroom wrote itself, read back: what routes and roadmaps have in common.
#pragma once

#include <fmt/format.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/posture.hpp"
#include "elbowroom/files/origin.hpp"

namespace er {

using Json = nlohmann::json;

/// Reads one file's values by their keys, and says where one is missing or of the wrong kind.
class SavedFile {
 public:
  /// Throws InputError with file, line and column for what is no JSON, and with `advice` when its
  /// key "elbowroom" does not hold `format`.
  SavedFile(const std::filesystem::path& path, const std::string& format,
            const std::string& advice);

  [[nodiscard]] bool has(const char* key) const { return root_.contains(key); }
  template <class T>
  T at(const char* key) const {
    return guarded(key, [&] { return root_.at(key).get<T>(); });
  }
  template <class T>
  T at(const char* key, const char* inner) const {
    return guarded(fmt::format("{}.{}", key, inner),
                   [&] { return root_.at(key).at(inner).get<T>(); });
  }
  /// Adds what `read` makes of each entry of a list.
  template <class List, class Read>
  void read_list(const char* key, List& to, Read read) const {
    const Json& entries = list(key);
    for (std::size_t i = 0; i < entries.size(); ++i)
      to.push_back(guarded(fmt::format("{}[{}]", key, i), [&] { return read(entries[i]); }));
  }
  [[nodiscard]] Origin origin() const;
  /// Those under `contacts`.
  [[nodiscard]] std::vector<MeantContact> contacts() const;
  [[nodiscard]] InputError wrong(const std::string& what) const;

 private:
  [[nodiscard]] const Json& list(const char* key) const;
  template <class Read>
  auto guarded(const std::string& what, Read read) const {
    try {
      return read();
    } catch (const Json::exception&) {
      throw wrong(what);
    }
  }

  std::string file_;
  Json root_;
};

/// The beginning of such a file.
Json node_of(const char* format, const Origin& from);

/// What stands for contacts.
Json node_of(const std::vector<MeantContact>& contacts);

/// What stands for a posture in a file, and back; throws Json::exception for what is none.
Json node_of(const Posture& posture);
Posture posture_from(const Json& json);

}  // namespace er
