// Bores and bosses: cylinders found in the surface of a mesh.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/bodies/split.hpp"

namespace er {

/// A stretch of a surface that is a cylinder, or part of one.
struct RoundFeature {
  int body = 0;                      ///< its number
  Vector3 middle = Vector3::Zero();  ///< on the axis, half-way along it
  Vector3 axis = Vector3::UnitZ();   ///< unit; which way is of no meaning
  double radius = 0.0;
  double length = 0.0;   ///< along the axis
  double span = 0.0;     ///< rad of the full turn that is there
  double worst = 0.0;    ///< m; no corner of the stretch is further from the cylinder
  bool is_bore = false;  ///< the solid is outside of it

  /// "bore of 44 mm diameter, 124 mm long, of body 7"
  [[nodiscard]] std::string text() const;
};

struct RoundFeatureOptions {
  double least_span = 1.5;      ///< rad
  double largest_step = 0.7;    ///< rad; neighbours that turn by more do not belong together
  double largest_fault = 2e-3;  ///< of the radius, that corners may be off the cylinder
};

/// Grows stretches of triangles whose normals are square to one axis, then fits a circle to their
/// corners seen along it: first algebraically (I. Kasa, "A circle fitting procedure and its error
/// analysis", 1976), then by the distances themselves. The largest come first.
std::vector<RoundFeature> round_features(const MeshBody& body,
                                         const RoundFeatureOptions& options = {});
/// Of all bodies, one after the other.
std::vector<RoundFeature> round_features(const Bodies& bodies,
                                         const RoundFeatureOptions& options = {});

}  // namespace er
