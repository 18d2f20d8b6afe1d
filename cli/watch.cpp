#include "watch.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <filesystem>
#include <thread>
#include <vector>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/named_files.hpp"

namespace er::cli {
namespace {

namespace fs = std::filesystem;

struct Stamp {
  fs::file_time_type newest = fs::file_time_type::min();
  std::size_t files = 0;
  std::uintmax_t bytes = 0;
  bool operator==(const Stamp&) const = default;
};

// What the files look like from outside. Editors save by writing anew or by renaming; both show
// here.
Stamp stamp_of(const std::vector<fs::path>& files) {
  Stamp stamp;
  std::error_code code;
  for (const fs::path& file : files) {
    if (!fs::is_regular_file(file, code)) continue;
    stamp.newest = std::max(stamp.newest, fs::last_write_time(file, code));
    stamp.bytes += fs::file_size(file, code);
    ++stamp.files;
  }
  return stamp;
}

}  // namespace

void watch(const std::string& file, int rounds, const std::function<std::string()>& round) {
  std::vector<fs::path> files = named_files(file);
  const bool terminal = isatty(STDOUT_FILENO) != 0;
  Stamp last;
  for (int done = 0; rounds <= 0 || done < rounds;) {
    Stamp now = stamp_of(files);
    if (done > 0 && now == last) {
      std::this_thread::sleep_for(std::chrono::milliseconds(100));
      continue;
    }
    // Some editors empty a file before they write it: a save is over when nothing changes any more.
    for (Stamp before; done > 0 && !(now == before); now = stamp_of(files)) {
      before = now;
      std::this_thread::sleep_for(std::chrono::milliseconds(50));
    }
    // The save may have brought new files in.
    files = named_files(file);
    last = stamp_of(files);
    std::string text;
    try {
      text = round();
    } catch (const InputError& error) {
      text = fmt::format("{}\n  the last good picture is kept; save again when it is mended\n",
                         error.what());
    }
    fmt::print("{}{}", terminal ? "\033[2J\033[H" : done > 0 ? "\n" : "", text);
    std::fflush(stdout);
    ++done;
  }
}

}  // namespace er::cli
