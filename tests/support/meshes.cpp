#include "support/meshes.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <cmath>
#include <numbers>

namespace er::test {
namespace {

using Faces = std::vector<std::array<int, 3>>;

// A grid of points over two directions, some of which close; two triangles for each cell.
void add_cells(Faces& faces, int rows, int columns, bool rows_close) {
  const auto at = [&](int row, int column) { return (row % rows) * columns + column % columns; };
  for (int r = 0; r + (rows_close ? 0 : 1) < rows; ++r)
    for (int c = 0; c < columns; ++c) {
      faces.push_back({at(r, c), at(r, c + 1), at(r + 1, c + 1)});
      faces.push_back({at(r, c), at(r + 1, c + 1), at(r + 1, c)});
    }
}

}  // namespace

Mesh box_mesh(const Vector3& size, int cuts) {
  std::vector<Vector3> corners;
  Faces faces;
  for (Eigen::Index axis = 0; axis < 3; ++axis)
    for (const double side : {-0.5, 0.5}) {
      const Eigen::Index u = (axis + 1) % 3;
      const Eigen::Index v = (axis + 2) % 3;
      const auto point = [&](int i, int k) {
        Vector3 p;
        p[axis] = side * size[axis];
        p[u] = (static_cast<double>(i) / cuts - 0.5) * size[u];
        p[v] = (static_cast<double>(k) / cuts - 0.5) * size[v];
        corners.push_back(p);
        return static_cast<int>(corners.size()) - 1;
      };
      for (int i = 0; i < cuts; ++i)
        for (int k = 0; k < cuts; ++k) {
          const int a = point(i, k);
          const int b = point(i + 1, k);
          const int c = point(i + 1, k + 1);
          const int d = point(i, k + 1);
          if (side > 0.0) {
            faces.push_back({a, b, c});
            faces.push_back({a, c, d});
          } else {
            faces.push_back({a, c, b});
            faces.push_back({a, d, c});
          }
        }
    }
  return mesh_of(std::move(corners), std::move(faces));
}

Mesh turned_mesh(const std::vector<Eigen::Vector2d>& outline, int sides) {
  std::vector<Vector3> corners;
  for (const Eigen::Vector2d& point : outline)
    for (int k = 0; k < sides; ++k) {
      const double angle = 2.0 * std::numbers::pi * k / sides;
      corners.emplace_back(point.x() * std::cos(angle), point.x() * std::sin(angle), point.y());
    }
  Faces faces;
  add_cells(faces, static_cast<int>(outline.size()), sides, true);
  return mesh_of(std::move(corners), std::move(faces));
}

Mesh bucket_mesh(double radius, double height, double wall, int sides) {
  return turned_mesh({{0, 0},
                      {radius, 0},
                      {radius, height},
                      {radius - wall, height},
                      {radius - wall, wall},
                      {0, wall}},
                     sides);
}

Mesh bumpy_mesh(double radius, int triangles) {
  const int rows = std::max(4, static_cast<int>(std::sqrt(0.25 * triangles)));
  const int columns = 2 * rows;
  std::vector<Vector3> corners;
  for (int r = 0; r <= rows; ++r)
    for (int c = 0; c < columns; ++c) {
      const double down = std::numbers::pi * r / rows;
      const double round = 2.0 * std::numbers::pi * c / columns;
      const Vector3 out(std::sin(down) * std::cos(round), std::sin(down) * std::sin(round),
                        std::cos(down));
      const double bump = 1.0 + 0.1 * std::sin(7.0 * out.x()) * std::cos(5.0 * out.y()) +
                          0.1 * std::sin(9.0 * out.z());
      const bool is_pole = r == 0 || r == rows;
      corners.push_back(is_pole ? Vector3(0, 0, (r == 0 ? 1.0 : -1.0) * radius)
                                : Vector3(radius * bump * out));
    }
  Faces faces;
  add_cells(faces, rows + 1, columns, false);
  return mesh_of(std::move(corners), std::move(faces));
}

Mesh mesh_of_hull(const Hull& hull) { return mesh_of(hull.data->corners, hull.data->faces); }

Cloud random_cloud(RandomStream& random, const Vector3& half, int count, double radius) {
  std::vector<Vector3> points;
  for (int i = 0; i < count; ++i)
    points.emplace_back(random.uniform(-half.x(), half.x()), random.uniform(-half.y(), half.y()),
                        random.uniform(-half.z(), half.z()));
  return cloud_of(std::move(points), radius);
}

std::string as_obj(const std::vector<Surface>& surfaces) {
  std::string out;
  int first = 1;
  for (const Surface& surface : surfaces) {
    out += "o " + surface.name + "\n";
    for (const Vector3& c : surface.corners)
      out += fmt::format("v {:.17g} {:.17g} {:.17g}\n", c.x(), c.y(), c.z());
    for (const auto& [a, b, c] : surface.faces)
      out += fmt::format("f {} {} {}\n", first + a, first + b, first + c);
    first += static_cast<int>(surface.corners.size());
  }
  return out;
}

}  // namespace er::test
