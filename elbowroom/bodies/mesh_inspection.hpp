// What is in a mesh file, and what is wrong with it; held against an arm where one is given.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "elbowroom/bodies/axis_check.hpp"
#include "elbowroom/bodies/body_shapes.hpp"
#include "elbowroom/bodies/bulge.hpp"
#include "elbowroom/bodies/link_proposal.hpp"
#include "elbowroom/bodies/mesh_placing.hpp"
#include "elbowroom/bodies/mesh_posture.hpp"

namespace er {

struct MeshInspectionOptions {
  std::vector<std::string> files = {};  ///< as the proposal names them, in the order of the bodies
  std::string unit = "m";               ///< of the file, in which it was taken; "": it states it
  double scale = 1.0;                   ///< and m per unit of it
  std::optional<double> density = {};   ///< kg/m^3
  std::optional<double> within = {};  ///< m that the simplest shapes may stand out; none: not asked
  std::optional<Arm> arm = {};  ///< all joints at zero, in whose base frame the mesh should be
  std::vector<int> given = {};  ///< to each body the link that it is on already, if any; -1: none
};

struct MeshInspection {
  MeshInspectionOptions asked = {};
  Bodies bodies = {};
  std::vector<Inertial> inertials = {};  ///< of each body with a volume, by density (or 1 kg/m^3)
  std::vector<Bulge> bulges = {};        ///< of each body's hull; nothing where it has none
  std::vector<ShapedBody> shaped = {};   ///< the simplest shapes of each, where they were asked for
  std::optional<Arm> arm = {};           ///< as it stands in the mesh: mount, and posture as zero
  std::optional<MeshPlacing> placing = {};  ///< where the mesh is not in its base frame
  std::optional<MeshPosture> posture = {};  ///< where the mesh does not show it at zero
  std::vector<BodyOnLink> proposed = {};    ///< for each body; empty without an arm
  std::vector<AxisFit> axes = {};
  std::vector<std::string> wrong = {};  ///< the worst first; empty: the verdict is yes
  std::vector<std::string> odd = {};

  [[nodiscard]] bool passed() const { return wrong.empty(); }
  /// "yes: 19 bodies, all closed; every axis is where the mesh has it".
  [[nodiscard]] std::string summary() const;
  [[nodiscard]] std::string report() const;
  /// What goes into the arm's description in a cell file once it was looked at; "" without an arm.
  [[nodiscard]] std::string proposal() const;
};

/// Metres.
MeshInspection inspect_mesh(Bodies bodies, const MeshInspectionOptions& options);

/// Of the bodies of these files, the link that parts of an arm put each on; -1: none.
std::vector<int> links_given(const Bodies& bodies, const std::vector<std::string>& files,
                             const Arm& arm);

}  // namespace er
