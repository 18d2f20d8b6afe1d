// Routes in files, with the evidence that they are free and what they were found from.
#pragma once

#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/collision/certificate.hpp"
#include "elbowroom/files/origin.hpp"
#include "elbowroom/kinematics/requirement.hpp"

namespace er {

/// Rules that a route keeps, as they were asked for (read_kept), and what they leave out: the tool
/// and the frame that they are about.
struct SavedRules {
  std::vector<std::string> keep = {};
  std::string tool = {};
  std::string frame = {};
};
/// Throws InputError where the cell or the arm does not have what they name.
std::vector<Requirement> rules_of(const SavedRules& saved, const Cell& cell, const Arm& arm);

struct SavedRoute {
  Origin from = {};
  std::uint64_t seed = 0;
  std::vector<MeantContact> contacts = {};  ///< meant on this route, beside those of the cell
  Certificate certificate = {};
  SavedRules rules = {};
};

/// JSON that round-trips exactly; docs/json.md describes it.
std::string route_json(const SavedRoute& route);

/// Throws InputError with file, line and column for what is no JSON, and with the key for what is
/// missing or makes no sense.
SavedRoute load_route(const std::filesystem::path& path);

}  // namespace er
