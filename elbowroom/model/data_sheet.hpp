// Arms from the handful of dimensions that their data sheets give.
//
// All are described standing on a level floor, seen with x ahead, y to the left, z up, in a
// reference posture; `zero` then says how the real arm stands when all its joints read zero, and
// `sense` which way each axis counts. Offsets are signed here; files say the side in words.
#pragma once

#include <array>
#include <string>
#include <string_view>
#include <vector>

#include "elbowroom/model/arm.hpp"

namespace er {

/// Where a part of the arm points at zero.
enum class Pointing { up, ahead, down };

/// Six axes, the last three meeting in the wrist centre (or `wrist_offset` apart). Reference: upper
/// arm up, forearm ahead.
struct SixAxisSheet {
  double shoulder_height = 0.0;  ///< floor to axis 2
  double shoulder_offset = 0.0;  ///< axis 1 to axis 2: in front +, behind -
  double side_offset = 0.0;      ///< axis 1 to the plane of the upper arm: left +, right -
  double upper_arm = 0.0;        ///< axis 2 to axis 3
  double elbow_offset = 0.0;     ///< axis 3 to axis 4: above +, below -
  double forearm = 0.0;          ///< axis 3 to axis 5, along axis 4
  double wrist_offset = 0.0;     ///< axis 4 to axis 6: above +, below -; 0 for a spherical wrist
  double flange = 0.0;           ///< axis 5 to the flange, along axis 6
  double turret_height = 0.0;    ///< floor to the turret's frame; moves no axis
  double forearm_start = 0.0;    ///< axis 3 to the forearm's frame, along axis 4; moves no axis
  Pointing upper_arm_at_zero = Pointing::up;
  Pointing forearm_at_zero = Pointing::ahead;
};

/// Seven axes, shoulder and wrist spherical: turn, lean, turn, bend, turn, bend, turn. Reference:
/// straight up.
struct SevenAxisSheet {
  double shoulder_height = 0.0;  ///< floor to the shoulder centre (axis 2)
  double upper_arm = 0.0;        ///< shoulder centre to axis 4, along axis 3
  double elbow_offset = 0.0;     ///< axis 3 to axis 4, and back to axis 5: in front +, behind -
  double forearm = 0.0;          ///< axis 4 to the wrist centre (axis 6), along axis 5
  double wrist_offset = 0.0;     ///< axis 6 to axis 7: in front +, behind -
  double flange = 0.0;           ///< axis 6 to the flange, along axis 7
};

/// Four axes: two level arms, a lift and a turn. Reference: stretched ahead, lift at its top.
struct ScaraSheet {
  double inner_arm = 0.0;      ///< axis 1 to axis 2
  double outer_arm = 0.0;      ///< axis 2 to axis 3
  double arm_height = 0.0;     ///< floor to the inner arm's frame
  double flange_height = 0.0;  ///< floor to the flange with the lift at zero
};

/// Any number of parallel axes in one plane. Reference: stretched ahead (level) or up (upright).
struct PlanarSheet {
  bool upright = true;          ///< turns in the plane of x and z, else in that of x and y
  double first_height = 0.0;    ///< floor to axis 1
  std::vector<double> lengths;  ///< of each link, axis to axis, the last one to the tip
};

/// One axis of any of them.
struct SheetAxis {
  std::string joint = {};  ///< its name; empty takes the one of the family
  std::string link = {};   ///< the name of the link it carries; empty takes the one of the family
  bool reversed = false;   ///< against the sense of the reference
  double zero = 0.0;       ///< how far the reference posture is turned when the joint reads zero
  bool continuous = false;
  JointLimits limits = {};
};

/// How the sense of each axis of a family is said: the word for the reference's own sense and the
/// word for the other.
struct SenseWords {
  std::string_view along;
  std::string_view against;
};
std::vector<SenseWords> sense_words(const SixAxisSheet& sheet);
std::vector<SenseWords> sense_words(const SevenAxisSheet& sheet);
std::vector<SenseWords> sense_words(const ScaraSheet& sheet);
std::vector<SenseWords> sense_words(const PlanarSheet& sheet);

/// The links of an arm, base and flange included. `axes` has one entry per axis or is empty.
/// Frames have the floor's directions in the reference posture; a SCARA and a planar arm get a
/// fixed flange at their end, whose z points the way a tool is bolted on. Throws InputError about
/// the key of a dimension that makes no sense.
std::vector<Link> links_from(const SixAxisSheet& sheet, const std::vector<SheetAxis>& axes = {});
std::vector<Link> links_from(const SevenAxisSheet& sheet, const std::vector<SheetAxis>& axes = {});
std::vector<Link> links_from(const ScaraSheet& sheet, const std::vector<SheetAxis>& axes = {});
std::vector<Link> links_from(const PlanarSheet& sheet, const std::vector<SheetAxis>& axes = {});

/// Gives every link without parts a capsule from its joint to the next, `thickness` across.
void add_limbs(std::vector<Link>& links, double thickness, const Colour& colour);

}  // namespace er
