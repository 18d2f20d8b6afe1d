// Motions in files: exactly, as their polynomials, and as tables of samples read back.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/files/origin.hpp"
#include "elbowroom/model/cell.hpp"
#include "elbowroom/pace/motion.hpp"

namespace er {

struct SavedMotion {
  Origin from = {};
  std::string law = {};                     ///< the profile or polynomial that put time on it
  double clearance = 0.0;                   ///< m, that was proved of it; 0 where nothing was
  std::vector<MeantContact> contacts = {};  ///< meant on this motion, beside those of the cell
  Motion motion = {};
};

/// JSON that round-trips exactly; docs/json.md describes it.
std::string motion_json(const SavedMotion& motion);

/// Throws InputError with file, line and column for what is no JSON, and with the key for what is
/// missing or makes no sense.
SavedMotion load_motion(const std::filesystem::path& path);

/// Reads a table of samples: a column `t` (s, ascending), and for each joint either its name with a
/// unit
/// ("waist deg"), or in SI as motion_csv writes them, "waist_q", with "waist_qd" and "waist_qdd"
/// where there are. Given accelerations and velocities are met at each row, by quintics or cubics;
/// positions alone are led through by a natural cubic spline, noise and all. The first row is at
/// time zero. Throws InputError with line and column: a column that is missing, times that do not
/// ascend, what is no number, fewer than two rows.
Motion load_motion_csv(const std::filesystem::path& path, const Arm& arm);

}  // namespace er
