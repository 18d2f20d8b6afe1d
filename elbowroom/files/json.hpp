// JSON out: the same facts as the printed answers, in SI units, for programs. Documented in
// docs/json.md.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/clearance_profile.hpp"
#include "elbowroom/collision/inspection.hpp"
#include "elbowroom/collision/pair_audit.hpp"
#include "elbowroom/follow/steer.hpp"
#include "elbowroom/kinematics/chain_steps.hpp"
#include "elbowroom/kinematics/comparison.hpp"
#include "elbowroom/kinematics/model_fit.hpp"
#include "elbowroom/pace/compare_moves.hpp"
#include "elbowroom/pace/pace.hpp"
#include "elbowroom/pace/polynomial_motion.hpp"
#include "elbowroom/reach/reach.hpp"
#include "elbowroom/rehearse/audit_motion.hpp"
#include "elbowroom/rehearse/check_certificate.hpp"
#include "elbowroom/rehearse/compare_motions.hpp"
#include "elbowroom/rehearse/compare_profiles.hpp"
#include "elbowroom/rehearse/rehearse.hpp"
#include "elbowroom/route/many_routes.hpp"
#include "elbowroom/route/posture_change.hpp"
#include "elbowroom/route/repair.hpp"
#include "elbowroom/route/tuning.hpp"
#include "elbowroom/survey/survey.hpp"

namespace er {

/// JSON text of one value. Numbers round-trip exactly; one that is not finite becomes the text
/// "infinite", "minus infinite" or "undefined": a null never stands for a number.
std::string json_of(double value);
std::string json_of(const std::string& text);
std::string json_of(const std::vector<std::string>& texts);
std::string json_of(const Posture& posture);
/// {"position": [..] m, "rpy": [..] rad, "quaternion": [w, x, y, z]}
std::string json_of(const Pose& pose);
std::string json_of(const Reason& reason);
std::string json_of(const InputError& error);
std::string json_of(const Inspection& inspection);
/// Each step's name and its pose in the frame before and in the world.
std::string json_of(const std::vector<ChainStep>& steps);
std::string json_of(const PairAudit& audit);
std::string json_of(const Comparison& comparison);
std::string json_of(const RecordedComparison& comparison);
std::string json_of(const ModelFit& fit);
std::string json_of(const std::vector<Note>& notes);
std::string json_of(const CellQuery& query, const Reach& reach);
std::string json_of(const CellQuery& query, const Route& route);
/// The route, and under "repaired" what became of the old one.
std::string json_of(const CellQuery& query, const Repaired& repaired);
/// The route, and beside it the branches, the room it takes up and how far the tool goes.
std::string json_of(const CellQuery& query, const PostureChange& change);
std::string json_of(const CellQuery& query, const ManyRoutes& routes);
std::string json_of(const Arm& arm, const Tuning& tuning);
/// What is nearest of all, where, and how well that is known.
std::string json_of(const CellQuery& query, const ClearanceProfile& profile);
std::string json_of(const CheckedCertificate& checked, const Certificate& certificate,
                    bool is_same_cell);
/// Figures only; the steps go to a CSV file.
std::string json_of(const CellQuery& query, const Following& following);
std::string json_of(const CellQuery& query, const Steered& steered);
/// Figures only; the motion itself goes to a CSV file.
/// `compared` may be null.
std::string json_of(const Arm& arm, const PacedMotion& paced, const MoveComparison* compared);
std::string json_of(const Arm& arm, const PolynomialMotion& paced);
/// `compared` may be null.
std::string json_of(const Arm& arm, const MotionAudit& audit, const MotionComparison* compared);
std::string json_of(const Cell& cell, const Rehearsal& rehearsal);
std::string json_of(const Arm& arm, const std::vector<ProfileRun>& runs);
std::string json_of(const Survey& survey);

/// An object with one more member; both are JSON already.
std::string json_with(const std::string& object, const std::string& key, const std::string& value);

/// An object of members whose values are JSON text already.
std::string json_object(const std::vector<std::pair<std::string, std::string>>& members);

/// The members of several objects as one object, laid out for reading, two spaces to a level.
std::string json_joined(const std::vector<std::string>& objects);

}  // namespace er
