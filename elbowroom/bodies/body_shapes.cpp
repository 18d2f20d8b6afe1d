#include "elbowroom/bodies/body_shapes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <stdexcept>

#include "elbowroom/bodies/bulge.hpp"
#include "elbowroom/bodies/fitted_shape.hpp"
#include "elbowroom/bodies/hull_set.hpp"
#include "elbowroom/bodies/simplify.hpp"
#include "elbowroom/collision/distance.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

// By how much padded hulls stand out further.
double padding(const MeshBody& body) { return std::sqrt(3.0) * body.surface.off; }

// A fitted shape, to hold all that is no further than `by` from it.
void grow(Shape& shape, double by) {
  std::visit(Overloaded{[&](Box& box) { box.size.array() += 2.0 * by; },
                        [&](Sphere& sphere) { sphere.radius += by; },
                        [&](Capsule& capsule) { capsule.radius += by; },
                        [&](Cylinder& cylinder) {
                          cylinder.radius += by;
                          cylinder.length += 2.0 * by;
                        },
                        [](auto&) { throw std::logic_error("no such shape is fitted"); }},
             shape);
}

void add_hulls(const MeshBody& body, double within, ShapedBody& out) {
  HullSet set = hulls_along(body, {.within = within});
  for (const Hull& hull : set.hulls) out.parts.push_back({.shape = padded(hull, body.surface.off)});
  out.out = set.bulge.most + padding(body);
  out.adds = set.bulge.volume;
}

void add_simplest(const MeshBody& body, double within, const FileOrigin& origin, ShapedBody& out) {
  if (std::optional<FittedShape> fitted = fitted_about(body, within)) {
    grow(fitted->part.shape, body.surface.off);
    out.parts.push_back(std::move(fitted->part));
    out.out = fitted->bulge.most + padding(body);
    out.adds = fitted->bulge.volume;
    return;
  }
  Hull hull = hull_in_detail(body.surface, origin);
  const Bulge bulge = BulgeMeasure(body).of(hull, {.tolerance = 0.05 * within, .bad = within});
  if (bulge.most > within && body.volume > 0.0) return add_hulls(body, within, out);
  if (body.volume > 0.0) out.adds = std::max(0.0, volume(Shape(hull)) - body.volume);
  out.parts.push_back({.shape = std::move(hull)});
  out.out = bulge.most;
}

Part looks_of(const MeshBody& body, double detail, FileOrigin origin) {
  origin.detail = detail;
  Surface fewer = simplified(body.surface, detail).surface;
  return {.shape = mesh_of(std::move(fewer.corners), std::move(fewer.faces),
                           !body.health.is_closed(), std::move(origin)),
          .collides = false};
}

}  // namespace

std::string ShapedBody::text() const {
  std::string kind;
  int count = 0;
  for (const Part& part : parts)
    if (part.collides) {
      kind = name_of(part.shape);
      ++count;
    }
  return count <= 1 ? kind : fmt::format("{} {}s", count, kind);
}

ShapedBody shapes_of(const MeshBody& body, const ShapeChoice& choice, FileOrigin origin) {
  origin.bodies = {body.number_in_file};
  FileOrigin whole = origin;
  origin.detail = choice.detail;
  ShapedBody out;
  switch (choice.as) {
    case BodyShape::hull:
      out.parts.push_back({.shape = hull_in_detail(body.surface, origin)});
      break;
    case BodyShape::mesh:
      out.parts.push_back({.shape = mesh_in_detail(body.surface, false, origin)});
      break;
    case BodyShape::hulls:
      add_hulls(body, choice.within, out);
      break;
    case BodyShape::simplest:
      add_simplest(body, choice.within, origin, out);
      break;
  }
  if (choice.looks_as_mesh) {
    for (Part& part : out.parts) part.looks = false;
    out.parts.push_back(looks_of(body, choice.looks_detail, std::move(whole)));
  }
  return out;
}

double reach_beyond(const MeshBody& body, const std::vector<Part>& parts) {
  double most = 0.0;
  for (const Vector3& corner : body.surface.corners) {
    double nearest = std::numeric_limits<double>::infinity();
    for (const Part& part : parts)
      if (part.collides)
        nearest = std::min(nearest,
                           distance(Sphere{0.0}, Pose::at(corner), part.shape, part.at).distance);
    most = std::max(most, nearest);
  }
  return most;
}

}  // namespace er
