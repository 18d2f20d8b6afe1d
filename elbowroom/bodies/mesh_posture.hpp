// A mesh that was exported with joints elsewhere than at zero: which posture it shows.
#pragma once

#include <optional>
#include <vector>

#include "elbowroom/bodies/round_features.hpp"
#include "elbowroom/bodies/split.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

struct MeshPosture {
  std::vector<Posture> postures = {};  ///< the nearest to zero first; others explain as much, such
                                       ///< as with the wrist flipped (at most 16)
  int axes = 0;                        ///< joints that turn
  int matched = 0;                     ///< of these, with a bore or boss about their axis,
  int lines = 0;                       ///< and on how many different lines these lie

  [[nodiscard]] const Posture& first() const { return postures.front(); }
};

/// From the mount outward each joint is turned so that the axis after it lies on a bore or boss; of
/// all such postures within the joints' ranges those are taken that put the most axes on one, and
/// of these those on the most different ones. What turns nothing but itself, as the last joint
/// does, stays at zero, and so do joints that slide. Nothing where zero does as well, or where that
/// gives less than three axes or less than three quarters of them. The arm is mounted as it is in
/// the frame of the mesh; metres.
std::optional<MeshPosture> posture_of(const std::vector<RoundFeature>& features, const Arm& arm);

/// A flat face that says how far a joint is turned in a mesh.
struct FaceAtZero {
  int link = 0;                      ///< whose joint it is; it turns, and follows no other
  int body = 0;                      ///< the number of a body
  Vector3 near = Vector3::Zero();    ///< a point on the face, or next to it, in the mesh's frame
  Vector3 faces = Vector3::UnitX();  ///< where it faces, all joints at zero, in the same axes
};

struct TurnByFace {
  double turn = 0.0;                  ///< rad, of the joint as it is in the mesh
  Vector3 normal = Vector3::UnitX();  ///< of the face, as it is in the mesh
  double off = 0.0;  ///< rad between where it faces, turned to zero, and where it should
};

/// The turn of one joint, with those before it at `posture`. Throws InputError for a point that is
/// not on the body or at an edge of it, or a face that does not turn with the joint.
TurnByFace turn_by_face(const FaceAtZero& face, const Bodies& bodies, const Arm& arm,
                        const PostureRef& posture);

}  // namespace er
