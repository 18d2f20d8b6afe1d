#include "elbowroom/model/inertial.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/base/symmetric.hpp"
#include "elbowroom/model/cloud.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

Matrix3 diagonal(double x, double y, double z) { return Vector3(x, y, z).asDiagonal(); }

// The parallel axis theorem: what a point mass at `offset` adds to an inertia.
Matrix3 point_inertia(double mass, const Vector3& offset) {
  return mass * (offset.squaredNorm() * Matrix3::Identity() - offset * offset.transpose());
}

// Sums of slices: the radius goes evenly from r to t over the length l.
Inertial of_cone(const Cone& cone, double density) {
  using std::numbers::pi;
  const double r = cone.radius;
  const double t = cone.top;
  const double l = cone.length;
  const double squares = r * r + r * t + t * t;
  const double fourths =
      r * r * r * r + r * r * r * t + r * r * t * t + r * t * t * t + t * t * t * t;
  Inertial out;
  out.mass = density * pi / 3.0 * l * squares;
  const double up = l / 4.0 * (r * r + 2.0 * r * t + 3.0 * t * t) / squares;  // from the lower end
  out.centre = {0.0, 0.0, up - 0.5 * l};
  const double about_axis = density * pi / 10.0 * l * fourths;
  const double along = density * pi / 30.0 * l * l * l * (r * r + 3.0 * r * t + 6.0 * t * t);
  const double across = 0.5 * about_axis + along - out.mass * up * up;
  out.inertia = diagonal(across, across, about_axis);
  return out;
}

Inertial of_cloud(const CloudData& cloud, double density) {
  Inertial sum;
  for (const Vector3& point : cloud.points)
    sum = joined(sum, moved(inertial_of(Sphere{cloud.radius}, density), Pose::at(point)));
  return sum;
}

}  // namespace

Inertial inertial_within(const std::vector<Vector3>& corners,
                         const std::vector<std::array<int, 3>>& faces, double density) {
  // A fan of signed tetrahedra from one point; F. Tonon, "Explicit exact formulas for the 3-D
  // tetrahedron inertia tensor in terms of its vertex coordinates", 2004, by second moments.
  Vector3 inner = Vector3::Zero();
  for (const Vector3& corner : corners) inner += corner / static_cast<double>(corners.size());
  double volume = 0.0;
  Vector3 first = Vector3::Zero();
  Matrix3 second = Matrix3::Zero();
  for (const auto& face : faces) {
    const Vector3 a = corners[static_cast<std::size_t>(face[0])] - inner;
    const Vector3 b = corners[static_cast<std::size_t>(face[1])] - inner;
    const Vector3 c = corners[static_cast<std::size_t>(face[2])] - inner;
    const double part = a.dot(b.cross(c)) / 6.0;
    const Vector3 sum = a + b + c;
    volume += part;
    first += part * sum / 4.0;
    second += part / 20.0 *
              (a * a.transpose() + b * b.transpose() + c * c.transpose() + sum * sum.transpose());
  }
  if (volume < 0.0) {
    volume = -volume;
    first = -first;
    second = -second;
  }
  const Vector3 centre = first / volume;
  const Matrix3 about_centre = second - volume * centre * centre.transpose();
  return {density * volume, inner + centre,
          density * (about_centre.trace() * Matrix3::Identity() - about_centre)};
}

Inertial inertial_of(const Shape& shape, double density) {
  Inertial out;
  out.mass = density * volume(shape);
  const double m = out.mass;
  if (const auto* box = std::get_if<Box>(&shape)) {
    const Vector3 s = box->size.cwiseProduct(box->size);
    out.inertia = m / 12.0 * diagonal(s.y() + s.z(), s.x() + s.z(), s.x() + s.y());
  } else if (const auto* sphere = std::get_if<Sphere>(&shape)) {
    out.inertia = 0.4 * m * sphere->radius * sphere->radius * Matrix3::Identity();
  } else if (const auto* cylinder = std::get_if<Cylinder>(&shape)) {
    const double r2 = cylinder->radius * cylinder->radius;
    const double across = m * (3.0 * r2 + cylinder->length * cylinder->length) / 12.0;
    out.inertia = diagonal(across, across, 0.5 * m * r2);
  } else if (const auto* capsule = std::get_if<Capsule>(&shape)) {
    const double r = capsule->radius;
    const double l = capsule->length;
    const double tube = density * std::numbers::pi * r * r * l;
    const double ends = m - tube;  // the two half-spheres; centres of mass 3/8 r beyond the tube
    const double lever = 0.5 * l + 0.375 * r;
    const double across = tube * (3.0 * r * r + l * l) / 12.0 + ends * (0.4 - 9.0 / 64.0) * r * r +
                          ends * lever * lever;
    out.inertia = diagonal(across, across, 0.5 * tube * r * r + 0.4 * ends * r * r);
  } else if (const auto* hull = std::get_if<Hull>(&shape)) {
    out = inertial_within(hull->data->corners, hull->data->faces, density);
  } else if (const auto* cone = std::get_if<Cone>(&shape)) {
    out = of_cone(*cone, density);
  } else if (const auto* mesh = std::get_if<Mesh>(&shape)) {
    out = mesh->data->is_skin ? Inertial{}
                              : inertial_within(mesh->data->corners, mesh->data->faces, density);
  } else if (const auto* cloud = std::get_if<Cloud>(&shape)) {
    out = of_cloud(*cloud->data, density);
  } else {
    out = {};  // a half-space has no end
  }
  return out;
}

Inertial joined(const Inertial& a, const Inertial& b) {
  Inertial out;
  out.mass = a.mass + b.mass;
  if (!(out.mass > 0.0)) return out;
  out.centre = (a.mass * a.centre + b.mass * b.centre) / out.mass;
  out.inertia = a.inertia + point_inertia(a.mass, a.centre - out.centre) + b.inertia +
                point_inertia(b.mass, b.centre - out.centre);
  return out;
}

Inertial moved(const Inertial& inertial, const Pose& pose) {
  return {inertial.mass, pose * inertial.centre,
          pose.rotation * inertial.inertia * pose.rotation.transpose()};
}

Inertial inertial_of(const std::vector<Part>& parts, double mass) {
  const bool any =
      std::any_of(parts.begin(), parts.end(), [](const Part& p) { return p.collides; });
  Inertial sum;
  for (const Part& part : parts)
    if (part.collides || !any) sum = joined(sum, moved(inertial_of(part.shape, 1.0), part.at));
  if (!(sum.mass > 0.0)) return {mass, Vector3::Zero(), Matrix3::Zero()};
  sum.inertia *= mass / sum.mass;
  sum.mass = mass;
  return sum;
}

std::string fault_of(const Inertial& inertial) {
  if (!std::isfinite(inertial.mass) || !inertial.centre.allFinite() ||
      !inertial.inertia.allFinite())
    return "a value is not finite";
  if (inertial.mass < 0.0) return fmt::format("the mass is below zero ({:g} kg)", inertial.mass);
  const Matrix3& i = inertial.inertia;
  const double size = i.cwiseAbs().maxCoeff();
  if ((i - i.transpose()).cwiseAbs().maxCoeff() > 1e-9 * size) return "the tensor is not symmetric";
  const Vector3 moments = symmetric_eigen(i).values;  // ascending
  const double slack = 1e-6 * size;
  if (moments[0] < -slack)
    return fmt::format("a principal moment is below zero ({:.3g} kg m^2)", moments[0]);
  if (moments[2] > moments[0] + moments[1] + slack)
    return fmt::format(
        "the largest principal moment, {:.3g} kg m^2, is above the sum of the other two, {:.3g}",
        moments[2], moments[0] + moments[1]);
  if (inertial.mass == 0.0 && size > 0.0) return "it has moments of inertia but no mass";
  return {};
}

}  // namespace er
