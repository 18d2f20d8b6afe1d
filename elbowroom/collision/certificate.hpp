// The evidence that a joint path is free, written down so that somebody else can check it.
//
// The whole of each line is cut into stretches. Over a stretch, two parts keep apart because in its
// middle a plane lies between them: seen along its normal they are `distance` apart, and within the
// stretch they come nearer by no more than `travel`. Whoever has the parts and the joints can check
// both with a few lines of code, whatever was done to find them. Pairs that are far from each other
// need no plane: balls about them tell. Meshes and clouds come as groups of their elements, each
// with planes of its own. What keeps off the surface of a solid throughout is outside of it, if it
// is in the beginning: who checks looks at that himself.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/base/progress.hpp"
#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/cell_query.hpp"

namespace er {

/// A part by the name of its link, fixture, piece or zone, and which of its colliding parts it is.
struct PartName {
  std::string body = {};
  int part = 0;
  bool operator==(const PartName&) const = default;
};

/// Some elements of a mesh or a cloud, in the order in which its shape has them: they need not be
/// on one side of any plane all together. None for the whole of a convex part.
struct ElementRange {
  int begin = 0;
  int end = 0;
  bool operator==(const ElementRange&) const = default;
  auto operator<=>(const ElementRange&) const = default;
};

struct Stretch {
  int line = 0;       ///< from waypoint `line` to the next
  double from = 0.0;  ///< share of the line, 0 to 1
  double to = 1.0;
  int first = 0;  ///< into Certificate::parts; of the arm
  int second = 0;
  Vector3 normal = Vector3::UnitZ();  ///< unit, from the second to the first, in the middle
  double distance = 0.0;              ///< m, along the normal; zones: beyond their margin
  double travel = 0.0;                ///< m; distance - travel is more than the clearance
  ElementRange first_elements = {};   ///< what of the two parts this is about
  ElementRange second_elements = {};
};

struct Certificate {
  double clearance = 0.0;  ///< m; nothing comes nearer than this
  std::vector<Posture> waypoints = {};
  std::vector<PartName> parts = {};
  std::vector<Stretch> stretches = {};
};

struct CertifyOptions {
  double clearance = 0.005;
  /// A path along which so many stretches are not enough runs too close by something.
  std::size_t most_stretches = 2'000'000;
};

/// The evidence for straight joint lines through `waypoints` (two or more). A no says what comes
/// too near, or nearer than can be written down. Throws InputError for postures of the wrong length
/// or a negative clearance.
Verdict<Certificate> certify(const CellQuery& query, const std::vector<Posture>& waypoints,
                             const CertifyOptions& options = {},
                             const Supervision& supervision = {});

}  // namespace er
