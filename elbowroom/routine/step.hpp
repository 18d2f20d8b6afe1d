// The steps of a routine: what each of them does, and in which ways it may be done.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <variant>
#include <vector>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/kinematics/target.hpp"
#include "elbowroom/model/cell.hpp"
#include "elbowroom/pace/paced_motion.hpp"
#include "elbowroom/route/route_cost.hpp"
#include "elbowroom/route/strokes.hpp"
#include "elbowroom/route/tool_ladder.hpp"

namespace er {

// Where a move may end. Each may have many postures.

/// In a stance; the empty name is the posture in which the routine begins.
struct AtStance {
  std::string name = {};
};

/// Where a target is met. One that is given in the frame of a piece moves with it.
struct AtTarget {
  Target target = {};
  std::string piece = {};  ///< whose frame that is; empty for none
  Pose piece_at = {};      ///< where that was when the target was read, in the world
};

/// With the tool where it grasps a piece, as it stands then, or drawn back from there against the
/// tool's z.
struct AtGrasp {
  std::string piece = {};
  std::vector<std::string> grasps = {};  ///< any of these; none: any of the piece's
  double back = 0.0;                     ///< m
};

/// With a piece that is held at its own place, or lifted off it.
struct PieceAt {
  std::string piece = {};
  Pose at = {};                      ///< of the piece's frame, in the world
  Band turn = {};                    ///< rad about the piece's z
  Vector3 lifted = Vector3::Zero();  ///< m, in the world
};

/// With the tool at the beginning of a trace, where all of it can be followed from.
struct AtTraceStart {
  std::vector<Pose> poses = {};
  ToolFreedom freedom = {};
  std::vector<MeantContact> touching = {};  ///< what may touch along it
};

using Goal = std::variant<AtStance, AtTarget, AtGrasp, PieceAt, AtTraceStart>;

// What a step does.

/// Any way round, to any of these. Where the arm is there already, one that was `put_in` is left
/// out, and another one is a mistake.
struct FreeMove {
  std::vector<Goal> to = {};
  bool put_in = false;
};

/// Some joints turn (or slide) by so much, all together, in a straight joint line.
struct TurnJoints {
  std::vector<std::pair<std::string, double>> by = {};  ///< joint, rad or m
};

/// The tip in a straight line, the tool turning evenly, to any of these; each a full pose.
struct StraightMove {
  std::vector<Goal> to = {};
};

/// The same from where the tool is, by so much along the axes of a frame.
struct RelativeMove {
  Vector3 by = Vector3::Zero();          ///< m
  Matrix3 turned = Matrix3::Identity();  ///< of the tool, about the axes of the frame
  std::string in = {};  ///< "tool", "base", "world" (also empty), a frame, fixture or piece
};

/// The tip along the arc through a point.
struct ArcMove {
  Vector3 through = Vector3::Zero();  ///< in the world
  Goal to = AtTarget{};
};

/// The tip round an axis, the tool turning with it or keeping its orientation.
struct TurnMove {
  Vector3 axis = Vector3::UnitZ();  ///< in the frame
  Vector3 point = Vector3::Zero();  ///< of the axis, m in the frame
  std::string in = {};              ///< as of RelativeMove
  double angle = 0.0;               ///< rad
  bool tool_turns = true;
};

/// The tip along a smooth way through poses of the world, from the first of them on.
struct TraceMove {
  std::vector<Pose> poses = {};
};

/// The piece is held from now on. The tool has to be at one of its grasps.
struct Grip {
  std::string piece = {};
  std::vector<std::string> grasps = {};  ///< any of these; none: any of the piece's
  double takes = 0.5;                    ///< s
};

/// The piece stays where it is from now on; it must stand on something.
struct Release {
  std::string piece = {};
  double takes = 0.5;  ///< s
};

struct Wait {
  double time = 0.0;  ///< s, above zero
};

using Action = std::variant<FreeMove, TurnJoints, StraightMove, RelativeMove, ArcMove, TurnMove,
                            TraceMove, Grip, Release, Wait>;

/// "free move", "straight line", ...
std::string_view kind_of(const Action& action);
/// Of moves that follow a path of the tool.
bool is_tool_move(const Action& action);

/// Contacts that a step means, beside those of the cell. All that are excused stand in the answer.
struct StepContacts {
  std::vector<MeantContact> named = {};
  std::string meets = {};    ///< a piece that what holds it may touch
  std::string leaves = {};   ///< a piece that may touch what it stands on where the step begins
  std::string settles = {};  ///< a piece that may touch what it stands on where the step ends
};

/// What has to be so for a step to be done: a signal is what it says, or, of steps that have others
/// in their stead, whether they are done themselves (`chosen`: by the planner, not from outside).
struct Condition {
  std::string on = {};
  bool is = true;
  bool chosen = false;
  bool operator==(const Condition&) const = default;
};

struct Step {
  std::string name = {};
  std::string arm = {};  ///< that does it; empty: the routine's first
  Action action = FreeMove{};
  std::string tool = {};  ///< of tool moves and grips; empty: the arm's first
  StepContacts contacts = {};
  ToolFreedom freedom = {};  ///< of a tool move: what is left open along its way
  std::string of = {};       ///< what the step is a part of: "cup 2 of 6"
  /// Free moves of several arms, one after the other in the list, that are made as one.
  std::string together = {};
  std::vector<std::string> after = {};   ///< steps (or Step::of) that have to be over before
  int drawing = -1;                      ///< of Routine::drawings, where the step draws some of it
  bool on = true;                        ///< false: it is left out
  std::vector<Condition> when = {};      ///< all of these; none: always
  Place place = {};                      ///< where it is described, if in a file
  std::optional<double> clearance = {};  ///< m; the routine's own when not given
  std::optional<double> speed = {};      ///< share of the velocity limits
  std::optional<Profile> profile = {};
  std::optional<double> tool_speed = {};     ///< m/s, of tool moves, and of what is time-optimal
  bool steady = false;                       ///< of a tool move: that speed has to be kept
  std::vector<Requirement> keep = {};        ///< of a free move: what has to hold on the whole way
  std::vector<FrameSpeed> keep_speeds = {};  ///< of a move: how fast frames may be
  RouteCost cost = {};                       ///< of a free move: what it should be short of
  int improve = 0;  ///< of a free move: rounds of going on for a cheaper one; 0 is none
};

/// Whether a step is done where some conditions hold; false also where they do not say.
bool is_done(const Step& step, const std::vector<Condition>& holding);

/// Strokes to be drawn on a plane.
struct Drawing {
  std::string name = {};
  std::vector<Stroke> strokes = {};
  Pose on = {};        ///< of the plane in the world: x to the right, y up, z out of it
  double lift = 0.02;  ///< m between strokes; 0: the arm cannot lift
};

/// Come in to a piece, meet it, hold it, and raise it: a free move, a line in along the tool's z, a
/// grip, a line straight up. What grips may touch the piece on the way in, the piece what it stands
/// on at the beginning of its way up.
struct Taking {
  std::string piece = {};
  std::vector<std::string> grasps = {};
  double from = 0.1;    ///< m that the line in is long
  double raise = 0.05;  ///< m
  double takes = 0.5;   ///< s
};
std::vector<Step> steps_of(const Taking& taking, const Step& settings);

/// Carry a piece over its new place, lower it, let go of it, and back off: the other way.
struct Putting {
  std::string piece = {};
  Pose at = {};         ///< of the piece's frame, in the world
  Band turn = {};       ///< rad about the piece's z
  double lower = 0.05;  ///< m that the line down is long
  double back = 0.1;    ///< m against the tool's z
  double takes = 0.5;   ///< s
};
std::vector<Step> steps_of(const Putting& putting, const Step& settings);

}  // namespace er
