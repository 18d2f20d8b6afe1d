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

#include "support/folder.hpp"

namespace er::test {

struct Run {
  int exit = -1;
  std::string out;
  std::string err;
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
