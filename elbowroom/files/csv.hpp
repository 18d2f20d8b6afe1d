// Tables of numbers as CSV: paths, motions, surveys.
#pragma once

#include <string>

#include "elbowroom/collision/clearance_profile.hpp"
#include "elbowroom/follow/step_log.hpp"
#include "elbowroom/pace/motion.hpp"
#include "elbowroom/rehearse/rehearse.hpp"
#include "elbowroom/route/many_routes.hpp"
#include "elbowroom/route/tuning.hpp"
#include "elbowroom/survey/survey.hpp"

namespace er {

/// One row per tick: t in seconds, then q, qd, qdd of every joint in SI, under headings such as
/// "waist_q", "waist_qd", "waist_qdd". Numbers round-trip exactly. The last row is at the very end.
std::string motion_csv(const Motion& motion, const Arm& arm, double rate = 1000.0);

/// One row per step: t, the path's own time, the share of its speed, q and qd of every joint, how
/// far off the path the tool is (m, rad); SI.
std::string steps_csv(const StepLog& log, const Arm& arm);

/// One row per waypoint, one column per joint.
std::string route_csv(const Route& route, const Arm& arm);

/// One row per question: whether there is a route, and its figures; SI.
std::string routes_csv(const ManyRoutes& routes);

/// One row for each seed of each setting that found a route; SI.
std::string tuning_csv(const Tuning& tuning);

/// One row per look: where on the way, then for every link the clearance (m) and what is nearest.
std::string clearances_csv(const ClearanceProfile& profile, const CellQuery& query);

/// The tables of a rehearsal and a survey.
std::string rehearsal_csv(const Rehearsal& rehearsal);
std::string survey_csv(const Survey& survey);

}  // namespace er
