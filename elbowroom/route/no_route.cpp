#include "elbowroom/route/no_route.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "elbowroom/base/told.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

constexpr int kLooks = 256;             // between two values of a joint
constexpr int kTries = 3000;            // of a search with less in the way
constexpr std::size_t kBodies = 2;      // that are tried without
constexpr int kLessClearance = 4;       // times that less of it is tried
constexpr double kWorthTelling = 1e-4;  // m

// Whether this entry of the posture is the only one that moves something.
bool is_moved_by_alone(const Posture& lever, int joint) {
  for (Eigen::Index k = 0; k < lever.size(); ++k)
    if ((lever[k] > 0.0) != (k == joint)) return false;
  return true;
}

// The links that one joint alone moves.
std::vector<int> links_moved_by(const CheckedPairs& pairs, int joint) {
  std::vector<int> links;
  for (const MovingPart& part : pairs.moving)
    if (is_moved_by_alone(part.lever, joint)) links.push_back(part.link);
  return links;
}

// With contacts meant between the whole arm and one body: as if that were not there.
CellQuery without(const CellQuery& query, int body) {
  std::vector<MeantContact> contacts;
  for (std::size_t l = 0; l < query.arm().links().size(); ++l)
    contacts.push_back({link_name(query.arm(), static_cast<int>(l)), query.name(body)});
  return query.with_contacts(contacts);
}

// Links of the arm itself stay; and nothing can be meant to touch a zone.
bool can_go(const CellQuery& query, int body) {
  return body >= static_cast<int>(query.arm().links().size()) &&
         std::none_of(query.pairs().standing.begin(), query.pairs().standing.end(),
                      [&](const StandingPart& part) { return part.body == body && part.is_zone; });
}

std::string text_of(const CellQuery& query, const Barrier& barrier, double clearance) {
  const Joint& joint = query.arm().moving_joint(barrier.joint);
  const Nearest& contact = barrier.contact;
  const std::string room =
      contact.distance < 0.0
          ? text_length(-contact.distance) + " deep in each other"
          : fmt::format("{} apart, where {} is asked for,",
                        text_length_unlike(contact.distance, clearance), text_length(clearance));
  return fmt::format(
      "no: there can be no route: joint {} has to pass {}, and there {} and {} are {} whatever the "
      "other joints do",
      joint.name,
      joint.kind == JointKind::revolute ? text_angle(barrier.value) : text_length(barrier.value),
      query.name(contact.first), query.name(contact.second), room);
}

}  // namespace

RouteOptions only_whether(const RouteOptions& options, int most_tries) {
  RouteOptions out;
  out.clearance = options.clearance;
  out.rules = options.rules;
  out.seed = options.seed;
  out.tries = std::min(options.tries, most_tries);
  out.searches = 1;
  out.shortcuts = 0;
  out.find_remedies = false;
  out.least_within = 0.0;
  return out;
}

std::optional<Barrier> find_barrier(const CellQuery& query, const Posture& from, const Posture& to,
                                    double clearance) {
  PartPoses parts(query);
  std::vector<Nearest> nearest(query.arm().links().size());
  for (int k = 0; k < query.arm().dof(); ++k) {
    const std::vector<int> links = links_moved_by(query.pairs(), k);
    // A continuous joint may go the other way round.
    if (links.empty() || query.arm().moving_joint(k).continuous) continue;
    Barrier worst;
    Posture q = from;
    for (int i = 0; i <= kLooks; ++i) {
      q[k] = from[k] + (to[k] - from[k]) * i / kLooks;
      query.nearest_of_links(q, parts, nearest, {.itself = false});
      for (const int link : links)
        if (const Nearest& here = nearest[static_cast<std::size_t>(link)];
            here.distance < worst.contact.distance)
          worst = {k, q[k], here};
    }
    // A tie at the clearance itself is no proof.
    if (worst.contact.distance <= clearance - 1e-9) return worst;
  }
  return std::nullopt;
}

void explain_no_route(Reason& reason, const CellQuery& query, const Failure& failure,
                      const RouteOptions& options, const Supervision& supervision) {
  std::optional<Barrier> barrier;
  for (const Posture& goal : failure.goals) {
    barrier = find_barrier(query, failure.start, goal, options.clearance);
    if (!barrier) break;
  }
  if (barrier) reason.text = text_of(query, *barrier, options.clearance);
  const RouteOptions quickly = only_whether(options, kTries);
  RouteOptions less = quickly;
  less.shortcuts = options.shortcuts;  // what is told of it is read by people
  for (int i = 1; i <= kLessClearance && less.clearance > 0.0; ++i) {
    if (supervision.stop.stop_requested()) return;
    less.clearance =
        told_below(options.clearance * (kLessClearance - i) / kLessClearance, kToldLength);
    if (barrier && barrier->contact.distance <= less.clearance) continue;
    const auto route = find_route(query, failure.start, failure.goals, less, supervision);
    if (!route) continue;
    const LeastClearance least = least_clearance(query, route->waypoints, kWorthTelling);
    reason.remedies.push_back(
        {fmt::format("{} of clearance: the narrowest place on that route is {}",
                     text_length(less.clearance), query.describe(least.nearest))});
    reason.postures.push_back(route->waypoints[static_cast<std::size_t>(least.at)]);
    break;
  }
  const std::vector<int> barred_by =
      barrier ? std::vector<int>{barrier->contact.second} : std::vector<int>{};
  std::size_t tried = 0;
  for (const int body : barrier ? std::span<const int>(barred_by) : failure.blockers) {
    if (!can_go(query, body)) continue;
    if (tried++ == kBodies || supervision.stop.stop_requested()) return;
    const CellQuery open = without(query, body);
    if (find_route(open, failure.start, failure.goals, quickly, supervision))
      reason.remedies.push_back({fmt::format("{} out of the way", query.name(body))});
    else
      reason.details.push_back(fmt::format("without {}, too, no route was found in {} tries",
                                           query.name(body), quickly.tries));
  }
}

}  // namespace er
