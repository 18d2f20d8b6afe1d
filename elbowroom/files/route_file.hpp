// Routes in files, with the evidence that they are free and what they were found from.
#pragma once

#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

#include "elbowroom/collision/certificate.hpp"
#include "elbowroom/files/origin.hpp"

namespace er {

struct SavedRoute {
  Origin from = {};
  std::uint64_t seed = 0;
  std::vector<MeantContact> contacts = {};  ///< meant on this route, beside those of the cell
  Certificate certificate = {};
};

/// JSON that round-trips exactly; docs/json.md describes it.
std::string route_json(const SavedRoute& route);

/// Throws InputError with file, line and column for what is no JSON, and with the key for what is
/// missing or makes no sense.
SavedRoute load_route(const std::filesystem::path& path);

}  // namespace er
