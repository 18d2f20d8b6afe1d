#include "elbowroom/route/tuning.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/quantile.hpp"
#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/model/posture_text.hpp"
#include "elbowroom/route/cost_meter.hpp"

namespace er {
namespace {

constexpr double kAboutAsCheap = 1.05;
constexpr double kNoMoreThan = 1.1;    // times as long, with a waypoint
constexpr double kWorthIt = 0.5;       // of the work
constexpr double kAnyWork = 200.0;     // looks: less is no trouble to anyone
constexpr std::size_t kWaypoints = 4;  // tried

TunedSeed ask(const ReadyRoute& question, RouteOptions options, const RouteCost& cost,
              std::uint64_t seed) {
  options.seed = seed;
  options.find_remedies = false;
  const double least_within = std::exchange(options.least_within, 0.0);  // it takes time of its own
  const Stopwatch watch;
  const auto found = find_route(question, options);
  TunedSeed out{.seed = seed};
  out.seconds = watch.seconds();
  if (!found) return out;
  Route route = *found;
  find_least(question.query, least_within, route);
  const CostParts parts =
      CostMeter(question.query, cost, options.clearance).parts_of(route.waypoints);
  out.work = static_cast<double>(route.figures.checks);
  out.length_found = route.figures.length_found;
  out.length = route.length;
  out.cost = parts.weighed(cost);
  out.tool = parts.tool;
  out.bends = static_cast<double>(route.waypoints.size() - 2);
  out.clearance = route.least.nearest.distance;
  out.waypoints = std::move(route.waypoints);
  return out;
}

double median_of(const TunedSetting& setting, double TunedSeed::*figure) {
  return median(setting.all(figure));
}

// Which setting to keep, and why.
void choose(Tuning& out) {
  const auto& all = out.settings;
  int most = 0;
  for (const TunedSetting& one : all) most = std::max(most, one.found());
  if (most == 0) {
    out.why = fmt::format("none of the settings finds a route with any of {} seeds",
                          all.front().seeds.size());
    return;
  }
  double clearance = 0.0;
  for (const TunedSetting& one : all)
    if (one.found() == most) clearance = std::max(clearance, one.setting.options.clearance);
  const auto is_left = [&](const TunedSetting& one) {
    return one.found() == most && one.setting.options.clearance == clearance;
  };
  double cheapest = std::numeric_limits<double>::infinity();
  for (const TunedSetting& one : all)
    if (is_left(one)) cheapest = std::min(cheapest, median_of(one, &TunedSeed::cost));
  double least_work = std::numeric_limits<double>::infinity();
  for (std::size_t i = 0; i < all.size(); ++i) {
    const double work = median_of(all[i], &TunedSeed::work);
    if (!is_left(all[i]) || median_of(all[i], &TunedSeed::cost) > kAboutAsCheap * cheapest ||
        work >= least_work)
      continue;
    least_work = work;
    out.keep = i;
  }
  const TunedSetting& kept = all[out.keep];
  const double cost = median_of(kept, &TunedSeed::cost);
  out.why = fmt::format(
      "{} of {} seeds find a route{}; half of them within {:.2f} ms; {}", most, kept.seeds.size(),
      clearance > 0.0 ? fmt::format(" that keeps {}", text_length(clearance)) : "",
      median_of(kept, &TunedSeed::seconds) * 1e3,
      cost <= cheapest ? "no other setting is cheaper"
                       : fmt::format("{:.0f} % dearer than the cheapest, for less work",
                                     100.0 * (cost / cheapest - 1.0)));
}

// The question in two halves, through a posture.
HelpingWaypoint through(const ReadyRoute& question, const Posture& posture,
                        const RouteOptions& options, int seeds) {
  HelpingWaypoint out{.posture = posture};
  std::vector<double> seconds;
  std::vector<double> work;
  std::vector<double> lengths;
  for (int seed = 1; seed <= seeds; ++seed) {
    RouteOptions own = options;
    own.seed = static_cast<std::uint64_t>(seed);
    own.find_remedies = false;
    own.least_within = 0.0;
    const Stopwatch watch;
    const auto first = find_route(question.query, question.start, {posture}, own);
    const auto second = find_route(question.query, posture, question.goals, own);
    seconds.push_back(watch.seconds());
    if (!first || !second) continue;
    ++out.found;
    lengths.push_back(first->length + second->length);
    work.push_back(static_cast<double>(first->figures.checks + second->figures.checks));
  }
  out.seconds = median(seconds);
  out.work = median(work);
  out.length = median(lengths);
  return out;
}

std::optional<HelpingWaypoint> helping_waypoint(const ReadyRoute& question,
                                                const TunedSetting& kept, int seeds) {
  const TunedSeed* best = kept.best();
  if (best == nullptr) return std::nullopt;
  const std::vector<Posture>& path = best->waypoints;
  std::optional<HelpingWaypoint> out;
  for (std::size_t i = 1; i + 1 < path.size() && i <= kWaypoints; ++i) {
    const HelpingWaypoint one = through(question, path[i], kept.setting.options, seeds);
    const bool is_short =
        one.found > 0 && one.length <= kNoMoreThan * median_of(kept, &TunedSeed::length);
    const bool helps = one.found > kept.found() ||
                       (one.found == kept.found() && median_of(kept, &TunedSeed::work) > kAnyWork &&
                        one.work < kWorthIt * median_of(kept, &TunedSeed::work));
    if (is_short && helps && (!out || one.work < out->work)) out = one;
  }
  return out;
}

}  // namespace

Tuning tune_route(const ReadyRoute& question, const std::vector<RouteSetting>& settings, int seeds,
                  const Supervision& supervision) {
  if (settings.empty() || seeds < 1)
    throw InputError("tuning needs at least one setting and one seed");
  Tuning out;
  out.travel = travel_unit(question.query.arm());
  const RouteCost& cost = settings.front().options.cost;
  warm_up(question);
  std::size_t done = 0;
  for (const RouteSetting& setting : settings) {
    TunedSetting& tuned = out.settings.emplace_back(TunedSetting{.setting = setting});
    for (int seed = 1; seed <= seeds && !supervision.stop.stop_requested(); ++seed) {
      tuned.seeds.push_back(ask(question, setting.options, cost, static_cast<std::uint64_t>(seed)));
      if (supervision.progress)
        supervision.progress(
            static_cast<double>(++done) /
                static_cast<double>(settings.size() * static_cast<std::size_t>(seeds)),
            "tuning");
    }
  }
  choose(out);
  if (!supervision.stop.stop_requested())
    out.waypoint = helping_waypoint(question, out.settings[out.keep], seeds);
  return out;
}

int TunedSetting::found() const {
  return static_cast<int>(std::count_if(
      seeds.begin(), seeds.end(), [](const TunedSeed& one) { return !one.waypoints.empty(); }));
}

const TunedSeed* TunedSetting::best() const {
  const TunedSeed* best = nullptr;
  for (const TunedSeed& one : seeds)
    if (!one.waypoints.empty() && (best == nullptr || one.cost < best->cost)) best = &one;
  return best;
}

std::vector<double> TunedSetting::all(double TunedSeed::*figure) const {
  std::vector<double> out;
  for (const TunedSeed& one : seeds)
    if (!one.waypoints.empty() || figure == &TunedSeed::seconds) out.push_back(one.*figure);
  return out;
}

std::string Tuning::summary() const {
  const TunedSetting& kept = settings[keep];
  if (kept.found() == 0) return "no: " + why;
  return fmt::format("yes: keep {}: {}", kept.setting.label, why);
}

std::string Tuning::report(const Arm& arm) const {
  const std::string unit = travel.name;
  Table table({"<setting", "found", "looks", "ms", "95 % ms", "found " + unit, "tight " + unit,
               "cost", "tool mm", "bends", "clear mm"});
  for (std::size_t i = 0; i < settings.size(); ++i) {
    const TunedSetting& one = settings[i];
    const auto figure = [&](double TunedSeed::*which, double factor, const char* format) {
      const std::vector<double> values = one.all(which);
      return values.empty() ? std::string("-")
                            : fmt::format(fmt::runtime(format), factor * median(values));
    };
    const auto length = [&](double TunedSeed::*which) {
      const std::vector<double> values = one.all(which);
      return values.empty() ? std::string("-") : travel.number(median(values));
    };
    table.row({(i == keep ? "* " : "  ") + one.setting.label,
               fmt::format("{} of {}", one.found(), one.seeds.size()),
               figure(&TunedSeed::work, 1.0, "{:.0f}"), figure(&TunedSeed::seconds, 1e3, "{:.2f}"),
               fmt::format("{:.2f}", 1e3 * quantile(one.all(&TunedSeed::seconds), 0.95)),
               length(&TunedSeed::length_found), length(&TunedSeed::length),
               figure(&TunedSeed::cost, 1.0, "{:.2f}"), figure(&TunedSeed::tool, 1e3, "{:.0f}"),
               figure(&TunedSeed::bends, 1.0, "{:.0f}"),
               figure(&TunedSeed::clearance, 1e3, "{:.1f}")});
  }
  std::string text = table.text() + "  medians over the seeds; * is the one to keep\n";
  if (waypoint)
    text += fmt::format(
        "  a waypoint would help: through \"{}\" {} of {} seeds find a route, half of them within "
        "{:.2f} "
        "ms, {} long; save it as a stance and go there first\n",
        posture_argument(arm, waypoint->posture), waypoint->found, settings[keep].seeds.size(),
        waypoint->seconds * 1e3, travel.text(waypoint->length));
  return text;
}

}  // namespace er
