// Roadmaps in files.
#pragma once

#include <filesystem>
#include <string>

#include "elbowroom/route/roadmap.hpp"

namespace er {

struct SavedRoadmap {
  std::string version = {};          ///< of Elbowroom, that made it
  std::string instruction_set = {};  ///< that it was made on
  std::string arm = {};
  std::string cell = {};         ///< its name
  std::string cell_digest = {};  ///< of its geometry_text
  double clearance = 0.0;        ///< m
  std::vector<Posture> postures = {};
  std::vector<PostureGraph::Line> lines = {};  ///< costs are not saved

  [[nodiscard]] Roadmap roadmap() const { return {clearance, postures, lines}; }
};

/// JSON that round-trips exactly; docs/json.md describes it.
std::string roadmap_json(const SavedRoadmap& saved, const Roadmap& roadmap);

/// Throws InputError with file, line and column for what is no JSON, and with the key for what is
/// missing or makes no sense.
SavedRoadmap load_roadmap(const std::filesystem::path& path);

}  // namespace er
