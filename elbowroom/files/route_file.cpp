#include "elbowroom/files/route_file.hpp"

#include <fmt/format.h>

#include "elbowroom/files/saved_file.hpp"
#include "elbowroom/files/target_reading.hpp"

namespace er {
namespace {

constexpr const char* kFormat = "route/1";

Json node_of(const Stretch& s) {
  Json out{s.line,       s.from,       s.to,         s.first,    s.second,
           s.normal.x(), s.normal.y(), s.normal.z(), s.distance, s.travel};
  if (s.first_elements == ElementRange{} && s.second_elements == ElementRange{}) return out;
  for (const ElementRange& range : {s.first_elements, s.second_elements}) {
    out.push_back(range.begin);
    out.push_back(range.end);
  }
  return out;
}

Stretch stretch_from(const Json& json) {
  if (!json.is_array() || (json.size() != 10 && json.size() != 14))
    throw Json::other_error::create(0, "", nullptr);
  Stretch s;
  s.line = json[0].get<int>();
  s.from = json[1].get<double>();
  s.to = json[2].get<double>();
  s.first = json[3].get<int>();
  s.second = json[4].get<int>();
  for (int i = 0; i < 3; ++i) s.normal[i] = json[5 + static_cast<std::size_t>(i)].get<double>();
  s.distance = json[8].get<double>();
  s.travel = json[9].get<double>();
  if (json.size() == 10) return s;
  s.first_elements = {json[10].get<int>(), json[11].get<int>()};
  s.second_elements = {json[12].get<int>(), json[13].get<int>()};
  return s;
}

}  // namespace

std::vector<Requirement> rules_of(const SavedRules& saved, const Cell& cell, const Arm& arm) {
  return read_kept(saved.keep, "rules", cell, arm, {.tool = saved.tool, .frame = saved.frame})
      .rules;
}

std::string route_json(const SavedRoute& route) {
  const Certificate& certificate = route.certificate;
  Json out = node_of(kFormat, route.from);
  out["seed"] = route.seed;
  out["clearance"] = certificate.clearance;
  out["contacts"] = er::node_of(route.contacts);
  if (!route.rules.keep.empty())
    out["rules"] = {
        {"keep", route.rules.keep}, {"tool", route.rules.tool}, {"in", route.rules.frame}};
  out["waypoints"] = Json::array();
  for (const Posture& waypoint : certificate.waypoints)
    out["waypoints"].push_back(node_of(waypoint));
  out["parts"] = Json::array();
  for (const PartName& part : certificate.parts) out["parts"].push_back({part.body, part.part});
  // A line each: there are many.
  std::string text = out.dump(1);
  text.resize(text.size() - 2);
  text += ",\n \"stretches\": [";
  for (std::size_t i = 0; i < certificate.stretches.size(); ++i)
    text += (i == 0 ? "\n  " : ",\n  ") + node_of(certificate.stretches[i]).dump();
  return text + "\n ]\n}\n";
}

SavedRoute load_route(const std::filesystem::path& path) {
  const SavedFile reader(path, kFormat, "save one with route --out FILE.json");
  SavedRoute out;
  out.from = reader.origin();
  out.seed = reader.at<std::uint64_t>("seed");
  out.certificate.clearance = reader.at<double>("clearance");
  out.contacts = reader.contacts();
  if (reader.has("rules")) {
    out.rules.keep = reader.at<std::vector<std::string>>("rules", "keep");
    out.rules.tool = reader.at<std::string>("rules", "tool");
    out.rules.frame = reader.at<std::string>("rules", "in");
  }
  reader.read_list("waypoints", out.certificate.waypoints, posture_from);
  reader.read_list("parts", out.certificate.parts, [](const Json& one) {
    return PartName{one.at(0).get<std::string>(), one.at(1).get<int>()};
  });
  reader.read_list("stretches", out.certificate.stretches, stretch_from);
  return out;
}

}  // namespace er
