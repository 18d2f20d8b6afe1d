#include "elbowroom/files/write_file.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <fstream>

#include "elbowroom/base/input_error.hpp"

namespace er {

void write_file_through(const std::filesystem::path& path,
                        const std::function<void(const std::filesystem::path&)>& write) {
  const auto folder = path.has_parent_path() ? path.parent_path() : std::filesystem::path(".");
  std::error_code code;
  if (!std::filesystem::is_directory(folder, code))
    throw InputError(fmt::format("the folder '{}' does not exist", folder.string()),
                     "make it first, or write elsewhere", {path.string(), 0, 0});
  if (std::filesystem::is_directory(path, code))
    throw InputError("this is a folder; a file name is needed", "", {path.string(), 0, 0});
  // The extension stays last, because some writers choose their format by it.
  std::filesystem::path temporary =
      folder / fmt::format(".{}.{}{}", path.stem().string(), getpid(), path.extension().string());
  struct Cleanup {
    const std::filesystem::path& file;
    ~Cleanup() {
      std::error_code ignored;
      std::filesystem::remove(file, ignored);
    }
  } cleanup{temporary};
  write(temporary);
  std::filesystem::rename(temporary, path, code);
  if (code)
    throw InputError(fmt::format("cannot write here: {}", code.message()), "",
                     {path.string(), 0, 0});
}

void write_file(const std::filesystem::path& path, std::string_view content) {
  write_file_through(path, [&](const std::filesystem::path& temporary) {
    std::ofstream out(temporary, std::ios::binary);
    out.write(content.data(), static_cast<std::streamsize>(content.size()));
    out.close();
    if (!out)
      throw InputError("cannot write here (no permission, or the disk is full)", "",
                       {path.string(), 0, 0});
  });
}

}  // namespace er
