#include "elbowroom/model/mesh.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>
#include <optional>
#include <tuple>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

using Faces = std::vector<std::array<int, 3>>;

constexpr int kTrianglesTogether = 8;  // triangles under one box

std::string text_of(const Vector3& p) {
  return fmt::format("[{:.3f}, {:.3f}, {:.3f}] mm", 1e3 * p.x(), 1e3 * p.y(), 1e3 * p.z());
}

// Gives all corners that lie at the same place the same number.
void join_corners(std::vector<Vector3>& corners, Faces& faces) {
  const auto before = [&](const Vector3& a, const Vector3& b) {
    return std::lexicographical_compare(a.begin(), a.end(), b.begin(), b.end());
  };
  std::vector<int> order(corners.size());
  std::iota(order.begin(), order.end(), 0);
  const auto at = [&](int i) -> const Vector3& { return corners[static_cast<std::size_t>(i)]; };
  std::sort(order.begin(), order.end(),
            [&](int a, int b) { return before(at(a), at(b)) || (!before(at(b), at(a)) && a < b); });
  std::vector<int> number(corners.size());
  std::vector<Vector3> once;
  for (const int i : order) {
    if (once.empty() || once.back() != at(i)) once.push_back(at(i));
    number[static_cast<std::size_t>(i)] = static_cast<int>(once.size()) - 1;
  }
  corners = std::move(once);
  for (auto& face : faces)
    for (int& corner : face) corner = number[static_cast<std::size_t>(corner)];
}

// Every edge must be passed as often from one end as from the other.
void check_is_closed(const std::vector<Vector3>& corners, const Faces& faces) {
  struct Edge {
    int low, high, sense;
  };
  std::vector<Edge> edges;
  edges.reserve(3 * faces.size());
  for (const auto& face : faces)
    for (std::size_t k = 0; k < 3; ++k) {
      const int from = face[k];
      const int to = face[(k + 1) % 3];
      edges.push_back({std::min(from, to), std::max(from, to), from < to ? 1 : -1});
    }
  std::sort(edges.begin(), edges.end(), [](const Edge& a, const Edge& b) {
    return std::tie(a.low, a.high) < std::tie(b.low, b.high);
  });
  long open = 0;
  long turned = 0;
  const Edge* first = nullptr;
  for (std::size_t i = 0; i < edges.size();) {
    int sum = 0;
    const Edge& here = edges[i];
    std::size_t count = 0;
    for (; i < edges.size() && edges[i].low == here.low && edges[i].high == here.high; ++i, ++count)
      sum += edges[i].sense;
    if (sum == 0) continue;
    ++(count % 2 == 1 ? open : turned);
    if (first == nullptr) first = &here;
  }
  if (first == nullptr) return;
  const std::string where =
      fmt::format("from {} to {}", text_of(corners[static_cast<std::size_t>(first->low)]),
                  text_of(corners[static_cast<std::size_t>(first->high)]));
  if (open > 0)
    throw InputError(
        fmt::format("this mesh is open, so it has no inside: {} of its edges {} without a "
                    "neighbour, such as the one {}",
                    open, open == 1 ? "is" : "are", where),
        "mend the mesh, take its hull: instead, or say skin: yes where it is a sheet");
  throw InputError(fmt::format("the triangles of this mesh face both ways: at {} of its edges two "
                               "do not agree, such as the one {}",
                               turned, where),
                   "make all its faces point outwards, take its hull: instead, or say skin: yes");
}

// The signed count of the times that a ray from the origin leaves through triangles; nothing when
// it runs through an edge or a corner. The sides of a triangle seen along the ray are the same
// numbers, with opposite signs, for both triangles at an edge: no ray slips through between them.
class RayCount {
 public:
  RayCount(const MeshData& mesh, const Vector3& point, const Vector3& direction)
      : mesh_(mesh), point_(point), direction_(direction) {}

  std::optional<int> find() {
    look(0);
    if (is_unsure_) return std::nullopt;
    return winds_;
  }

 private:
  void look(int index) {
    const BoxTree::TreeNode& node = mesh_.tree.node(index);
    if (is_unsure_ || !meets(node.box)) return;
    if (node.right >= 0) {
      look(index + 1);
      look(node.right);
      return;
    }
    for (int face = node.begin; face < node.end; ++face) count(mesh_.triangle(face));
  }

  [[nodiscard]] bool meets(const AlignedBox& box) const {
    double from = 0.0;
    double to = std::numeric_limits<double>::infinity();
    for (Eigen::Index k = 0; k < 3; ++k) {
      const double a = (box.low[k] - kWider - point_[k]) / direction_[k];
      const double b = (box.high[k] + kWider - point_[k]) / direction_[k];
      from = std::max(from, std::min(a, b));
      to = std::min(to, std::max(a, b));
    }
    return from <= to;
  }

  void count(const std::array<Vector3, 3>& corners) {
    const Vector3 a = corners[0] - point_;
    const Vector3 b = corners[1] - point_;
    const Vector3 c = corners[2] - point_;
    const double ab = direction_.dot(a.cross(b));
    const double bc = direction_.dot(b.cross(c));
    const double ca = direction_.dot(c.cross(a));
    const bool all_left = ab >= 0.0 && bc >= 0.0 && ca >= 0.0;
    const bool all_right = ab <= 0.0 && bc <= 0.0 && ca <= 0.0;
    if (!all_left && !all_right) return;
    if (ab == 0.0 || bc == 0.0 || ca == 0.0) {
      is_unsure_ = true;
      return;
    }
    const double ahead = a.dot(b.cross(c)) / (ab + bc + ca);
    if (ahead > 0.0) winds_ += all_left ? 1 : -1;
  }

  static constexpr double kWider = 1e-9;  // m; for the rounding of the boxes' planes
  const MeshData& mesh_;
  const Vector3& point_;
  const Vector3& direction_;
  int winds_ = 0;
  bool is_unsure_ = false;
};

// The sum of the solid angles at which triangles are seen, in full spheres. A. van Oosterom and J.
// Strackee, "The solid angle of a plane triangle", 1983.
double winding_number(const MeshData& mesh, const Vector3& point) {
  double sum = 0.0;
  for (int face = 0; face < static_cast<int>(mesh.faces.size()); ++face) {
    const auto corners = mesh.triangle(face);
    const Vector3 a = corners[0] - point;
    const Vector3 b = corners[1] - point;
    const Vector3 c = corners[2] - point;
    const double na = a.norm();
    const double nb = b.norm();
    const double nc = c.norm();
    sum +=
        std::atan2(a.dot(b.cross(c)), na * nb * nc + a.dot(b) * nc + b.dot(c) * na + c.dot(a) * nb);
  }
  return sum / (2.0 * std::numbers::pi);
}

}  // namespace

Mesh mesh_of(std::vector<Vector3> corners, Faces faces, bool is_skin, std::string file,
             const Vector3& scale) {
  for (std::size_t i = 0; i < corners.size(); ++i)
    if (!corners[i].allFinite())
      throw InputError(fmt::format("corner {} of a mesh is not finite", i + 1));
  for (std::size_t i = 0; i < faces.size(); ++i)
    for (const int corner : faces[i])
      if (corner < 0 || corner >= static_cast<int>(corners.size()))
        throw InputError(fmt::format("triangle {} of a mesh has corner {}, where there are {}",
                                     i + 1, corner, corners.size()));
  join_corners(corners, faces);
  const std::size_t given = faces.size();
  std::erase_if(faces, [](const auto& f) { return f[0] == f[1] || f[1] == f[2] || f[2] == f[0]; });
  if (faces.empty()) throw InputError("a mesh without triangles");
  if (!is_skin) check_is_closed(corners, faces);

  auto data = std::make_shared<MeshData>();
  data->is_skin = is_skin;
  data->file = std::move(file);
  data->scale = scale;
  data->dropped = static_cast<int>(given - faces.size());
  std::vector<AlignedBox> boxes;
  boxes.reserve(faces.size());
  for (const auto& face : faces) {
    const auto at = [&](std::size_t k) -> const Vector3& {
      return corners[static_cast<std::size_t>(face[k])];
    };
    boxes.push_back({at(0).cwiseMin(at(1)).cwiseMin(at(2)), at(0).cwiseMax(at(1)).cwiseMax(at(2))});
  }
  data->tree = BoxTree(boxes, kTrianglesTogether);
  data->faces.reserve(faces.size());
  for (const int i : data->tree.order()) data->faces.push_back(faces[static_cast<std::size_t>(i)]);
  data->tree.forget_order();
  data->corners = std::move(corners);
  data->ball.middle = data->tree.node(0).box.middle();
  for (const auto& face : data->faces)
    for (const int corner : face) {
      const Vector3& at = data->corners[static_cast<std::size_t>(corner)];
      data->ball.radius = std::max(data->ball.radius, (at - data->ball.middle).norm());
      data->reach = std::max(data->reach, at.norm());
    }
  return {data};
}

bool is_solid_mesh(const Shape& shape) {
  const auto* mesh = std::get_if<Mesh>(&shape);
  return mesh != nullptr && !mesh->data->is_skin;
}

bool encloses(const MeshData& mesh, const Vector3& point) {
  if (mesh.is_skin || !mesh.tree.node(0).box.holds(point)) return false;
  static const std::array<Vector3, 4> kDirections{
      Vector3(0.5377, 0.6231, 0.5681).normalized(), Vector3(-0.4263, 0.7129, -0.5570).normalized(),
      Vector3(0.2887, -0.8153, 0.5019).normalized(), Vector3(0.7743, 0.2341, -0.5879).normalized()};
  for (const Vector3& direction : kDirections)
    if (const auto winds = RayCount(mesh, point, direction).find()) return *winds != 0;
  return std::abs(winding_number(mesh, point)) > 0.5;
}

}  // namespace er
