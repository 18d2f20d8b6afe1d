#include "elbowroom/model/mesh.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/model/surface.hpp"

namespace er {
namespace {

constexpr int kTrianglesTogether = 8;  // triangles under one box

// Every edge must be passed as often from one end as from the other.
void check_is_closed(const Surface& surface) {
  const EdgeFaults faults = edge_faults_of(surface);
  if (faults.none()) return;
  const std::string where = faults.where(surface);
  if (faults.open > 0)
    throw InputError(
        fmt::format("this mesh is open, so it has no inside: {} of its edges {} without a "
                    "neighbour, such as the one {}",
                    faults.open, faults.open == 1 ? "is" : "are", where),
        "mend the mesh, take its hull: instead, or say skin: yes where it is a sheet");
  throw InputError(fmt::format("the triangles of this mesh face both ways: at {} of its edges two "
                               "do not agree, such as the one {}",
                               faults.turned, where),
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
  // It was unsure as the point is on a triangle.
  [[nodiscard]] bool is_on_surface() const { return is_on_; }

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
    const double ahead = a.dot(b.cross(c));  // times ab + bc + ca
    if (ab == 0.0 || bc == 0.0 || ca == 0.0) {
      is_unsure_ = true;
      const bool is_along = ab == 0.0 && bc == 0.0 && ca == 0.0;  // the ray is in its plane
      is_on_ = is_on_ || (ahead == 0.0 && !is_along);
      return;
    }
    if (ahead / (ab + bc + ca) > 0.0) winds_ += all_left ? 1 : -1;
  }

  static constexpr double kWider = 1e-9;  // m; for the rounding of the boxes' planes
  const MeshData& mesh_;
  const Vector3& point_;
  const Vector3& direction_;
  int winds_ = 0;
  bool is_unsure_ = false;
  bool is_on_ = false;
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

Mesh mesh_of(std::vector<Vector3> corners, std::vector<std::array<int, 3>> faces, bool is_skin,
             FileOrigin origin, double thickness) {
  if (!(thickness >= 0.0) || !std::isfinite(thickness))
    throw InputError("the thickness of a mesh must be finite, and not below zero");
  Surface surface{.corners = std::move(corners), .faces = std::move(faces)};
  check_surface(surface);
  const int dropped = join_corners(surface);
  if (surface.faces.empty()) throw InputError("a mesh without triangles");
  if (!is_skin) check_is_closed(surface);

  auto data = std::make_shared<MeshData>();
  data->is_skin = is_skin;
  data->thickness = thickness;
  data->origin = std::move(origin);
  data->dropped = dropped;
  std::vector<AlignedBox> boxes;
  boxes.reserve(surface.faces.size());
  for (std::size_t i = 0; i < surface.faces.size(); ++i) {
    const auto [a, b, c] = surface.triangle(i);
    boxes.push_back({a.cwiseMin(b).cwiseMin(c).array() - thickness,
                     a.cwiseMax(b).cwiseMax(c).array() + thickness});
  }
  data->tree = BoxTree(boxes, kTrianglesTogether);
  data->faces.reserve(surface.faces.size());
  for (const int i : data->tree.order())
    data->faces.push_back(surface.faces[static_cast<std::size_t>(i)]);
  data->tree.forget_order();
  data->corners = std::move(surface.corners);
  data->ball.middle = data->tree.node(0).box.middle();
  for (const auto& face : data->faces)
    for (const int corner : face) {
      const Vector3& at = data->corners[static_cast<std::size_t>(corner)];
      data->ball.radius = std::max(data->ball.radius, (at - data->ball.middle).norm());
      data->reach = std::max(data->reach, at.norm());
    }
  data->ball.radius += thickness;
  data->reach += thickness;
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
  for (const Vector3& direction : kDirections) {
    RayCount ray(mesh, point, direction);
    if (const auto winds = ray.find()) return *winds != 0;
    if (ray.is_on_surface()) return true;
  }
  return std::abs(winding_number(mesh, point)) > 0.5;
}

}  // namespace er
