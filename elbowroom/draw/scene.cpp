#include "elbowroom/draw/scene.hpp"

#include <Eigen/Geometry>
#include <array>
#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/collision/cover.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/cloud.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

// m to each side: what is drawn of something that has no end.
constexpr double kEndlessShown = 1.5;

// Sides of a full circle: enough to look round at the size it has in a picture of a cell.
int sides_of(double radius) { return radius < 0.012 ? 12 : radius < 0.03 ? 24 : 48; }

class MeshBuilder {
 public:
  MeshBuilder(const Pose& pose, const Colour& colour) : pose_(pose) { mesh_.colour = colour; }

  std::uint32_t vertex(const Vector3& point, const Vector3& normal) {
    mesh_.vertices.push_back((pose_ * point).cast<float>());
    mesh_.normals.push_back((pose_.rotation * normal).cast<float>());
    return static_cast<std::uint32_t>(mesh_.vertices.size() - 1);
  }
  void quad(std::uint32_t a, std::uint32_t b, std::uint32_t c, std::uint32_t d) {
    mesh_.triangles.push_back({a, b, c});
    mesh_.triangles.push_back({a, c, d});
  }
  void triangle(std::uint32_t a, std::uint32_t b, std::uint32_t c) {
    mesh_.triangles.push_back({a, b, c});
  }

  // A surface of revolution about z through rings of (radius, z), with the normal of each ring.
  struct Ring {
    double radius;
    double z;
    double normal_out;
    double normal_up;
  };
  void revolve(const std::vector<Ring>& rings, int sides) {
    std::vector<std::uint32_t> last;
    for (const Ring& ring : rings) {
      std::vector<std::uint32_t> now;
      for (int i = 0; i < sides; ++i) {
        const double angle = 2.0 * std::numbers::pi * i / sides;
        const Vector3 out(std::cos(angle), std::sin(angle), 0.0);
        now.push_back(vertex(ring.radius * out + ring.z * Vector3::UnitZ(),
                             ring.normal_out * out + ring.normal_up * Vector3::UnitZ()));
      }
      for (std::size_t i = 0; !last.empty() && i < now.size(); ++i) {
        const std::size_t next = (i + 1) % now.size();
        quad(last[i], last[next], now[next], now[i]);
      }
      last = std::move(now);
    }
  }
  void disc(double radius, double z, double up, int sides) {
    const std::uint32_t middle = vertex({0, 0, z}, {0, 0, up});
    std::vector<std::uint32_t> rim;
    for (int i = 0; i < sides; ++i) {
      const double angle = 2.0 * std::numbers::pi * i / sides;
      rim.push_back(vertex({radius * std::cos(angle), radius * std::sin(angle), z}, {0, 0, up}));
    }
    for (std::size_t i = 0; i < rim.size(); ++i)
      triangle(middle, rim[i], rim[(i + 1) % rim.size()]);
  }

  SceneMesh take() { return std::move(mesh_); }

 private:
  Pose pose_;
  SceneMesh mesh_;
};

void build(MeshBuilder& mesh, const Box& box) {
  for (Eigen::Index axis = 0; axis < 3; ++axis) {
    for (const double side : {-1.0, 1.0}) {
      Vector3 centre = Vector3::Zero();
      centre[axis] = side * 0.5 * box.size[axis];
      const Vector3 normal = side * Vector3::Unit(axis);
      const Vector3 u = 0.5 * box.size[(axis + 1) % 3] * Vector3::Unit((axis + 1) % 3);
      const Vector3 v = 0.5 * box.size[(axis + 2) % 3] * Vector3::Unit((axis + 2) % 3);
      mesh.quad(mesh.vertex(centre - u - v, normal), mesh.vertex(centre + u - v, normal),
                mesh.vertex(centre + u + v, normal), mesh.vertex(centre - u + v, normal));
    }
  }
}

void build(MeshBuilder& mesh, const Cylinder& cylinder) {
  const double half = 0.5 * cylinder.length;
  const int sides = sides_of(cylinder.radius);
  mesh.revolve({{cylinder.radius, -half, 1.0, 0.0}, {cylinder.radius, half, 1.0, 0.0}}, sides);
  mesh.disc(cylinder.radius, -half, -1.0, sides);
  mesh.disc(cylinder.radius, half, 1.0, sides);
}

// A sphere is a capsule without a middle.
void build_rounded(MeshBuilder& mesh, double radius, double half) {
  std::vector<MeshBuilder::Ring> rings;
  const int sides = sides_of(radius);
  const int quarter = sides / 4;  // rings from pole to equator
  for (const double side : {-1.0, 1.0}) {
    for (int i = 0; i <= quarter; ++i) {
      const int step = side < 0.0 ? i : quarter - i;
      const double angle = 0.5 * std::numbers::pi * step / quarter;  // 0 at the pole
      const double out = std::sin(angle);
      const double up = side * std::cos(angle);
      rings.push_back({radius * out, side * half + radius * up, out, up});
    }
  }
  mesh.revolve(rings, sides);
}

void build(MeshBuilder& mesh, const Sphere& sphere) { build_rounded(mesh, sphere.radius, 0.0); }
void build(MeshBuilder& mesh, const Capsule& capsule) {
  build_rounded(mesh, capsule.radius, 0.5 * capsule.length);
}
void build(MeshBuilder& mesh, const Hull& hull) {
  for (const auto& face : hull.data->faces) {
    const auto corner = [&](std::size_t i) -> const Vector3& {
      return hull.data->corners[static_cast<std::size_t>(face[i])];
    };
    const Vector3 normal = (corner(1) - corner(0)).cross(corner(2) - corner(0)).normalized();
    mesh.triangle(mesh.vertex(corner(0), normal), mesh.vertex(corner(1), normal),
                  mesh.vertex(corner(2), normal));
  }
}

void build(MeshBuilder& mesh, const Cone& cone) {
  const double half = 0.5 * cone.length;
  const double slope = std::hypot(cone.length, cone.radius - cone.top);
  const double out = cone.length / slope;
  const double up = (cone.radius - cone.top) / slope;
  const int sides = sides_of(std::max(cone.radius, cone.top));
  mesh.revolve({{cone.radius, -half, out, up}, {std::max(cone.top, 1e-6), half, out, up}}, sides);
  mesh.disc(cone.radius, -half, -1.0, sides);
  if (cone.top > 0.0) mesh.disc(cone.top, half, 1.0, sides);
}

void build(MeshBuilder& mesh, const HalfSpace&) {
  build(mesh, Box{{2.0 * kEndlessShown, 2.0 * kEndlessShown, 0.002}});
}

void build(MeshBuilder& mesh, const Mesh& shape) {
  for (int face = 0; face < static_cast<int>(shape.data->faces.size()); ++face) {
    const auto [a, b, c] = shape.data->triangle(face);
    const Vector3 normal = (b - a).cross(c - a).normalized();
    mesh.triangle(mesh.vertex(a, normal), mesh.vertex(b, normal), mesh.vertex(c, normal));
  }
}

// Each ball as eight triangles; of very many some.
void build(MeshBuilder& mesh, const Cloud& cloud) {
  constexpr std::size_t kMostShown = 20000;
  const std::vector<Vector3>& points = cloud.data->points;
  for (std::size_t i = 0; i < points.size(); i += 1 + points.size() / kMostShown) {
    std::array<std::uint32_t, 6> corner{};
    for (Eigen::Index k = 0; k < 3; ++k)
      for (const double side : {-1.0, 1.0})
        corner[static_cast<std::size_t>(2 * k) + (side > 0.0 ? 1 : 0)] = mesh.vertex(
            points[i] + side * cloud.data->radius * Vector3::Unit(k), side * Vector3::Unit(k));
    for (std::size_t x = 0; x < 2; ++x)
      for (std::size_t y = 2; y < 4; ++y)
        for (std::size_t z = 4; z < 6; ++z) mesh.triangle(corner[x], corner[y], corner[z]);
  }
}

}  // namespace

SceneMesh tessellate(const Shape& shape, const Pose& pose, const Colour& colour) {
  MeshBuilder mesh(pose, colour);
  std::visit([&](const auto& one) { build(mesh, one); }, shape);
  SceneMesh out = mesh.take();
  out.endless = !is_bounded(shape);
  return out;
}

std::vector<Posture> postures_with(const Cell& cell, const Arm& arm, const Posture& posture) {
  std::vector<Posture> all;
  for (const Arm& one : cell.arms())
    all.push_back(one.name() == arm.name() ? posture : one.home_or_zero());
  return all;
}

Scene::Scene(const Cell& cell, const std::vector<Posture>& postures, std::string_view subject) {
  if (postures.size() != cell.arms().size())
    throw InputError("a scene needs one posture per arm of the cell");
  for (const Body& body : cell.fixtures()) add(body.parts, body.at, false);
  for (const Body& body : cell.pieces()) add(body.parts, body.at, false);
  for (const Zone& zone : cell.zones())
    for (const Part& part : zone.parts) add_outline(part, zone.at, zone.distance);
  for (std::size_t a = 0; a < postures.size(); ++a) {
    const bool is_subject = subject.empty() || cell.arms()[a].name() == subject;
    const auto poses = link_poses(cell.arms()[a], postures[a]);
    for (std::size_t l = 0; l < poses.size(); ++l)
      add(cell.arms()[a].links()[l].parts, poses[l], is_subject);
  }
}

void Scene::add(const std::vector<Part>& parts, const Pose& at, bool subject) {
  for (const Part& part : parts) {
    if (!part.looks) continue;
    SceneMesh mesh = tessellate(part.shape, at * part.at, part.colour);
    mesh.subject = subject;
    add(std::move(mesh));
  }
}

// A volume that is no geometry: the twelve edges of the box round it, so that nothing is hidden.
void Scene::add_outline(const Part& part, const Pose& at, double margin) {
  AlignedBox box = own_box(part.shape);
  if (!is_bounded(part.shape))
    box = {{-kEndlessShown, -kEndlessShown, -0.002}, {kEndlessShown, kEndlessShown, 0.0}};
  const Pose pose = at * part.at * Pose::at(box.middle());
  const Vector3 half = box.half() + Vector3::Constant(margin);
  for (Eigen::Index axis = 0; axis < 3; ++axis)
    for (const double u : {-1.0, 1.0})
      for (const double v : {-1.0, 1.0}) {
        Vector3 from = half;
        from[(axis + 1) % 3] *= u;
        from[(axis + 2) % 3] *= v;
        Vector3 to = from;
        to[axis] = -to[axis];
        const Part edge = capsule_between(from, to, 0.003);
        add(tessellate(edge.shape, pose * edge.at, part.colour));
      }
}

void Scene::add(SceneMesh mesh) {
  if (mesh.endless) return meshes_.push_back(std::move(mesh));
  for (const Eigen::Vector3f& v : mesh.vertices) {
    low_ = low_.cwiseMin(v.cast<double>());
    high_ = high_.cwiseMax(v.cast<double>());
  }
  meshes_.push_back(std::move(mesh));
}

void Scene::add(const Scene& other) {
  for (const SceneMesh& mesh : other.meshes()) add(mesh);
}

void Scene::add_tube(const Vector3& from, const Vector3& to, const Colour& colour, double radius) {
  if ((to - from).norm() < 1e-9) return;
  const Part part = capsule_between(from, to, radius);
  SceneMesh mesh = tessellate(part.shape, part.at, colour);
  mesh.subject = true;
  add(std::move(mesh));
}

void Scene::add_arrow_head(const Vector3& at, const Vector3& way, const Colour& colour,
                           double radius) {
  MeshBuilder cone({rotation_with_z(way.normalized()), at}, colour);
  const double length = 2.5 * radius;
  const double out = length / std::hypot(length, radius);
  const double up = radius / std::hypot(length, radius);
  cone.revolve({{radius, 0.0, out, up}, {1e-6, length, out, up}}, 24);
  cone.disc(radius, 0.0, -1.0, 24);
  SceneMesh mesh = cone.take();
  mesh.subject = true;
  add(std::move(mesh));
}

void Scene::add_frame(const Pose& frame, double length, double radius) {
  static const std::array<Colour, 3> kColours{Colour{0.85, 0.15, 0.12}, Colour{0.15, 0.60, 0.20},
                                              Colour{0.13, 0.32, 0.80}};
  for (std::size_t k = 0; k < 3; ++k)
    add_tube(frame.position,
             frame.position + length * frame.rotation.col(static_cast<Eigen::Index>(k)),
             kColours[k], radius);
}

void Scene::add_ball(const Vector3& centre, double radius, const Colour& colour) {
  add(tessellate(Sphere{radius}, Pose::at(centre), colour));
}

void Scene::add_covers(const Arm& arm, const Posture& posture, const Colour& colour) {
  const std::vector<Pose> poses = link_poses(arm, posture);
  for (std::size_t l = 0; l < poses.size(); ++l)
    for (const Part& part : arm.links()[l].parts) {
      if (!part.collides) continue;
      const Cover cover = cover_of(part.shape);
      for (std::size_t ball = 0; ball < cover.size(); ++ball)
        if (is_leaf(cover, ball)) {
          SceneMesh mesh = tessellate(Sphere{cover[ball].radius},
                                      poses[l] * part.at * Pose::at(cover[ball].centre), colour);
          mesh.subject = true;
          add(std::move(mesh));
        }
    }
}

void Scene::add_path(const std::vector<Vector3>& points, const Colour& colour, double radius) {
  if (points.empty()) return;
  Vector3 last = points.front();
  for (std::size_t i = 1; i < points.size(); ++i) {
    const Vector3 way = points[i] - last;
    const double length = way.norm();
    // Short hops are joined up so that a slow stretch does not cost thousands of triangles.
    if (length < radius && i + 1 < points.size()) continue;
    if (length > 1e-9) {
      SceneMesh tube =
          tessellate(Capsule{radius, length},
                     Pose{rotation_with_z(way / length), 0.5 * (points[i] + last)}, colour);
      tube.subject = true;
      add(std::move(tube));
    }
    last = points[i];
  }
  add_ball(points.front(), 2.2 * radius, colour);
  add_ball(points.back(), 2.2 * radius, colour);
}

}  // namespace er
