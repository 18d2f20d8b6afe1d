// Triangles as they come from a file, before anything is known of them.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "elbowroom/model/box_tree.hpp"
#include "elbowroom/model/shape.hpp"

namespace er {

/// Triangles over corners that they may share; metres, or the unit of a file.
struct Surface {
  std::string name = {};
  std::vector<Vector3> corners = {};
  std::vector<std::array<int, 3>> faces = {};
  std::optional<Colour> colour = {};
  double off = 0.0;  ///< m; what the triangles stand for is no further from them

  [[nodiscard]] const Vector3& corner(int number) const {
    return corners[static_cast<std::size_t>(number)];
  }
  [[nodiscard]] std::array<Vector3, 3> triangle(std::size_t face) const {
    const auto& [a, b, c] = faces[face];
    return {corner(a), corner(b), corner(c)};
  }
};

/// An edge, and how triangles use it.
struct EdgeUse {
  int low = 0;  ///< its corners
  int high = 0;
  int times = 0;  ///< triangles at it
  int sum = 0;    ///< those that pass it from low to high, less those that pass it the other way

  [[nodiscard]] bool is_even() const { return sum == 0; }
  [[nodiscard]] bool is_open() const { return times % 2 == 1; }
};

/// Throws InputError for a corner that is not finite, or a triangle of corners that are not there.
void check_surface(const Surface& surface);

/// Gives all corners at the same place the same number, and drops triangles that have less than
/// three different ones then; says how many.
int join_corners(Surface& surface);

/// Adds the triangles of another surface, and takes its name and colour where it has none, and how
/// far it is off where that is more.
void append(Surface& to, const Surface& more);

/// Each edge once, in the order of its corners.
std::vector<EdgeUse> edges_of(const Surface& surface);

/// Edges that keep a surface from being closed, with one side out.
struct EdgeFaults {
  int open = 0;    ///< at an odd number of triangles
  int turned = 0;  ///< whose triangles do not agree which side is out
  std::optional<EdgeUse> first = {};

  [[nodiscard]] bool none() const { return !first; }
  /// "from [0, 0, 12] to [0, 40, 12] mm": the first of them.
  [[nodiscard]] std::string where(const Surface& surface) const;
};
EdgeFaults edge_faults_of(const Surface& surface);

AlignedBox box_of(const Surface& surface);

/// What a size (m) of something from a file says of the unit that was taken (`scale`: m): "" when
/// it is believable, else "it would be 1205 m across: is its unit mm?". `like`: the length of the
/// arm that it is a part of, m; 0: none.
std::string unit_doubt(double size, double scale, double like = 0.0);

}  // namespace er
