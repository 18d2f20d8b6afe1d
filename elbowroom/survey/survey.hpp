// Surveys: many targets tried at once.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "elbowroom/model/posture_text.hpp"
#include "elbowroom/reach/reach.hpp"
#include "elbowroom/route/route.hpp"

namespace er {

struct SurveyOptions {
  double clearance = 0.005;   ///< for postures and routes, metres
  std::string from = "home";  ///< the stance routes begin at
  bool routes = true;         ///< false asks only for postures
  int tries = 4000;           ///< of each route search
  std::uint64_t seed = 1;
};

/// What was found for one target.
struct SurveyedTarget {
  std::string name = {};
  std::optional<Pose> pose = {};  ///< of the first place that the target holds, in the world
  int postures = 0;               ///< free postures that reach it
  double clearance = 0.0;    ///< of the roomiest of them, metres; meaningless when there is none
  std::string nearest = {};  ///< and the pair that bounds it
  bool has_route = false;
  double route_length = 0.0;  ///< joint travel, radians (and metres)
  std::string reason = {};    ///< why not, when not

  [[nodiscard]] bool ok(bool routes_wanted) const {
    return postures > 0 && (has_route || !routes_wanted);
  }
};

struct Survey {
  std::vector<SurveyedTarget> targets = {};  ///< in the order given
  bool routes = true;
  TravelUnit travel = {};  ///< what the length of a route is told in
  double seconds = 0.0;

  [[nodiscard]] int reached() const;
  /// "10 of 12 places can be reached with a route from home"
  [[nodiscard]] std::string summary(const std::string& from) const;
  [[nodiscard]] std::string report() const;
};

/// Tries each target on all cores. Every target is a question of its own with the same seed, so the
/// answers do not depend on the number of threads or the other targets. Throws InputError for an
/// empty list and an unknown stance.
Survey survey(const CellQuery& query, const std::vector<Target>& targets,
              const SurveyOptions& options = {}, const Supervision& supervision = {});

}  // namespace er
