// The joints of a described arm against the bores and bosses of its meshes.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "elbowroom/bodies/round_features.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

/// A dimension that would be another by the mesh: how far a joint's axis is from the joint before
/// it, along one direction.
struct DimensionDoubt {
  std::string from = {};             ///< the joint before; "" is the mount
  Vector3 along = Vector3::UnitX();  ///< unit, in the frame of the mesh
  double described = 0.0;            ///< m
  double measured = 0.0;             ///< m
  bool opposite = false;             ///< the same length the other way
};

/// One turning joint, all at zero.
struct AxisFit {
  int link = 0;  ///< that it carries
  std::string joint = {};
  std::optional<RoundFeature> feature = {};  ///< nearest to its axis; none: nothing near is round
  Vector3 off =
      Vector3::Zero();  ///< m, frame of the mesh, from the modelled axis square to the feature's
  double tilt = 0.0;    ///< rad between the two
  std::optional<DimensionDoubt> doubt = {};  ///< what joints before it do not explain
};

struct AxisCheckOptions {
  double believed_off = 0.2e-3;  ///< m; what is less counts as right
  double believed_tilt = 1e-3;   ///< rad
  double furthest = 0.1;   ///< m; a feature further from where the axis should be is another's
  double steepest = 0.15;  ///< rad
  std::map<int, RoundFeature> chosen = {};  ///< by link: what its axis is to be, however far off
};

/// Whether the axis leans by more than is believed.
bool is_tilted(const AxisFit& fit, const AxisCheckOptions& options = {});
/// Whether a feature was found and lies on the modelled axis.
bool is_right(const AxisFit& fit, const AxisCheckOptions& options = {});

/// For each turning joint the bore or boss nearest to its axis, of bodies on the link that it
/// carries or on the one before. `link_of` gives a link to each body, by its number less one; -1:
/// none. An axis that is off moves all that come after it, so each is compared with what is left.
/// The arm is mounted as it is in the frame of the mesh, all joints at zero; metres.
std::vector<AxisFit> check_axes(const std::vector<RoundFeature>& features,
                                const std::vector<int>& link_of, const Arm& arm,
                                const AxisCheckOptions& options = {});

/// The arm with the dimensions that are in doubt as they are by the mesh, and axes that lean turned
/// as its bores and bosses are; what hangs on an axis that is turned stays where it is.
Arm corrected(const Arm& arm, const std::vector<AxisFit>& fits);

/// "right", or "6 mm off along z; from shoulder it is 400 mm in the description, 406 mm by the
/// mesh".
std::string text_of(const AxisFit& fit, const AxisCheckOptions& options = {});

}  // namespace er
