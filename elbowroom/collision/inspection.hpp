// What a cell description says, and everything about it that looks wrong.
#pragma once

#include <string>
#include <vector>

#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/collision/findings.hpp"
#include "elbowroom/collision/joint_run.hpp"

namespace er {

struct StanceCheck {
  std::string name;
  Pose tip;                  ///< of the first tool, or of the last link when there is no tool
  std::string limit_breach;  ///< empty when within limits
  Nearest nearest;
  std::string nearest_text;
};

struct ArmInspection {
  Arm arm;
  /// No posture takes the first tool's tip further than this from the first moving joint.
  double reach_bound = 0.0;
  std::vector<StanceCheck> stances = {};
  std::string run_from = {};        ///< the posture joints are run from: a stance, or "zero"
  std::vector<JointRun> runs = {};  ///< each joint against the rest of its own arm
  double mass = 0.0;                ///< kg, of all links that state one
  std::vector<std::string> without_mass = {};  ///< links that do not
  int checked_self_pairs = 0;
  int cover_balls = 0;               ///< leaves of the balls that its parts are covered by
  double cover_bulge = 0.0;          ///< m; none stands out of its part by more
  std::string cover_widest_at = {};  ///< the link where one does
  std::vector<std::pair<std::string, std::string>> joined = {};  ///< link pairs never checked
};

struct Inspection {
  std::string cell;
  std::vector<ArmInspection> arms;
  std::vector<Finding> findings;  ///< worst first
  int fixtures = 0;
  int pieces = 0;
  int zones = 0;
  int standing_parts = 0;
  std::vector<MeantContact> contacts = {};  ///< never checked, as the description asks

  /// One line: what it is, and whether anything is wrong.
  [[nodiscard]] std::string summary() const;
  /// Tables: tree, joints, stances, findings.
  [[nodiscard]] std::string report() const;
};

Inspection inspect(const Cell& cell);

}  // namespace er
