#include "elbowroom/files/json.hpp"

#include <cmath>

namespace er {
namespace {

Json limits_json(const JointLimits& limits) {
  Json out;
  const auto put = [&](const char* key, double value) {
    if (std::isfinite(value)) out[key] = value;  // a limit that is not stated has no key
  };
  put("lower", limits.lower);
  put("upper", limits.upper);
  put("velocity", limits.velocity);
  put("acceleration", limits.acceleration);
  put("jerk", limits.jerk);
  return out;
}

Json nearest_json(const Nearest& nearest, const std::string& first, const std::string& second) {
  return {{"distance", json_of(nearest.distance)},
          {"first", first},
          {"second", second},
          {"point_first", json_of(nearest.point_first)},
          {"point_second", json_of(nearest.point_second)}};
}

Json arm_json(const ArmInspection& one) {
  Json out{{"name", one.arm.name()},
           {"moving_joints", one.arm.dof()},
           {"reach_bound", json_of(one.reach_bound)}};
  for (const Link& link : one.arm.links()) {
    Json entry{{"name", link.name}};
    if (link.parent_index >= 0) {
      entry["parent"] = link.parent;
      entry["joint"] = {{"name", link.joint.name}, {"kind", name_of(link.joint.kind)}};
      if (link.posture_index >= 0) entry["joint"]["limits"] = limits_json(link.joint.limits);
    }
    out["links"].push_back(std::move(entry));
  }
  out["stances"] = Json::array();
  for (const StanceCheck& s : one.stances)
    out["stances"].push_back(Json{{"name", s.name},
                                  {"posture", json_of(one.arm.stance(s.name))},
                                  {"tip", json_of(s.tip)},
                                  {"limit_breach", s.limit_breach},
                                  {"least_distance", json_of(s.nearest.distance)},
                                  {"nearest", s.nearest_text}});
  return out;
}

}  // namespace

Json json_of(double value) {
  if (std::isfinite(value)) return value;
  return std::isnan(value) ? "undefined" : value > 0 ? "infinite" : "minus infinite";
}

Json json_of(const Vector3& v) { return {json_of(v.x()), json_of(v.y()), json_of(v.z())}; }

Json json_of(const Posture& posture) {
  Json out = Json::array();
  for (Eigen::Index i = 0; i < posture.size(); ++i) out.push_back(json_of(posture[i]));
  return out;
}

Json json_of(const Pose& pose) {
  const Eigen::Vector4d q = quaternion_wxyz(pose.rotation);
  return {{"position", json_of(pose.position)},
          {"rpy", json_of(rpy_of(pose.rotation))},
          {"quaternion", {json_of(q[0]), json_of(q[1]), json_of(q[2]), json_of(q[3])}}};
}

Json json_of(const Reason& reason) {
  Json out{{"cause", name_of(reason.cause)}, {"text", reason.text}};
  out["figures"] = Json::array();
  for (const Figure& figure : reason.figures)
    out["figures"].push_back(
        {{"name", figure.name}, {"value", json_of(figure.value)}, {"unit", figure.unit}});
  out["remedies"] = Json::array();
  for (const Remedy& remedy : reason.remedies) out["remedies"].push_back(remedy.text);
  return out;
}

Json json_of(const InputError& error) {
  Json out{{"message", error.message()}};
  if (!error.advice().empty()) out["advice"] = error.advice();
  if (!error.place().file.empty()) out["file"] = error.place().file;
  if (error.place().line > 0) out["line"] = error.place().line;
  if (error.place().column > 0) out["column"] = error.place().column;
  return out;
}

Json json_of(const CellQuery& query, const Nearest& nearest) {
  if (nearest.first < 0) return {{"distance", json_of(nearest.distance)}};
  return nearest_json(nearest, query.name(nearest.first), query.name(nearest.second));
}

Json json_of(const Inspection& inspection) {
  Json out{{"cell", inspection.cell},
           {"fixtures", inspection.fixtures},
           {"pieces", inspection.pieces},
           {"standing_parts", inspection.standing_parts}};
  out["findings"] = Json::array();
  for (const Finding& f : inspection.findings)
    out["findings"].push_back({{"severity", name_of(f.severity)},
                               {"subject", f.subject},
                               {"text", f.text},
                               {"advice", f.advice}});
  out["arms"] = Json::array();
  for (const ArmInspection& arm : inspection.arms) out["arms"].push_back(arm_json(arm));
  return out;
}

Json json_of(const CellQuery& query, const Reach& reach) {
  Json out{{"starts", reach.starts},
           {"converged", reach.converged},
           {"colliding", reach.colliding},
           {"seconds", json_of(reach.seconds)}};
  out["solutions"] = Json::array();
  for (const ReachSolution& s : reach.solutions)
    out["solutions"].push_back(Json{{"posture", json_of(s.posture)},
                                    {"position_error", json_of(s.position_error)},
                                    {"angle_error", json_of(s.angle_error)},
                                    {"cost", json_of(s.cost())},
                                    {"travel_cost", json_of(s.travel_cost)},
                                    {"clearance_cost", json_of(s.clearance_cost)},
                                    {"limit_cost", json_of(s.limit_cost)},
                                    {"nearest", json_of(query, s.nearest)}});
  return out;
}

Json json_of(const CellQuery& query, const Route& route) {
  Json out{{"clearance_proved", json_of(route.clearance)},
           {"goal", route.goal},
           {"length", json_of(route.length)},
           {"least", {{"lower_bound", json_of(route.least.lower)},
                      {"nearest", json_of(query, route.least.nearest)},
                      {"at", json_of(route.least.at)}}},
           {"tries", route.figures.tries},
           {"nodes", route.figures.nodes},
           {"lines", route.figures.lines},
           {"checks", route.figures.checks},
           {"length_found", json_of(route.figures.length_found)},
           {"seconds", json_of(route.figures.seconds)}};
  out["waypoints"] = Json::array();
  for (const Posture& waypoint : route.waypoints) out["waypoints"].push_back(json_of(waypoint));
  return out;
}

Json json_of(const Arm& arm, const PacedMotion& paced) {
  const auto use = [&](const PeakUse& peak) {
    return Json{{"share", json_of(peak.share)},
                {"joint", peak.joint < 0 ? "" : arm.moving_joint(peak.joint).name},
                {"time", json_of(peak.time)}};
  };
  return {{"duration", json_of(paced.motion.duration())},
          {"profile", name_of(paced.profile)},
          {"stops", paced.stops},
          {"velocity_use", use(paced.peaks.velocity)},
          {"acceleration_use", use(paced.peaks.acceleration)},
          {"jerk_use", use(paced.peaks.jerk)}};
}

Json json_of(const Arm& arm, const Rehearsal& rehearsal) {
  const auto use = [&](const MeasuredUse& measured) {
    return Json{{"share", json_of(measured.share)},
                {"joint", measured.joint < 0 ? "" : arm.moving_joint(measured.joint).name}};
  };
  Json out{{"passed", rehearsal.passed()},
           {"duration", json_of(rehearsal.duration)},
           {"ticks", rehearsal.ticks}};
  out["steps"] = Json::array();
  for (const RehearsedStep& s : rehearsal.steps)
    out["steps"].push_back(Json{{"name", s.name},
                                {"duration", json_of(s.duration)},
                                {"range_use", use(s.range)},
                                {"velocity_use", use(s.velocity)},
                                {"acceleration_use", use(s.acceleration)},
                                {"clearance", json_of(s.clearance)},
                                {"clearance_time", json_of(s.clearance_time)},
                                {"clearance_asked", json_of(s.asked_clearance)},
                                {"nearest", s.nearest},
                                {"way", s.way},
                                {"ways", s.ways},
                                {"fault", s.fault}});
  return out;
}

Json json_of(const Survey& survey) {
  Json out{{"reached", survey.reached()},
           {"asked", survey.targets.size()},
           {"routes", survey.routes},
           {"seconds", json_of(survey.seconds)}};
  out["targets"] = Json::array();
  for (const SurveyedTarget& t : survey.targets) {
    Json entry{{"name", t.name},
               {"pose", json_of(t.pose)},
               {"ok", t.ok(survey.routes)},
               {"postures", t.postures}};
    if (t.postures > 0) {
      entry["clearance"] = json_of(t.clearance);
      entry["nearest"] = t.nearest;
    }
    if (t.has_route) entry["route_length"] = json_of(t.route_length);
    if (!t.reason.empty()) entry["reason"] = t.reason;
    out["targets"].push_back(std::move(entry));
  }
  return out;
}

}  // namespace er
