#define STB_IMAGE_WRITE_IMPLEMENTATION
#if defined(__GNUC__)
#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wconversion"
#pragma GCC diagnostic ignored "-Wshadow"
#pragma GCC diagnostic ignored "-Wmissing-field-initializers"
#pragma GCC diagnostic ignored "-Wunused-function"
#endif
#include <stb/stb_image_write.h>
#if defined(__GNUC__)
#pragma GCC diagnostic pop
#endif

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/draw/render.hpp"
#include "elbowroom/files/write_file.hpp"

namespace er {

void write_png(const std::filesystem::path& path, const Image& image) {
  stbi_write_png_compression_level = 5;  // a third quicker than the best, a few percent larger
  write_file_through(path, [&](const std::filesystem::path& temporary) {
    if (stbi_write_png(temporary.c_str(), image.width, image.height, 3, image.rgb.data(),
                       3 * image.width) == 0)
      throw InputError("cannot write here (no permission, or the disk is full)", "",
                       {path.string(), 0, 0});
  });
}

}  // namespace er
