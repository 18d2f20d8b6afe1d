// How long mesh files take, from the file to shapes: a file of one large bumpy body, one of a
// hundred bodies, and what each step of the way costs. Medians of five rounds.
#include <fmt/format.h>

#include <cmath>
#include <cstdint>
#include <filesystem>
#include <fstream>
#include <numbers>
#include <string>
#include <vector>

#include "elbowroom/bodies/hull_set.hpp"
#include "elbowroom/bodies/mesh_inspection.hpp"
#include "elbowroom/bodies/simplify.hpp"
#include "elbowroom/files/mesh_file.hpp"
#include "elbowroom/model/hull.hpp"
#include "median.hpp"

using namespace er;

namespace {

// A ball with dents, as rings of triangles.
void add_ball(Surface& out, const Vector3& middle, double radius, int rings) {
  const int sides = 2 * rings;
  const int first = static_cast<int>(out.corners.size());
  for (int i = 0; i <= rings; ++i)
    for (int k = 0; k < sides; ++k) {
      const double down = std::numbers::pi * i / rings;
      const double round = 2.0 * std::numbers::pi * k / sides;
      const double bump = 1.0 + 0.1 * std::sin(5.0 * down) * std::cos(4.0 * round) * std::sin(down);
      out.corners.push_back(middle + radius * bump *
                                         Vector3(std::sin(down) * std::cos(round),
                                                 std::sin(down) * std::sin(round), std::cos(down)));
    }
  for (int k = 0; k < sides; ++k) {  // the poles are one place each
    out.corners[static_cast<std::size_t>(first + k)] = out.corners[static_cast<std::size_t>(first)];
    out.corners[static_cast<std::size_t>(first + rings * sides + k)] =
        out.corners[static_cast<std::size_t>(first + rings * sides)];
  }
  for (int i = 0; i < rings; ++i)
    for (int k = 0; k < sides; ++k) {
      const int a = first + i * sides + k;
      const int b = first + i * sides + (k + 1) % sides;
      const int c = a + sides;
      const int d = b + sides;
      if (i + 1 < rings) out.faces.push_back({a, c, d});
      if (i > 0) out.faces.push_back({a, d, b});
    }
}

void write_stl(const std::filesystem::path& path, const Surface& surface) {
  std::ofstream out(path, std::ios::binary);
  out << std::string(80, ' ');
  const auto count = static_cast<std::uint32_t>(surface.faces.size());
  out.write(reinterpret_cast<const char*>(&count), 4);
  for (std::size_t i = 0; i < surface.faces.size(); ++i) {
    float values[12] = {};
    int next = 3;
    for (const Vector3& corner : surface.triangle(i))
      for (const double value : corner) values[next++] = static_cast<float>(value);
    out.write(reinterpret_cast<const char*>(values), sizeof(values));
    out.write("\0\0", 2);
  }
}

void measure(const char* what, const Surface& surface) {
  const auto path = std::filesystem::temp_directory_path() / "elbowroom_bench.stl";
  write_stl(path, surface);
  fmt::print("{}: {} triangles, {:.1f} MB\n", what, surface.faces.size(),
             1e-6 * static_cast<double>(std::filesystem::file_size(path)));
  std::vector<Surface> read;
  fmt::print("  read                          {:8.1f} ms\n",
             median_ms([&] { read = read_mesh_file(path); }));
  Bodies bodies;
  const double apart = median_ms([&] { bodies = bodies_of(read); });
  fmt::print("  mended and taken apart        {:8.1f} ms   {} bodies\n", apart, bodies.list.size());
  fmt::print("  hull of each body             {:8.1f} ms\n", median_ms([&] {
               for (const MeshBody& body : bodies.list) hull_of(body.surface.corners);
             }));
  std::size_t left = 0;
  const double simpler = median_ms([&] {
    left = 0;
    for (const MeshBody& body : bodies.list)
      left += simplified(body.surface, 0.5e-3).surface.faces.size();
  });
  fmt::print("  simplified to 0.5 mm          {:8.1f} ms   {} triangles\n", simpler, left);
  std::size_t corners = 0;
  const double coarse = median_ms([&] {
    corners = 0;
    for (const MeshBody& body : bodies.list)
      corners += hull_in_detail(body.surface, {.file = "", .detail = 0.5e-3}).data->corners.size();
  });
  fmt::print("  hulls within 0.5 mm           {:8.1f} ms   {} corners\n", coarse, corners);
  fmt::print("  bores and bosses              {:8.1f} ms\n",
             median_ms([&] { round_features(bodies); }));
  fmt::print("  all of inspect                {:8.1f} ms\n",
             median_ms([&] { static_cast<void>(inspect_mesh(bodies_of(read), {}).report()); }));
  std::filesystem::remove(path);
}

// Hollow things as hulls that follow them.
void measure_hulls() {
  const std::vector<Eigen::Vector2d> outline{{0.03, 0.0}, {0.05, 0.0}, {0.05, 0.1}, {0.03, 0.1}};
  for (const int sides : {32, 128, 512}) {
    Surface tube;
    const int count = static_cast<int>(outline.size());
    for (int k = 0; k < sides; ++k)
      for (const auto& at : outline) {
        const double turn = 2.0 * std::numbers::pi * k / sides;
        tube.corners.emplace_back(at.x() * std::cos(turn), at.x() * std::sin(turn), at.y());
      }
    for (int k = 0; k < sides; ++k)
      for (int i = 0; i < count; ++i) {
        const int a = k * count + i;
        const int b = k * count + (i + 1) % count;
        const int c = (k + 1) % sides * count + i;
        const int d = (k + 1) % sides * count + (i + 1) % count;
        tube.faces.push_back({a, c, b});
        tube.faces.push_back({b, c, d});
      }
    const MeshBody body = bodies_of({tube}).list.front();
    HullSet set;
    const double time = median_ms([&] { set = hulls_along(body, {.within = 3e-3}); });
    fmt::print(
        "a tube of {:4} triangles as hulls within 3 mm: {:8.1f} ms   {} hulls, out {:.2f} mm\n",
        body.surface.faces.size(), time, set.hulls.size(), 1e3 * set.bulge.most);
  }
}

}  // namespace

int main() {
  Surface one;
  add_ball(one, Vector3::Zero(), 0.2, 224);
  measure("one body", one);
  Surface hundred;
  for (int i = 0; i < 100; ++i)
    add_ball(hundred, Vector3(0.1 * (i % 10), 0.1 * (i / 10), 0), 0.04, 23);
  measure("a hundred bodies", hundred);
  measure_hulls();
}
