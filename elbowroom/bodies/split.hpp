// A file of one piece taken apart into bodies.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/bodies/mend.hpp"

namespace er {

/// Triangles that hang together by their edges, with the hollows inside of them.
struct MeshBody {
  int number = 0;          ///< from 1, the largest first, one file after the other
  int file = 0;            ///< which of these
  int number_in_file = 0;  ///< what it would be alone
  Surface surface = {};
  std::size_t outer_faces = 0;  ///< its first ones; the others are those of its hollows
  SurfaceHealth health = {};
  AlignedBox box = {};
  double volume = 0.0;  ///< m^3, without its hollows; 0 for what is open, or a sheet
  int hollows = 0;      ///< closed surfaces inside of it that face into it
  int inside_of = 0;    ///< the smallest body that holds all of it, with room all round; 0: none
  bool turned = false;  ///< it faced inwards, and was turned over

  [[nodiscard]] Vector3 size() const { return box.high - box.low; }
  /// Without its hollows.
  [[nodiscard]] Surface outside() const;
};

struct Bodies {
  std::vector<MeshBody> list = {};       ///< by the size of their boxes, then as in the file
  std::vector<std::string> mended = {};  ///< what was done to the whole
  Vector3 low = Vector3::Zero();         ///< of the box that holds all
  Vector3 high = Vector3::Zero();

  /// m; no body is further off what it stands for.
  [[nodiscard]] double off() const;
  /// Throws InputError for a number that is none of theirs.
  [[nodiscard]] const MeshBody& numbered(int number) const;
  /// The outermost of those that hold a body; itself where none does.
  [[nodiscard]] const MeshBody& outermost(const MeshBody& body) const;
  /// Some of them as one surface.
  [[nodiscard]] Surface together(const std::vector<int>& numbers) const;
};

/// "its exact surfaces are up to 0.05 mm off the triangles that they were laid out in; shapes are
/// thicker by that": m.
std::string exact_surfaces_text(double off);

/// The bodies of several files as one list. Those of one file are not looked for inside of those of
/// another.
Bodies joined(const std::vector<Bodies>& files);

/// Mends a surface (mend) and takes it apart. A body that faces inwards is turned over unless it is
/// the hollow of another, which then it belongs to. Two that touch at an edge or a face are two.
/// Names and colours of surfaces go with their bodies; one that is closed only together with others
/// has those of the first. Surfaces without triangles are passed over.
Bodies bodies_of(const std::vector<Surface>& surfaces);

}  // namespace er
