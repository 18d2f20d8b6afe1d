// Runs the built tool as a user would.
#pragma once

#include <sys/wait.h>

#include <array>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>
#include <string>

namespace er::test {

struct Run {
  int exit = -1;
  std::string out;
  std::string err;
};

/// A folder of its own for one test, gone at the end.
class Folder {
 public:
  Folder() {
    std::string name = (std::filesystem::temp_directory_path() / "elbowroom_XXXXXX").string();
    path_ = mkdtemp(name.data());
  }
  ~Folder() { std::filesystem::remove_all(path_); }
  Folder(const Folder&) = delete;
  Folder& operator=(const Folder&) = delete;
  [[nodiscard]] std::string operator/(const std::string& name) const {
    return (path_ / name).string();
  }
  [[nodiscard]] std::string path() const { return path_.string(); }
  std::string write(const std::string& name, const std::string& content) const {
    std::ofstream(path_ / name) << content;
    return *this / name;
  }
  [[nodiscard]] int count() const {
    int n = 0;
    for ([[maybe_unused]] const auto& entry : std::filesystem::directory_iterator(path_)) ++n;
    return n;
  }

 private:
  std::filesystem::path path_;
};

inline std::string read_file(const std::string& path) {
  std::ifstream in(path, std::ios::binary);
  std::ostringstream text;
  text << in.rdbuf();
  return text.str();
}

/// `arguments` is shell text: quote what has spaces. It is run in the folder of the demo files.
inline Run tool(const std::string& arguments) {
  const Folder folder;
  const std::string command = std::string("cd '") + DEMO_DIR + "' && XDG_CACHE_HOME='" +
                              folder.path() + "' '" + TOOL + "' " + arguments + " >'" +
                              (folder / "out") + "' 2>'" + (folder / "err") + "' </dev/null";
  const int status = std::system(command.c_str());  // NOLINT: the test's own text
  return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, read_file(folder / "out"),
          read_file(folder / "err")};
}

inline std::string first_line(const std::string& text) { return text.substr(0, text.find('\n')); }

}  // namespace er::test
