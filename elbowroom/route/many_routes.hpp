// Many questions of routes, answered one after the other: what is found, and how long it takes.
#pragma once

#include "elbowroom/route/asked_route.hpp"

namespace er {

struct ManyRoutes {
  struct Answer {
    std::string name;
    Verdict<Route> route;
    CostParts parts;       ///< of the route, when there is one
    double seconds = 0.0;  ///< for the route; postures of targets and least clearance left out
  };
  std::vector<Answer> answers = {};

  [[nodiscard]] int found() const;
  /// "no: 17 of 18 questions have a route; half of them within 0.4 ms, 95 % within 3 ms".
  [[nodiscard]] std::string summary() const;
  /// A row for each question, and below the table why some have none.
  [[nodiscard]] std::string report(const CellQuery& query) const;
};

/// Stops early when told to; questions not yet asked are then missing.
ManyRoutes find_routes(const CellQuery& query, const std::vector<AskedRoute>& questions,
                       const RouteOptions& options = {}, const Supervision& supervision = {});

}  // namespace er
