// Roadmaps in files.
#pragma once

#include <filesystem>
#include <string>

#include "elbowroom/files/origin.hpp"
#include "elbowroom/route/roadmap.hpp"

namespace er {

struct SavedRoadmap {
  Origin from = {};
  double clearance = 0.0;  ///< m
  std::vector<Posture> postures = {};
  std::vector<PostureGraph::Line> lines = {};  ///< costs are not saved

  [[nodiscard]] Roadmap roadmap() const { return {clearance, postures, lines}; }
};

/// JSON that round-trips exactly; docs/json.md describes it.
std::string roadmap_json(const Origin& from, const Roadmap& roadmap);

/// Throws InputError with file, line and column for what is no JSON, and with the key for what is
/// missing or makes no sense.
SavedRoadmap load_roadmap(const std::filesystem::path& path);

}  // namespace er
