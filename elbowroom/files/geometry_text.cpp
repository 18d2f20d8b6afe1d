#include "elbowroom/files/geometry_text.hpp"

#include <fmt/format.h>

#include <iterator>

#include "elbowroom/model/cloud.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

class Description {
 public:
  explicit Description(const Cell& cell) {
    for (const Arm& one : cell.arms()) add_arm(one);
    for (const auto* bodies : {&cell.fixtures(), &cell.pieces()})
      for (const Body& body : *bodies) {
        add("body {}", body.name);
        add_pose(body.at);
        add_parts(body.parts);
      }
    for (const Zone& zone : cell.zones()) {
      add("zone {} {} {}", zone.name, zone.distance, zone.speed);
      add_pose(zone.at);
      add_parts(zone.parts);
    }
    for (const MeantContact& contact : cell.contacts())
      add("meant {} {}\n", contact.first, contact.second);
  }
  [[nodiscard]] const std::string& text() const { return text_; }

 private:
  template <class... Values>
  void add(fmt::format_string<Values...> format, Values&&... values) {
    fmt::format_to(std::back_inserter(text_), format, std::forward<Values>(values)...);
  }

  void add_vector(const Vector3& v) { add(" {} {} {}", v.x(), v.y(), v.z()); }

  void add_pose(const Pose& pose) {
    add_vector(pose.position);
    for (int row = 0; row < 3; ++row) add_vector(pose.rotation.row(row).transpose());
    add("\n");
  }

  void add_arm(const Arm& arm) {
    add("arm {}", arm.name());
    add_pose(arm.mount());
    for (const Link& link : arm.links()) {
      add("link {} on {}, {} joint {} x {} + {}, held {}", link.name, link.parent_index,
          name_of(link.joint.kind), link.posture_index, link.posture_ratio, link.posture_offset,
          link.held);
      add_vector(link.joint.axis);
      add_pose(link.joint.origin);
      add_parts(link.parts);
    }
    for (int k = 0; k < arm.dof(); ++k)
      add("range {} {}\n", arm.search_lower()[k], arm.search_upper()[k]);
  }

  void add_parts(const std::vector<Part>& parts) {
    for (const Part& part : parts) {
      if (!part.collides) continue;
      add("part {}", name_of(part.shape));
      std::visit([&](const auto& shape) { add_sizes(shape); }, part.shape);
      add_pose(part.at);
    }
  }
  void add_sizes(const Box& box) { add_vector(box.size); }
  void add_sizes(const Sphere& sphere) { add(" {}", sphere.radius); }
  void add_sizes(const Cylinder& one) { add(" {} {}", one.radius, one.length); }
  void add_sizes(const Capsule& one) { add(" {} {}", one.radius, one.length); }
  void add_sizes(const Cone& one) { add(" {} {} {}", one.radius, one.top, one.length); }
  void add_sizes(const HalfSpace&) {}
  void add_sizes(const Mesh& mesh) {
    add(" {} {}", mesh.data->is_skin, mesh.data->thickness);
    for (int face = 0; face < static_cast<int>(mesh.data->faces.size()); ++face)
      for (const Vector3& corner : mesh.data->triangle(face)) add_vector(corner);
  }
  void add_sizes(const Cloud& cloud) {
    add(" {}", cloud.data->radius);
    for (const Vector3& point : cloud.data->points) add_vector(point);
  }
  void add_sizes(const Hull& hull) {
    for (const Vector3& corner : hull.data->corners) add_vector(corner);
  }

  std::string text_;
};

}  // namespace

std::string geometry_text(const Cell& cell) { return Description(cell).text(); }

std::string digest_of(std::string_view text) {
  std::uint64_t digest = 14695981039346656037ULL;
  for (const char c : text) digest = (digest ^ static_cast<unsigned char>(c)) * 1099511628211ULL;
  return fmt::format("{:016x}", digest);
}

}  // namespace er
