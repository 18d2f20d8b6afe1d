// What a picture shows: triangles with colours.
#pragma once

#include <cstdint>
#include <vector>

#include "elbowroom/model/cell.hpp"

namespace er {

/// Triangles of one colour, in the world. Vertices carry normals: shared ones look smooth.
struct SceneMesh {
  std::vector<Eigen::Vector3f> vertices;
  std::vector<Eigen::Vector3f> normals;
  std::vector<std::array<std::uint32_t, 3>> triangles;
  Colour colour;
  bool subject = false;  ///< what the picture is about: arms and paths
  bool endless = false;  ///< only some of it is drawn, and the picture need not show that
};

/// Triangles of a shape at a pose, round ones with enough sides to look round.
SceneMesh tessellate(const Shape& shape, const Pose& pose, const Colour& colour);

/// One posture per arm: `posture` for `arm`, stance home (or zero) for the others.
std::vector<Posture> postures_with(const Cell& cell, const Arm& arm, const Posture& posture);

class Scene {
 public:
  /// Everything in the cell that is there for looks, each arm at its posture. `postures` has one
  /// entry per arm of the cell. What the picture is about may be one arm, by
  /// its name; else it is all of them.
  Scene(const Cell& cell, const std::vector<Posture>& postures, std::string_view subject = {});

  /// A line through points, as a tube with a ball at each end.
  void add_path(const std::vector<Vector3>& points, const Colour& colour, double radius = 0.004);
  /// A plain tube from one point to another.
  void add_tube(const Vector3& from, const Vector3& to, const Colour& colour, double radius);
  /// A pointed head, of stacked rings, whose tip lies beyond `at` along `way`.
  void add_arrow_head(const Vector3& at, const Vector3& way, const Colour& colour, double radius);
  /// The axes of a frame from its origin: x red, y green, z blue.
  void add_frame(const Pose& frame, double length, double radius);
  /// The balls that an arm's parts are covered by, the finest ones, over the arm at a posture.
  void add_covers(const Arm& arm, const Posture& posture, const Colour& colour);
  /// Everything of another scene.
  void add(const Scene& other);
  void add_ball(const Vector3& centre, double radius, const Colour& colour);

  [[nodiscard]] const std::vector<SceneMesh>& meshes() const { return meshes_; }
  [[nodiscard]] const Vector3& low() const { return low_; }
  [[nodiscard]] const Vector3& high() const { return high_; }

 private:
  void add(const std::vector<Part>& parts, const Pose& at, bool subject);
  void add_outline(const Part& part, const Pose& at, double margin);
  void add(SceneMesh mesh);
  std::vector<SceneMesh> meshes_;
  Vector3 low_ = Vector3::Constant(1e30);
  Vector3 high_ = Vector3::Constant(-1e30);
};

}  // namespace er
