#include "clearances.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/clearance_plot.hpp"
#include "elbowroom/files/csv.hpp"
#include "elbowroom/files/write_file.hpp"

namespace er::cli {
namespace {

// Where on straight moves, each of which is a unit of the curve's parameter.
std::string text_of_place(const JointCurve& moves, double at) {
  const double move = std::min(std::floor(at), moves.duration() - 1.0);
  return fmt::format("{:.1f} % of move {:.0f}", 100.0 * (at - move), move + 1.0);
}

}  // namespace

void add_clearances(VerbParser& parser, std::vector<std::string>& files) {
  parser.texts("--clearances", files,
               "write how near things come to each link along the way: .csv, .png or .svg; may be "
               "repeated");
}

void check_clearances(const std::vector<std::string>& files) {
  check_endings("--clearances", files, {".csv", ".png", ".svg"});
}

Clearances write_clearances(const std::vector<std::string>& files, const CellQuery& query,
                            const Way& way) {
  if (files.empty()) return {};
  const ClearanceProfile profile =
      clearance_profile(query, way.curve, 5e-4, {.progress = progress_bar(), .stop = {}});
  for (const std::string& file : files) {
    if (file.ends_with(".csv"))
      write_file(file, clearances_csv(profile, query));
    else
      plot_clearances(file, query, profile,
                      {.plot = {.title = way.title},
                       .along = way.is_timed ? "time (s)" : "moves",
                       .asked = way.asked});
  }
  Clearances out{"  nothing is checked against any link\n", json_of(query, profile)};
  if (!profile.links.empty()) {
    const auto [k, i] = profile.least();
    out.text = fmt::format(
        "  least clearance seen: {} at {}; {} looks, between which nothing comes nearer by more "
        "than {}\n",
        query.describe(profile.nearest[k][i]),
        way.is_timed ? text_time(profile.at[i]) : text_of_place(way.curve, profile.at[i]),
        profile.at.size(), text_length(profile.between));
  }
  out.text += wrote(files);
  return out;
}

std::string with_clearances(const std::string& json, const Clearances& clearances) {
  return clearances.json.empty() ? json : json_with(json, "clearances", clearances.json);
}

}  // namespace er::cli
