// JSON out: the same facts as the printed answers, in SI units, for programs. Documented in
// docs/json.md.
#pragma once

#include <nlohmann/json.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/verdict.hpp"
#include "elbowroom/collision/inspection.hpp"
#include "elbowroom/pace/pace.hpp"
#include "elbowroom/reach/reach.hpp"
#include "elbowroom/rehearse/rehearse.hpp"
#include "elbowroom/route/route.hpp"
#include "elbowroom/survey/survey.hpp"

namespace er {

/// Keys stay in the order they were put in.
using Json = nlohmann::ordered_json;

/// A finite number as it is; anything else as the text "infinite" or "undefined". A null never
/// stands for a number.
Json json_of(double value);
Json json_of(const Vector3& v);
Json json_of(const Posture& posture);
/// {"position": [..] m, "rpy": [..] rad, "quaternion": [w, x, y, z]}
Json json_of(const Pose& pose);
Json json_of(const Reason& reason);
Json json_of(const InputError& error);
Json json_of(const CellQuery& query, const Nearest& nearest);
Json json_of(const Inspection& inspection);
Json json_of(const CellQuery& query, const Reach& reach);
Json json_of(const CellQuery& query, const Route& route);
/// Figures only; the motion itself goes to a CSV file.
Json json_of(const Arm& arm, const PacedMotion& paced);
Json json_of(const Arm& arm, const Rehearsal& rehearsal);
Json json_of(const Survey& survey);

}  // namespace er
