#include "elbowroom/files/json.hpp"

#include <cmath>
#include <nlohmann/json.hpp>

#include "elbowroom/model/posture_text.hpp"

namespace er {
namespace {

using Json = nlohmann::ordered_json;  // keys stay in the order they were put in

Json node_of(double value) {
  if (std::isfinite(value)) return value;
  return std::isnan(value) ? "undefined" : value > 0 ? "infinite" : "minus infinite";
}

Json node_of(const Vector3& v) { return {node_of(v.x()), node_of(v.y()), node_of(v.z())}; }

Json node_of(const Posture& posture) {
  Json out = Json::array();
  for (Eigen::Index i = 0; i < posture.size(); ++i) out.push_back(node_of(posture[i]));
  return out;
}

Json node_of(const Pose& pose) {
  const Eigen::Vector4d q = quaternion_wxyz(pose.rotation);
  return {{"position", node_of(pose.position)},
          {"rpy", node_of(rpy_of(pose.rotation))},
          {"quaternion", {node_of(q[0]), node_of(q[1]), node_of(q[2]), node_of(q[3])}}};
}

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
  put("torque", limits.torque);
  const auto put_ways = [&](const char* key, const std::optional<WayLimits>& ways) {
    if (ways) out[key] = {ways->low, ways->high};
  };
  put_ways("velocity_ways", limits.velocity_ways);
  put_ways("acceleration_ways", limits.acceleration_ways);
  return out;
}

Json nearest_json(const Nearest& nearest, const std::string& first, const std::string& second) {
  return {{"distance", node_of(nearest.distance)},
          {"first", first},
          {"second", second},
          {"point_first", node_of(nearest.point_first)},
          {"point_second", node_of(nearest.point_second)}};
}

Json arm_json(const ArmInspection& one) {
  Json out{{"name", one.arm.name()},
           {"moving_joints", one.arm.dof()},
           {"reach_bound", node_of(one.reach_bound)},
           {"mass", node_of(one.mass)},
           {"covers",
            {{"balls", one.cover_balls},
             {"bulge", node_of(one.cover_bulge)},
             {"widest_at", one.cover_widest_at}}}};
  out["joint_runs"] = Json::array();
  for (std::size_t k = 0; k < one.runs.size(); ++k)
    out["joint_runs"].push_back({{"joint", one.arm.moving_joint(static_cast<int>(k)).name},
                                 {"from", one.run_from},
                                 {"lower", node_of(one.runs[k].lower)},
                                 {"upper", node_of(one.runs[k].upper)},
                                 {"met_below", one.runs[k].met_below},
                                 {"met_above", one.runs[k].met_above}});
  for (const Link& link : one.arm.links()) {
    Json entry{{"name", link.name}};
    if (link.parent_index >= 0) {
      entry["parent"] = link.parent;
      entry["joint"] = {{"name", link.joint.name}, {"kind", name_of(link.joint.kind)}};
      if (link.posture_index >= 0)
        entry["joint"]["limits"] =
            limits_json(link.joint.follow.joint.empty() ? one.arm.limits_of(link.posture_index)
                                                        : link.joint.limits);
      if (link.joint.continuous) entry["joint"]["continuous"] = true;
      if (!link.joint.follow.joint.empty())
        entry["joint"]["follow"] = {{"joint", link.joint.follow.joint},
                                    {"ratio", node_of(link.joint.follow.ratio)},
                                    {"offset", node_of(link.joint.follow.offset)}};
    }
    out["links"].push_back(std::move(entry));
  }
  out["stances"] = Json::array();
  for (const StanceCheck& s : one.stances)
    out["stances"].push_back(Json{{"name", s.name},
                                  {"posture", node_of(one.arm.stance(s.name))},
                                  {"tip", node_of(s.tip)},
                                  {"limit_breach", s.limit_breach},
                                  {"least_distance", node_of(s.nearest.distance)},
                                  {"nearest", s.nearest_text}});
  return out;
}

Json node_of(const Reason& reason) {
  Json out{{"cause", name_of(reason.cause)}, {"text", reason.text}};
  out["figures"] = Json::array();
  for (const Figure& figure : reason.figures)
    out["figures"].push_back(
        {{"name", figure.name}, {"value", node_of(figure.value)}, {"unit", figure.unit}});
  out["details"] = reason.details;
  out["remedies"] = Json::array();
  for (const Remedy& remedy : reason.remedies) out["remedies"].push_back(remedy.text);
  out["postures"] = Json::array();
  for (const Posture& posture : reason.postures) out["postures"].push_back(node_of(posture));
  return out;
}

Json node_of(const InputError& error) {
  Json out{{"message", error.message()}};
  if (!error.advice().empty()) out["advice"] = error.advice();
  if (!error.place().file.empty()) out["file"] = error.place().file;
  if (error.place().line > 0) out["line"] = error.place().line;
  if (error.place().column > 0) out["column"] = error.place().column;
  return out;
}

Json node_of(const CellQuery& query, const Nearest& nearest) {
  if (nearest.first < 0) return {{"distance", node_of(nearest.distance)}};
  return nearest_json(nearest, query.name(nearest.first), query.name(nearest.second));
}

Json node_of(const Inspection& inspection) {
  Json out{{"cell", inspection.cell},
           {"fixtures", inspection.fixtures},
           {"pieces", inspection.pieces},
           {"zones", inspection.zones},
           {"standing_parts", inspection.standing_parts}};
  out["contacts"] = Json::array();
  for (const MeantContact& contact : inspection.contacts)
    out["contacts"].push_back({contact.first, contact.second});
  out["findings"] = Json::array();
  for (const Finding& f : inspection.findings) {
    Json finding{{"severity", name_of(f.severity)},
                 {"subject", f.subject},
                 {"text", f.text},
                 {"advice", f.advice}};
    if (f.place.line > 0) finding["place"] = f.place.text();
    out["findings"].push_back(std::move(finding));
  }
  out["arms"] = Json::array();
  for (const ArmInspection& arm : inspection.arms) out["arms"].push_back(arm_json(arm));
  return out;
}

Json node_of(const CellQuery& query, const Reach& reach) {
  Json out{{"form", reach.form},
           {"complete", reach.complete},
           {"beyond_limits", reach.beyond_limits},
           {"starts", reach.starts},
           {"converged", reach.converged},
           {"colliding", reach.colliding},
           {"family", reach.is_family},
           {"leaves_open", reach.target.leaves_open()},
           {"seconds", node_of(reach.seconds)}};
  out["solutions"] = Json::array();
  for (const ReachSolution& s : reach.solutions)
    out["solutions"].push_back(Json{{"posture", node_of(s.posture)},
                                    {"branch", s.branch},
                                    {"free_joint", s.free_joint},
                                    {"position_error", node_of(s.position_error)},
                                    {"angle_error", node_of(s.angle_error)},
                                    {"cost", node_of(s.cost())},
                                    {"travel_cost", node_of(s.travel_cost)},
                                    {"room_cost", node_of(s.room_cost)},
                                    {"links_near", s.links_near},
                                    {"limit_cost", node_of(s.limit_cost)},
                                    {"dexterity_cost", node_of(s.dexterity_cost)},
                                    {"load_cost", node_of(s.load_cost)},
                                    {"branch_cost", node_of(s.branch_cost)},
                                    {"nearest", node_of(query, s.nearest)}});
  return out;
}

Json node_of(const CellQuery& query, const Route& route) {
  Json out{{"clearance_proved", node_of(route.clearance)},
           {"goal", route.goal},
           {"length", node_of(route.length)},
           {"least",
            {{"lower_bound", node_of(route.least.lower)},
             {"nearest", node_of(query, route.least.nearest)},
             {"at", node_of(route.least.at)}}},
           {"tries", route.figures.tries},
           {"nodes", route.figures.nodes},
           {"lines", route.figures.lines},
           {"checks", route.figures.checks},
           {"length_found", node_of(route.figures.length_found)},
           {"cost", node_of(route.cost)},
           {"kept", route.kept},
           {"from_roadmap", route.figures.from_roadmap},
           {"out_of_time", route.figures.out_of_time},
           {"costs", route.figures.costs},
           {"seconds", node_of(route.figures.seconds)}};
  out["waypoints"] = Json::array();
  for (const Posture& waypoint : route.waypoints) out["waypoints"].push_back(node_of(waypoint));
  return out;
}

Json node_of(const Arm& arm, const PeakUse& peak) {
  return {{"share", node_of(peak.share)},
          {"joint", peak.joint < 0 ? "" : arm.moving_joint(peak.joint).name},
          {"time", node_of(peak.time)}};
}

// What every log of steps has, whoever commanded them.
Json steps_node(const CellQuery& query, const StepLog& log) {
  const Arm& arm = query.arm();
  Json out{{"duration", node_of(log.duration())},
           {"worst_off", node_of(log.worst_off)},
           {"worst_off_angle", node_of(log.worst_off_angle)},
           {"worst_at", node_of(log.worst_at)},
           {"velocity_use", node_of(arm, log.velocity)},
           {"acceleration_use", node_of(arm, log.acceleration)},
           {"range_breach", log.range_breach},
           {"zone", log.zone.zone < 0 ? "" : query.name(log.zone.zone)},
           {"zone_share", node_of(log.zone.share)},
           {"nearest", node_of(query, log.clearance.nearest)}};
  out["slowed"] = Json::array();
  for (const Slowdown& s : log.slowdowns)
    out["slowed"].push_back({{"from", node_of(s.from)},
                             {"to", node_of(s.to)},
                             {"lost", node_of(s.lost)},
                             {"least_scale", node_of(s.least_scale)},
                             {"why", s.why}});
  return out;
}

Json node_of(const CellQuery& query, const Following& following) {
  Json out{{"mode", std::string(name_of(following.mode))},
           {"followed_all", !following.no.has_value()},
           {"asked", node_of(following.asked)},
           {"followed", node_of(following.followed)}};
  out.update(steps_node(query, following));
  return out;
}

Json node_of(const CellQuery& query, const Steered& steered) {
  Json out{{"mode", std::string(name_of(steered.mode))},
           {"asked_travel", node_of(steered.asked_travel)},
           {"travel", node_of(steered.travel)},
           {"asked_turn", node_of(steered.asked_turn)},
           {"turn", node_of(steered.turn)}};
  out.update(steps_node(query, steered));
  return out;
}

Json node_of(const Arm& arm, const MotionPeaks& peaks) {
  return {{"velocity_use", node_of(arm, peaks.velocity)},
          {"acceleration_use", node_of(arm, peaks.acceleration)},
          {"jerk_use", node_of(arm, peaks.jerk)}};
}

Json node_of(const Arm& arm, const PacedMotion& paced) {
  Json corners = Json::array();
  for (const Corner& corner : paced.corners)
    corners.push_back(Json{{"waypoint", corner.waypoint},
                           {"rounded", corner.cut > 0.0},
                           {"moved", corner.moved},
                           {"off", node_of(corner.off)}});
  Json slowed = Json::array();
  for (const SlowedStretch& one : paced.slowed)
    slowed.push_back(Json{{"stretch", one.stretch},
                          {"factor", node_of(one.factor)},
                          {"link", one.link},
                          {"zone", one.zone},
                          {"rule", one.rule}});
  Json frames = Json::array();
  for (const PacedMotion::FrameUse& one : paced.frames)
    frames.push_back(Json{{"rule", one.rule.name},
                          {"of", one.rule.of},
                          {"most", node_of(one.rule.most)},
                          {"share", node_of(one.fastest.share)},
                          {"time", node_of(one.fastest.time)}});
  Json out{{"duration", node_of(paced.motion.duration())},
           {"profile", name_of(paced.profile)},
           {"keeps_jerk", paced.keeps_jerk},
           {"stops", paced.stops},
           {"corners", corners},
           {"torque_use", node_of(arm, paced.torque)},
           {"slowed", slowed},
           {"frame_speeds", frames}};
  out.update(node_of(arm, paced.peaks));
  if (paced.stray)
    out["stray"] =
        Json{{"beside", node_of(paced.stray->beside)}, {"turned", node_of(paced.stray->turned)}};
  if (paced.steady)
    out["tool_speed"] = Json{
        {"asked", node_of(paced.steady->asked)},       {"length", node_of(paced.steady->length)},
        {"at_speed", node_of(paced.steady->at_speed)}, {"least", node_of(paced.steady->least)},
        {"largest", node_of(paced.steady->largest)},   {"kept", paced.steady->kept}};
  return out;
}

Json node_of(const MoveFigures& move) {
  return {{"duration", node_of(move.motion.duration())},
          {"way", node_of(move.way)},
          {"off_line", node_of(move.off_line)},
          {"turned_off", node_of(move.turned_off)},
          {"tool_speed", node_of(move.tool_speed)},
          {"travel", node_of(move.travel)},
          {"velocity_use", node_of(move.velocity_use)},
          {"acceleration_use", node_of(move.acceleration_use)},
          {"free", move.in_the_way.empty()}};
}

Json node_of(const Arm& arm, const PolynomialMotion& paced) {
  Json stretches = Json::array();
  for (std::size_t i = 0; i < paced.durations.size(); ++i) {
    Json coefficients = Json::object();
    for (int k = 0; k < arm.dof(); ++k) {
      Json& list = coefficients[arm.moving_joint(k).name] = Json::array();
      const Quintic& c = paced.motion.pieces()[i].joints[static_cast<std::size_t>(k)];
      for (std::size_t power = 0; power <= static_cast<std::size_t>(paced.options.degree); ++power)
        list.push_back(node_of(c[power]));
    }
    stretches.push_back(Json{{"duration", node_of(paced.durations[i])},
                             {"chosen", static_cast<bool>(paced.chosen[i])},
                             {"coefficients", coefficients}});
  }
  Json overshoots = Json::array();
  for (const Overshoot& one : paced.overshoots)
    overshoots.push_back(Json{{"joint", arm.moving_joint(one.joint).name},
                              {"stretch", one.stretch},
                              {"beyond", node_of(one.beyond)},
                              {"time", node_of(one.time)}});
  Json out{{"duration", node_of(paced.motion.duration())},
           {"degree", static_cast<int>(paced.options.degree)},
           {"stretches", stretches},
           {"overshoots", overshoots},
           {"acceleration_jump", node_of(paced.jump.share)}};
  out.update(node_of(arm, paced.peaks));
  return out;
}

Json node_of(const Cell& cell, const Rehearsal& rehearsal) {
  Json out{{"passed", rehearsal.passed()},
           {"arms", rehearsal.arms},
           {"duration", node_of(rehearsal.duration)},
           {"ticks", rehearsal.ticks}};
  out["steps"] = Json::array();
  for (const RehearsedStep& s : rehearsal.steps) {
    const auto use = [&](const MeasuredUse& measured) {
      return Json{
          {"share", node_of(measured.share)},
          {"joint", measured.joint < 0 ? "" : cell.arm(s.arm).moving_joint(measured.joint).name}};
    };
    Json excused = Json::array();
    for (const ExcusedContact& one : s.excused)
      excused.push_back(
          Json{{"pair", {one.pair.first, one.pair.second}}, {"least", node_of(one.least)}});
    out["steps"].push_back(Json{{"number", s.number},
                                {"arm", s.arm},
                                {"name", s.name},
                                {"of", s.of},
                                {"kind", s.kind},
                                {"how", s.how},
                                {"held", s.held},
                                {"excused", excused},
                                {"begins", node_of(s.begins)},
                                {"duration", node_of(s.duration)},
                                {"range_use", use(s.range)},
                                {"velocity_use", use(s.velocity)},
                                {"acceleration_use", use(s.acceleration)},
                                {"torque_use", use(s.torque)},
                                {"clearance", node_of(s.clearance)},
                                {"clearance_time", node_of(s.clearance_time)},
                                {"clearance_asked", node_of(s.asked_clearance)},
                                {"nearest", s.nearest},
                                {"zone", s.zone},
                                {"zone_share", node_of(s.zone_share)},
                                {"way", s.way},
                                {"ways", s.ways},
                                {"fault", s.fault}});
  }
  return out;
}

Json node_of(const Survey& survey) {
  Json out{{"reached", survey.reached()},
           {"asked", survey.targets.size()},
           {"routes", survey.routes},
           {"seconds", node_of(survey.seconds)}};
  out["targets"] = Json::array();
  for (const SurveyedTarget& t : survey.targets) {
    Json entry{{"name", t.name},
               {"pose", t.pose ? node_of(*t.pose) : Json(nullptr)},
               {"ok", t.ok(survey.routes)},
               {"postures", t.postures}};
    if (t.postures > 0) {
      entry["clearance"] = node_of(t.clearance);
      entry["nearest"] = t.nearest;
    }
    if (t.has_route) entry["route_length"] = node_of(t.route_length);
    if (!t.reason.empty()) entry["reason"] = t.reason;
    out["targets"].push_back(std::move(entry));
  }
  return out;
}

Json node_of(const std::vector<ChainStep>& steps) {
  Json out = Json::array();
  for (const ChainStep& step : steps)
    out.push_back({{"name", step.name},
                   {"motion", step.motion},
                   {"rotation_factors", step.factors},
                   {"own", node_of(step.own)},
                   {"total", node_of(step.total)}});
  return out;
}

Json node_of(const PairAudit& audit) {
  Json out{{"samples", audit.samples},
           {"unseen_share", node_of(audit.unseen_share)},
           {"seconds", node_of(audit.seconds)}};
  out["pairs"] = Json::array();
  for (const AuditedPair& pair : audit.pairs) {
    Json entry{{"first", pair.first}, {"second", pair.second}, {"verdict", name_of(pair.verdict)}};
    if (pair.verdict != PairVerdict::joined && pair.verdict != PairVerdict::meant) {
      entry["met_share"] = node_of(static_cast<double>(pair.met) / audit.samples);
      entry["nearest"] = node_of(pair.nearest);
      entry["posture"] = node_of(pair.posture);
    }
    if (pair.verdict == PairVerdict::kept_apart)
      entry["proved_distance"] = node_of(pair.proved_distance);
    out["pairs"].push_back(std::move(entry));
  }
  return out;
}

Json node_of(const Comparison& comparison) {
  Json out{{"same", comparison.same()},
           {"worst_position", node_of(comparison.worst_position)},
           {"worst_angle", node_of(comparison.worst_angle)},
           {"tools", comparison.tools}};
  out["differences"] = Json::array();
  for (const Difference& one : comparison.differences)
    out["differences"].push_back({{"subject", one.subject}, {"text", one.text}});
  return out;
}

Json node_of(const RecordedErrors& errors) {
  return {{"worst_position", node_of(errors.worst_position)},
          {"mean_position", node_of(errors.mean_position)},
          {"worst_angle", node_of(errors.worst_angle)},
          {"worst_row", errors.worst_row}};
}

Json node_of(const RecordedComparison& comparison) {
  Json out{{"errors", node_of(comparison.errors)}};
  out["causes"] = Json::array();
  for (const LikelyCause& cause : comparison.causes)
    out["causes"].push_back({{"text", cause.text}, {"left", node_of(cause.left)}});
  return out;
}

Json node_of(const ModelFit& fit) {
  Json out{{"before", node_of(fit.before)},
           {"after", node_of(fit.after)},
           {"iterations", fit.iterations}};
  out["values"] = Json::array();
  for (const FittedValue& value : fit.values)
    out["values"].push_back({{"what", value.what},
                             {"change", node_of(value.change)},
                             {"unit", value.is_angle ? "rad" : "m"}});
  return out;
}

Json node_of(const std::vector<Note>& notes) {
  Json out = Json::array();
  for (const Note& note : notes) {
    Json entry{{"subject", note.subject}, {"text", note.text}, {"advice", note.advice}};
    if (note.place.line > 0) entry["place"] = note.place.text();
    out.push_back(std::move(entry));
  }
  return out;
}

std::string text_of(const Json& json) {
  return json.dump(-1, ' ', false, Json::error_handler_t::replace);
}

}  // namespace

std::string json_of(double value) { return text_of(node_of(value)); }
std::string json_of(const std::string& text) { return text_of(Json(text)); }
std::string json_of(const std::vector<std::string>& texts) { return text_of(Json(texts)); }
std::string json_of(const Posture& posture) { return text_of(node_of(posture)); }
std::string json_of(const Pose& pose) { return text_of(node_of(pose)); }
std::string json_of(const Reason& reason) { return text_of(node_of(reason)); }
std::string json_of(const InputError& error) { return text_of(node_of(error)); }
std::string json_of(const Inspection& inspection) { return text_of(node_of(inspection)); }
std::string json_of(const std::vector<ChainStep>& steps) { return text_of(node_of(steps)); }
std::string json_of(const PairAudit& audit) { return text_of(node_of(audit)); }
std::string json_of(const Comparison& comparison) { return text_of(node_of(comparison)); }
std::string json_of(const RecordedComparison& comparison) { return text_of(node_of(comparison)); }
std::string json_of(const ModelFit& fit) { return text_of(node_of(fit)); }
std::string json_of(const std::vector<Note>& notes) { return text_of(node_of(notes)); }
std::string json_of(const CellQuery& query, const Reach& found) {
  return text_of(node_of(query, found));
}
std::string json_of(const CellQuery& query, const Route& route) {
  return text_of(node_of(query, route));
}
std::string json_of(const CellQuery& query, const Repaired& repaired) {
  Json out = node_of(query, repaired.route);
  out["repaired"] = {{"moves_still_free", repaired.before.moves},
                     {"share_of_next", node_of(repaired.before.share)},
                     {"kept_before", repaired.kept},
                     {"kept_after", repaired.again}};
  if (!repaired.before.is_all())
    out["repaired"]["first_contact"] = node_of(query, repaired.before.contact);
  return text_of(out);
}
std::string json_of(const CellQuery& query, const ClearanceProfile& profile) {
  Json out{{"looks", profile.at.size()}, {"between", node_of(profile.between)}};
  if (profile.links.empty()) return text_of(out);
  const auto [link, look] = profile.least();
  out["least"] = node_of(query, profile.nearest[link][look]);
  out["at"] = node_of(profile.at[look]);
  return text_of(out);
}
std::string json_with(const std::string& object, const std::string& key, const std::string& value) {
  Json out = Json::parse(object);
  out[key] = Json::parse(value);
  return text_of(out);
}
std::string json_of(const CheckedCertificate& checked, const Certificate& certificate,
                    bool is_same_cell) {
  Json out{{"clearance_proved", node_of(certificate.clearance)},
           {"lines", certificate.waypoints.size() - 1},
           {"stretches", checked.stretches},
           {"looks", checked.looks},
           {"same_cell", is_same_cell}};
  if (std::isfinite(checked.least_left))
    out["tightest"] = {{"first", checked.first.body},
                       {"second", checked.second.body},
                       {"line", checked.line},
                       {"at", node_of(checked.at)},
                       {"left", node_of(checked.least_left)}};
  return text_of(out);
}
std::string json_of(const CellQuery& query, const Following& following) {
  return text_of(node_of(query, following));
}
std::string json_of(const CellQuery& query, const Steered& steered) {
  return text_of(node_of(query, steered));
}
std::string json_of(const Arm& arm, const PacedMotion& paced, const MoveComparison* compared) {
  Json out = node_of(arm, paced);
  if (compared != nullptr) {
    out["joint_move"] = node_of(compared->joints);
    out["tool_move"] = node_of(compared->tool);
  }
  return text_of(out);
}
std::string json_of(const Arm& arm, const MotionAudit& audit, const MotionComparison* compared) {
  const auto list = [](const std::vector<MotionBreach>& breaches) {
    Json out = Json::array();
    for (const MotionBreach& one : breaches)
      out.push_back(Json{{"what", one.what},
                         {"first", node_of(one.first)},
                         {"worst", node_of(one.worst)},
                         {"text", one.text}});
    return out;
  };
  Json out{{"may_be_run", audit.passed()},
           {"duration", node_of(audit.duration)},
           {"breaches", list(audit.breaches)},
           {"not_counted", list(audit.notes)},
           {"torque_use", node_of(arm, audit.torque)},
           {"tool_speed", node_of(audit.tool_speed)},
           {"conditioning", node_of(audit.conditioning)}};
  out.update(node_of(arm, audit.peaks));
  if (compared != nullptr)
    out["compared"] = Json{{"lag", node_of(compared->lag)},
                           {"largest", node_of(compared->largest)},
                           {"root_mean_square", node_of(compared->root_mean_square)},
                           {"tool", node_of(compared->tool)}};
  return text_of(out);
}
std::string json_of(const Arm& arm, const PolynomialMotion& paced) {
  return text_of(node_of(arm, paced));
}
std::string json_of(const Arm& arm, const std::vector<ProfileRun>& runs) {
  Json list = Json::array();
  for (const ProfileRun& run : runs) {
    Json one{{"profile", name_of(run.profile)},
             {"keeps_jerk", run.keep_jerk},
             {"duration", node_of(run.motion.duration())},
             {"acceleration_jump_share", node_of(run.jump)},
             {"tool_speed", node_of(run.tool_speed)},
             {"passed", run.passed}};
    one.update(node_of(arm, run.peaks));
    list.push_back(std::move(one));
  }
  return text_of(Json{{"profiles", list}});
}
std::string json_of(const Cell& cell, const Rehearsal& rehearsal) {
  return text_of(node_of(cell, rehearsal));
}
std::string json_of(const CellQuery& query, const PostureChange& change) {
  Json out = node_of(query, change.route);
  out["from_branch"] = change.from;
  out["to_branch"] = change.to;
  out["tool_off"] = node_of(change.off);
  out["room"] = {{"low", node_of(change.room.low)}, {"high", node_of(change.room.high)}};
  return text_of(out);
}

std::string json_of(const CellQuery& query, const ManyRoutes& routes) {
  Json out{{"found", routes.found()}, {"asked", routes.answers.size()}, {"answers", Json::array()}};
  for (const ManyRoutes::Answer& one : routes.answers) {
    Json answer{{"question", one.name}, {"seconds", node_of(one.seconds)}};
    if (one.route) {
      answer["route"] = node_of(query, *one.route);
      answer["tool"] = node_of(one.parts.tool);
      answer["bends"] = node_of(one.parts.bends);
    } else {
      answer["reason"] = node_of(one.route.reason());
    }
    out["answers"].push_back(std::move(answer));
  }
  return text_of(out);
}

std::string json_of(const Arm& arm, const Tuning& tuning) {
  Json out{{"keep", tuning.settings[tuning.keep].setting.label},
           {"why", tuning.why},
           {"settings", Json::array()}};
  for (const TunedSetting& one : tuning.settings) {
    Json seeds = Json::array();
    for (const TunedSeed& seed : one.seeds) {
      Json node{{"seed", seed.seed},
                {"found", !seed.waypoints.empty()},
                {"seconds", node_of(seed.seconds)}};
      if (!seed.waypoints.empty())
        node.update({{"looks", node_of(seed.work)},
                     {"length_found", node_of(seed.length_found)},
                     {"length", node_of(seed.length)},
                     {"cost", node_of(seed.cost)},
                     {"tool", node_of(seed.tool)},
                     {"bends", node_of(seed.bends)},
                     {"clearance", node_of(seed.clearance)}});
      seeds.push_back(std::move(node));
    }
    out["settings"].push_back({{"setting", one.setting.label},
                               {"found", one.found()},
                               {"asked", one.seeds.size()},
                               {"seeds", std::move(seeds)}});
  }
  if (tuning.waypoint)
    out["waypoint"] = {{"posture", node_of(tuning.waypoint->posture)},
                       {"as_argument", posture_argument(arm, tuning.waypoint->posture)},
                       {"found", tuning.waypoint->found},
                       {"seconds", node_of(tuning.waypoint->seconds)},
                       {"looks", node_of(tuning.waypoint->work)},
                       {"length", node_of(tuning.waypoint->length)}};
  return text_of(out);
}

std::string json_of(const Survey& survey) { return text_of(node_of(survey)); }

std::string json_object(const std::vector<std::pair<std::string, std::string>>& members) {
  std::string out = "{";
  for (const auto& [key, value] : members) {
    if (out.size() > 1) out += ',';
    out += json_of(key);
    out += ':';
    out += value;
  }
  return out + "}";
}

std::string json_joined(const std::vector<std::string>& objects) {
  Json whole = Json::object();
  for (const std::string& object : objects) whole.update(Json::parse(object));
  return whole.dump(2);
}

}  // namespace er
