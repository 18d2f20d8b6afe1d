// Bodies of a mesh as parts of the links of an arm.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "elbowroom/bodies/body_shapes.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

/// An arm as its links alone are described, mounted so: what else it has may not be right yet.
Arm bare_arm(const ArmDescription& description, const Pose& mount);

/// What becomes of one body.
struct BodyUse {
  int link = -1;  ///< of the arm; -1 leaves it out
  ShapeChoice shape = {};
  bool looks_only = false;            ///< shown, but nothing is checked against it
  std::optional<Colour> colour = {};  ///< in place of that of the file
};

struct BodiesOnLinks {
  Pose at = {};                          ///< of the bodies in the arm's base frame
  Posture posture = {};                  ///< in which the bodies show the arm; empty: at zero
  std::vector<FileOrigin> origins = {};  ///< of each file: what shapes say they were made from
  std::optional<double> density = {};    ///< kg/m^3: the mass of links that state none
  Colour colour = {};                    ///< of bodies that have none of their own
};

/// What came of one body.
struct BodyAdded {
  std::string shape = {};  ///< ShapedBody::text; "": it is no part
  double out = 0.0;        ///< m that its shapes stand out of it at most (ShapedBody)
  double beyond = 0.0;     ///< m that what is looks only reaches beyond its link (reach_beyond)
};

/// Adds each body to the parts of its link, and says what came of it; `uses` has one for each body.
/// Metres. With a density, links that state no
/// mass weigh what their bodies weigh. What is inside of a body of the same link that collides
/// weighs, but is no part: nothing can meet it. A mass that is stated for a link without parts is
/// spread over its bodies. Throws InputError for a body that cannot be the shape that is asked for,
/// or has no volume to weigh.
std::vector<BodyAdded> add_bodies(ArmDescription& arm, const Bodies& bodies,
                                  const std::vector<BodyUse>& uses, const BodiesOnLinks& options);

}  // namespace er
