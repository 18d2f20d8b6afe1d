// Meshes and clouds with known shapes.
#pragma once

#include "elbowroom/base/random.hpp"
#include "elbowroom/model/cloud.hpp"
#include "elbowroom/model/mesh.hpp"
#include "elbowroom/model/surface.hpp"

namespace er::test {

/// A box of twelve triangles, each face cut into `cuts` by `cuts` squares.
Mesh box_mesh(const Vector3& size, int cuts = 1);
/// A solid of revolution about z from a closed outline of (radius, height), counter-clockwise in a
/// view with the radius to the right; no radius below zero.
Mesh turned_mesh(const std::vector<Eigen::Vector2d>& outline, int sides);
/// An open bucket with a floor, hollow.
Mesh bucket_mesh(double radius, double height, double wall, int sides);
/// A sphere with dents and bumps of about `triangles` triangles, radius 0.8 to 1.2 of `radius`.
Mesh bumpy_mesh(double radius, int triangles);
/// The triangles of a convex hull.
Mesh mesh_of_hull(const Hull& hull);
/// Points spread over a box.
Cloud random_cloud(RandomStream& random, const Vector3& half, int count, double radius);

/// As an OBJ file, with names, in the surfaces' unit.
std::string as_obj(const std::vector<Surface>& surfaces);

}  // namespace er::test
