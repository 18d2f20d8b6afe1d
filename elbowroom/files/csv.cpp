#include "elbowroom/files/csv.hpp"

#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

// Shortest text that reads back as the same double.
void add(std::string& out, double value) { fmt::format_to(std::back_inserter(out), ",{}", value); }

// A text cell, in quotes when it holds a comma, a quote or a new line.
std::string cell(const std::string& text) {
  if (text.find_first_of(",\"\n") == std::string::npos) return text;
  std::string quoted = "\"";
  for (const char c : text) {
    if (c == '"') quoted += '"';
    quoted += c;
  }
  return quoted + "\"";
}

std::string number_or_empty(double value) {
  return std::isfinite(value) ? fmt::format("{}", value) : "";
}

}  // namespace

std::string motion_csv(const Motion& motion, const Arm& arm, double rate) {
  if (!(rate > 0.0) || !std::isfinite(rate) || motion.duration() * rate > 1e8)
    throw InputError(fmt::format("a rate of {} rows per second gives no sensible table", rate));
  std::string out = "t";
  for (const char* what : {"q", "qd", "qdd"})
    for (int k = 0; k < arm.dof(); ++k) out += "," + arm.moving_joint(k).name + "_" + what;
  out += "\n";
  JointState state;
  const auto row = [&](double t) {
    motion.at(t, state);
    fmt::format_to(std::back_inserter(out), "{}", t);
    for (const Posture* values : {&state.position, &state.velocity, &state.acceleration})
      for (const double value : *values) add(out, value);
    out += "\n";
  };
  const auto ticks = static_cast<long>(std::floor(motion.duration() * rate + 1e-9));
  for (long i = 0; i <= ticks; ++i) row(static_cast<double>(i) / rate);
  if (static_cast<double>(ticks) / rate < motion.duration() - 1e-9) row(motion.duration());
  return out;
}

std::string steps_csv(const StepLog& log, const Arm& arm) {
  std::string out = "t,path_t,scale";
  for (const char* what : {"q", "qd"})
    for (int k = 0; k < arm.dof(); ++k) out += "," + arm.moving_joint(k).name + "_" + what;
  out += ",off_m,off_rad\n";
  for (const FollowSample& s : log.samples) {
    fmt::format_to(std::back_inserter(out), "{},{},{}", s.time, s.path_time, s.scale);
    for (const Posture* values : {&s.posture, &s.velocity})
      for (const double value : *values) add(out, value);
    add(out, s.off);
    add(out, s.off_angle);
    out += "\n";
  }
  return out;
}

std::string route_csv(const Route& route, const Arm& arm) {
  std::string out = "waypoint";
  for (int k = 0; k < arm.dof(); ++k) out += "," + arm.moving_joint(k).name;
  out += "\n";
  for (std::size_t i = 0; i < route.waypoints.size(); ++i) {
    out += std::to_string(i);
    for (const double value : route.waypoints[i]) add(out, value);
    out += "\n";
  }
  return out;
}

std::string clearances_csv(const ClearanceProfile& profile, const CellQuery& query) {
  std::string out = "at";
  for (const int link : profile.links) {
    const std::string& name = query.arm().links()[static_cast<std::size_t>(link)].name;
    out += fmt::format(",{},{}", cell(name + "_clearance_m"), cell(name + "_nearest"));
  }
  out += "\n";
  for (std::size_t i = 0; i < profile.at.size(); ++i) {
    out += fmt::format("{}", profile.at[i]);
    for (const std::vector<Nearest>& link : profile.nearest) {
      const bool is_alone = link[i].second < 0;
      out += fmt::format(",{},{}", number_or_empty(link[i].distance),
                         is_alone ? "" : cell(query.name(link[i].second)));
    }
    out += "\n";
  }
  return out;
}

std::string rehearsal_csv(const Rehearsal& rehearsal) {
  std::string out =
      "step,arm,name,of,kind,begins_s,duration_s,range_use,velocity_use,acceleration_use,clearance_"
      "m,clearance_"
      "asked_m,"
      "nearest,verdict\n";
  for (const RehearsedStep& s : rehearsal.steps) {
    out += fmt::format("{},{},{},{},{},{},{},{},{},{},{},{},{},{}\n", s.number, s.arm, cell(s.name),
                       cell(s.of), s.kind, s.begins, s.duration, s.range.share, s.velocity.share,
                       s.acceleration.share, number_or_empty(s.clearance), s.asked_clearance,
                       cell(s.nearest), s.fault.empty() ? "yes" : cell("no: " + s.fault));
  }
  return out;
}

std::string survey_csv(const Survey& survey) {
  std::string out = "target,x_m,y_m,z_m,postures,clearance_m,nearest,route_rad,verdict,reason\n";
  for (const SurveyedTarget& t : survey.targets)
    out += fmt::format("{},{},{},{},{},{},{},{}\n", cell(t.name),
                       t.pose ? fmt::format("{},{},{}", t.pose->position.x(), t.pose->position.y(),
                                            t.pose->position.z())
                              : ",,",
                       t.postures, t.postures > 0 ? number_or_empty(t.clearance) : "",
                       cell(t.nearest), t.has_route ? fmt::format("{}", t.route_length) : "",
                       t.ok(survey.routes) ? "yes" : "no", cell(t.reason));
  return out;
}

std::string routes_csv(const ManyRoutes& routes) {
  std::string out =
      "question,verdict,moves,length_rad,tool_m,bends_rad,clearance_m,seconds,tries,lines,reason\n";
  for (const ManyRoutes::Answer& one : routes.answers) {
    if (!one.route) {
      out += fmt::format("{},no,,,,,,{},,,{}\n", cell(one.name), one.seconds,
                         cell(one.route.reason().text));
      continue;
    }
    const Route& route = *one.route;
    out += fmt::format("{},yes,{},{},{},{},{},{},{},{},\n", cell(one.name),
                       route.waypoints.size() - 1, route.length, one.parts.tool, one.parts.bends,
                       number_or_empty(route.least.nearest.distance), one.seconds,
                       route.figures.tries, route.figures.lines);
  }
  return out;
}

std::string tuning_csv(const Tuning& tuning) {
  std::string out =
      "setting,seed,verdict,seconds,looks,length_found_rad,length_rad,cost,tool_m,bends,clearance_"
      "m\n";
  for (const TunedSetting& setting : tuning.settings)
    for (const TunedSeed& one : setting.seeds) {
      out += fmt::format("{},{},{},{}", cell(setting.setting.label), one.seed,
                         one.waypoints.empty() ? "no" : "yes", one.seconds);
      if (one.waypoints.empty())
        out += ",,,,,,,\n";
      else
        out += fmt::format(",{},{},{},{},{},{},{}\n", one.work, one.length_found, one.length,
                           one.cost, one.tool, one.bends, number_or_empty(one.clearance));
    }
  return out;
}

}  // namespace er
