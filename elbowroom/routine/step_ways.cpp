#include "elbowroom/routine/step_ways.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/twist.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/curve_sweep.hpp"
#include "elbowroom/kinematics/named_frame.hpp"
#include "elbowroom/pace/line_profile.hpp"
#include "elbowroom/route/tool_ladder.hpp"
#include "elbowroom/routine/contact_depth.hpp"
#include "elbowroom/routine/goal_ways.hpp"

namespace er {
namespace {

constexpr std::size_t kMostWays = 32;  // of one goal, the best
constexpr double kThere = 1e-9;        // rad or m: the arm is there already
constexpr double kSamePosture =
    1e-10;                        // rad or m: two ways come to the same, and motions may meet there
constexpr double kNearEnd = 0.3;  // rad or m: of ends among which one will do
constexpr double kAtPiece = 1e-3;        // m that the tool may be off a grasp
constexpr double kTurnedAtPiece = 0.02;  // rad

constexpr int kContactSamples = 64;    // of a step, for pairs that may touch
constexpr double kNearlyLeast = 0.98;  // what differences of knots may be off

double furthest(const Posture& a, const Posture& b) { return (a - b).cwiseAbs().maxCoeff(); }

// How fast progress from 0 to 1 is where it has come to `share`, if it takes one unit of time. Laws
// with ramps go at one speed, which is more than 1, between them.
double speed_of_law(Profile profile, double share) {
  if (profile != Profile::quintic && profile != Profile::cubic) return 1.0;
  const bool quintic = profile == Profile::quintic;
  double low = 0.0;
  double high = 1.0;
  for (int i = 0; i < 20; ++i) {
    const double t = 0.5 * (low + high);
    const double s = quintic ? t * t * t * (10.0 - t * (15.0 - 6.0 * t)) : t * t * (3.0 - 2.0 * t);
    (s < share ? low : high) = t;
  }
  const double t = 0.5 * (low + high);
  const double rest = t * (1.0 - t);
  return quintic ? 30.0 * rest * rest : 6.0 * rest;
}

}  // namespace

// The ways of one step.
class StepExpansion {
 public:
  StepExpansion(StepPlanner& planner, const Step& step, const std::vector<RoutineState>& before)
      : planner_(planner),
        situations_(planner.situations_),
        arm_(planner.situations_.query(0).arm()),
        tool_(arm_.end_tool(step.tool)),
        step_(step),
        before_(before) {}

  StepWays ways() {
    std::visit([&](const auto& action) { expand(action); }, step_.action);
    return std::move(out_);
  }

 private:
  // The number of the state after the step; states that are the same are one.
  int state_after(RoutineState state) {
    for (std::size_t i = 0; i < out_.after.size(); ++i)
      if (out_.after[i].situation == state.situation &&
          furthest(out_.after[i].posture, state.posture) < kSamePosture)
        return static_cast<int>(i);
    out_.after.push_back(std::move(state));
    return static_cast<int>(out_.after.size()) - 1;
  }

  void refuse(int from, Reason reason) { out_.refused.push_back({from, std::move(reason)}); }
  void refuse(int from, std::string text) {
    refuse(from, Reason{Cause::step_refused, "no: " + std::move(text)});
  }

  void expand(const FreeMove& move) {
    std::map<int, std::vector<int>> by_situation;
    for (std::size_t i = 0; i < before_.size(); ++i)
      by_situation[before_[i].situation].push_back(static_cast<int>(i));
    for (const auto& [situation, from] : by_situation) {
      const Posture& first = before_[static_cast<std::size_t>(from.front())].posture;
      const auto ways = ways_to(situations_, situation, step_.tool, move.to, planner_.start_, first,
                                clearance(), kMostWays);
      if (!ways) {
        for (const int i : from) refuse(i, ways.reason());
        continue;
      }
      const bool choice = ways->size() > 1;
      for (std::size_t w = 0; w < ways->size(); ++w) {
        const GoalWay& way = (*ways)[w];
        const int to = state_after({way.posture, situation, choice ? static_cast<int>(w) + 1 : 0,
                                    choice ? static_cast<int>(ways->size()) : 0, way.how});
        for (const int i : from) add_free(move, i, to, way);
      }
    }
  }

  void add_free(const FreeMove& move, int from, int to, const GoalWay& way) {
    const Posture& start = before_[static_cast<std::size_t>(from)].posture;
    if (furthest(start, way.posture) < kThere && !move.put_in)
      return refuse(from, "the arm is already there; leave the step out");
    const double cost = kPostureSeconds * way.cost;
    out_.moves.push_back({from, to, planner_.least_time(arm_, step_, start, way.posture) + cost,
                          cost, std::nullopt, way.meant});
  }

  void expand(const TurnJoints& turn) {
    for (std::size_t i = 0; i < before_.size(); ++i) {
      RoutineState state = before_[i];
      for (const auto& [joint, by] : turn.by) state.posture[arm_.find_moving_joint(joint)] += by;
      if (const std::string breach = arm_.limit_breach(state.posture); !breach.empty()) {
        refuse(static_cast<int>(i), breach);
        continue;
      }
      add(static_cast<int>(i), std::move(state));
    }
  }

  void expand(const Wait& /*wait*/) {
    for (std::size_t i = 0; i < before_.size(); ++i) add(static_cast<int>(i), before_[i]);
  }

  void expand(const Grip& grip) {
    for (std::size_t i = 0; i < before_.size(); ++i) {
      RoutineState state = before_[i];
      const Pose tip = tool_pose(arm_, tool_, state.posture);
      const Body& piece = *situations_.piece(state.situation, grip.piece);
      const auto hold = hold_at(piece, grip.grasps, tip);
      if (!hold) {
        refuse(static_cast<int>(i), fmt::format("'{}' is not at any grasp of {}: {}", tool_.name,
                                                grip.piece, off_text(piece, grip.grasps, tip)));
        continue;
      }
      state.situation = situations_.after_grip(state.situation, *hold);
      add(static_cast<int>(i), std::move(state));
    }
  }

  void expand(const Release& release) {
    for (std::size_t i = 0; i < before_.size(); ++i) {
      RoutineState state = before_[i];
      const Hold& hold = *situations_.hold_of(state.situation, release.piece);
      const Pose at = situations_.held_at(hold, state.posture);
      const Cell& cell = situations_.query(state.situation).cell();
      if (touched(cell, parts_of_held(state.situation, release.piece), release.piece, at).empty()) {
        refuse(static_cast<int>(i),
               fmt::format("{} would fall: nothing that it could stand on is within a millimetre",
                           release.piece));
        continue;
      }
      state.situation = situations_.after_release(state.situation, release.piece, at);
      add(static_cast<int>(i), std::move(state));
    }
  }

  void expand(const StraightMove& move) {
    for (const Goal& goal : move.to)
      along([&](const RoutineState& state, const Pose& tip, std::vector<ToolPath>& paths) {
        const ResolvedGoal to = resolve(state, goal);
        for (const ResolvedGoal::Way& way : to.targets)
          if (way.target.full_pose() != nullptr)
            paths.emplace_back(ToolLine(tip, way.target.pose()));
      });
  }

  void expand(const RelativeMove& move) {
    along([&](const RoutineState& state, const Pose& tip, std::vector<ToolPath>& paths) {
      const Matrix3 axes = axes_of(move.in, state, tip).rotation;
      const Pose to{axes * move.turned * axes.transpose() * tip.rotation,
                    tip.position + axes * move.by};
      paths.emplace_back(ToolLine(tip, to));
    });
  }

  void expand(const ArcMove& move) {
    along([&](const RoutineState& state, const Pose& tip, std::vector<ToolPath>& paths) {
      const ResolvedGoal to = resolve(state, move.to);
      for (const ResolvedGoal::Way& way : to.targets)
        if (way.target.full_pose() != nullptr)
          paths.emplace_back(ToolArc(tip, move.through, way.target.pose()));
    });
  }

  ResolvedGoal resolve(const RoutineState& state, const Goal& goal) {
    return resolved(situations_, state.situation, step_.tool, goal, planner_.start_, state.posture,
                    clearance());
  }
  [[nodiscard]] double clearance() const {
    return planner_.routine_.clearance_of(step_) + planner_.more_;
  }

  void expand(const TurnMove& move) {
    along([&](const RoutineState& state, const Pose& tip, std::vector<ToolPath>& paths) {
      const Pose frame = axes_of(move.in, state, tip);
      paths.emplace_back(ToolTurn(tip, frame * move.point, frame.rotation * move.axis, move.angle,
                                  move.tool_turns));
    });
  }

  void expand(const TraceMove& move) {
    const ToolTrace trace(move.poses);
    along([&](const RoutineState& /*state*/, const Pose& /*tip*/, std::vector<ToolPath>& paths) {
      paths.emplace_back(trace);
    });
  }

  // Tool moves from every state before: `make` gives the paths of one.
  template <class Make>
  void along(Make make) {
    for (std::size_t i = 0; i < before_.size(); ++i) {
      const RoutineState& state = before_[i];
      std::vector<ToolPath> paths;
      make(state, tool_pose(arm_, tool_, state.posture), paths);
      for (ToolPath& path : paths) add_along(static_cast<int>(i), state, std::move(path));
    }
  }

  // With something left open along the way: all of it at once, and proved.
  void add_freely(int from, RoutineState state, const ToolPath& path) {
    const std::vector<MeantContact> contacts = meant(state, state.posture);
    const CellQuery& query = situations_.query(state.situation, contacts);
    auto curves = follow_freely_to_ends(query, tool_.name, path, step_.freedom, state.posture,
                                        planner_.ends_, {.clearance = clearance()});
    if (!curves) return refuse(from, curves.reason());
    for (std::size_t i = 0; i < curves->size(); ++i)
      add_curve(from, state, std::move((*curves)[i]), contacts, i > 0);
  }
  // `if_new`: not where some way ends nearby already.
  void add_curve(int from, RoutineState state, ToolCurve curve,
                 const std::vector<MeantContact>& contacts, bool if_new) {
    auto kept = std::make_shared<const ToolCurve>(std::move(curve));
    state.posture = kept->curve.at(kept->curve.duration()).position;
    if (if_new && std::any_of(out_.after.begin(), out_.after.end(), [&](const RoutineState& other) {
          return other.situation == state.situation &&
                 furthest(other.posture, state.posture) < kNearEnd;
        }))
      return;
    add(from, std::move(state), kept->path);
    StepMove& move = out_.moves.back();
    move.meant = contacts;
    move.curve = std::move(kept);
  }

  void add_along(int from, RoutineState state, ToolPath path) {
    if (!step_.freedom.is_none()) return add_freely(from, std::move(state), path);
    const auto knots = knots_along(arm_, state.posture, tool_.name, path);
    if (!knots && has_joints_to_spare(arm_, tool_)) return add_freely(from, std::move(state), path);
    if (!knots) return refuse(from, knots.reason());
    state.posture = knots->back();
    add(from, std::move(state), std::move(path));
    StepMove& move = out_.moves.back();
    move.least = std::max(move.least, planner_.least_time_along(arm_, step_, *knots));
  }

  // A move that leaves no choice.
  void add(int from, RoutineState state, std::optional<ToolPath> path = {}) {
    const RoutineState& start = before_[static_cast<std::size_t>(from)];
    StepMove move{from,
                  0,
                  planner_.least_time(arm_, step_, start.posture, state.posture),
                  0.0,
                  std::move(path),
                  meant(start, state.posture)};
    move.to = state_after(std::move(state));
    out_.moves.push_back(std::move(move));
  }

  // The axes that a move is described along, in the world.
  [[nodiscard]] Pose axes_of(const std::string& name, const RoutineState& state,
                             const Pose& tip) const {
    if (name == "tool") return tip;
    const CellQuery& query = situations_.query(state.situation);
    return named_frame(query.cell(), arm_, name);
  }

  [[nodiscard]] std::vector<Part> parts_of_held(int situation, const std::string& piece) const {
    const Arm& arm = situations_.query(situation).arm();
    return arm.links()[static_cast<std::size_t>(arm.link_index(piece))].parts;
  }

  // What may touch on the way from one posture to another.
  [[nodiscard]] std::vector<MeantContact> meant(const RoutineState& from, const Posture& to) const {
    StepContacts contacts = step_.contacts;
    if (const Grip* grip = std::get_if<Grip>(&step_.action)) contacts.meets = grip->piece;
    if (const Release* release = std::get_if<Release>(&step_.action))
      contacts.settles = release->piece;
    std::vector<MeantContact> out = situations_.as_held(from.situation, contacts.named);
    if (!contacts.meets.empty() && situations_.piece(from.situation, contacts.meets) != nullptr)
      for (const std::string& link : gripping_links(arm_, tool_.name))
        out.push_back({link, contacts.meets});
    const auto add_touched = [&](const std::string& piece, const Posture& posture) {
      const Hold* hold = situations_.hold_of(from.situation, piece);
      if (hold == nullptr) return;
      const CellQuery& query = situations_.query(from.situation);
      for (const std::string& name : touched(query.cell(), parts_of_held(from.situation, piece),
                                             piece, situations_.held_at(*hold, posture)))
        out.push_back({arm_.name() + "." + piece, name});
    };
    if (!contacts.leaves.empty()) add_touched(contacts.leaves, from.posture);
    if (!contacts.settles.empty()) add_touched(contacts.settles, to);
    std::erase_if(out, [&](const MeantContact& one) {
      return situations_.query(from.situation).cell().contact_is_meant(one.first, one.second);
    });
    return out;
  }

  // How a piece is held when the tool is there, if that is one of its grasps.
  [[nodiscard]] std::optional<Hold> hold_at(const Body& piece,
                                            const std::vector<std::string>& names,
                                            const Pose& tip) const {
    const Pose in_piece = piece.at.inverse() * tip;
    for (const Grasp& grasp : grasps_of(piece, names)) {
      const Off here = off(grasp, in_piece);
      if (here.beside > kAtPiece || here.leaning > kTurnedAtPiece ||
          std::abs(grasp.turn.outside(here.turn)) > kTurnedAtPiece)
        continue;
      return Hold{piece.name, tool_.name, in_piece};
    }
    return std::nullopt;
  }

  struct Off {
    double beside = 0.0;   // m
    double leaning = 0.0;  // rad
    double turn = 0.0;     // rad about the piece's z
  };
  // How far the tool is off a grasp, turned as it is.
  static Off off(const Grasp& grasp, const Pose& in_piece) {
    const Matrix3 apart = in_piece.rotation * grasp.tip.rotation.transpose();
    const double turn = std::atan2(apart(1, 0) - apart(0, 1), apart(0, 0) + apart(1, 1));
    const Twist left = twist_between(tip_in_piece(grasp, turn), in_piece, 1.0);
    return {left.velocity.norm(), left.turning.norm(), turn};
  }
  [[nodiscard]] std::string off_text(const Body& piece, const std::vector<std::string>& names,
                                     const Pose& tip) const {
    const Pose in_piece = piece.at.inverse() * tip;
    std::string best;
    double least = std::numeric_limits<double>::infinity();
    for (const Grasp& grasp : grasps_of(piece, names)) {
      const Off here = off(grasp, in_piece);
      if (here.beside + 0.1 * here.leaning >= least) continue;
      least = here.beside + 0.1 * here.leaning;
      best = fmt::format("it is {} beside '{}', leaning {}, turned {}", text_length(here.beside),
                         grasp.name, text_angle(here.leaning), text_angle(here.turn));
    }
    return best;
  }

  StepPlanner& planner_;
  Situations& situations_;
  const Arm& arm_;
  Tool tool_;
  const Step& step_;
  const std::vector<RoutineState>& before_;
  StepWays out_;
};

StepWays StepPlanner::ways_of(const Step& step, const std::vector<RoutineState>& before) {
  return StepExpansion(*this, step, before).ways();
}

Reason StepPlanner::why_no_end(const Step& step, const RoutineState& from) {
  return why_no_way_to(situations_, from.situation, step.tool, std::get<FreeMove>(step.action).to,
                       start_, from.posture, routine_.clearance_of(step) + more_);
}

std::string StepPlanner::freed_remedy(const Step& step, const RoutineState& from) {
  if (!is_tool_move(step.action) || !step.freedom.is_none()) return {};
  Step freed = step;
  freed.freedom.turn = Band::free();
  const StepWays ways = ways_of(freed, {from});
  // A way there may be, and yet be too much for the motors.
  const bool does = std::any_of(ways.moves.begin(), ways.moves.end(), [&](const StepMove& move) {
    const RoutineState& to = ways.after[static_cast<std::size_t>(move.to)];
    return static_cast<bool>(motion_of(freed, from, to, move, {}, {}));
  });
  return does ? "leave the turn about the tool's axis open along the way" : "";
}

// Rest to rest in a straight joint line: no way round is quicker.
double StepPlanner::least_time(const Arm& arm, const Step& step, const Posture& from,
                               const Posture& to) const {
  if (const Wait* wait = std::get_if<Wait>(&step.action)) return wait->time;
  if (const Grip* grip = std::get_if<Grip>(&step.action)) return grip->takes;
  if (const Release* release = std::get_if<Release>(&step.action)) return release->takes;
  if (furthest(from, to) < kThere) return 0.0;
  const PaceOptions options = routine_.pacing_of(step);
  const Profile profile =
      options.profile == Profile::time_optimal ? Profile::trapezoid : options.profile;
  double sum = 0.0;
  for (const CurvePiece& piece : profile_line(profile, from, to, arm.limits(), options.speed))
    sum += piece.duration;
  return sum;
}

// A law of progress is slowed as a whole until the joint that is asked most of keeps its velocity
// limit, wherever that is: this much time it takes at least.
double StepPlanner::least_time_along(const Arm& arm, const Step& step,
                                     const std::vector<Posture>& knots) const {
  const PaceOptions options = routine_.pacing_of(step);
  const auto pieces = static_cast<double>(knots.size() - 1);
  double sum = 0.0;
  double most = 0.0;
  for (std::size_t i = 1; i < knots.size(); ++i) {
    const double time = arm.limits().least_times(knots[i - 1], knots[i]).maxCoeff() / options.speed;
    sum += time;
    const double share = (static_cast<double>(i) - 0.5) / pieces;
    const double speed = speed_of_law(options.profile, share);
    most = std::max(most, kNearlyLeast * pieces * time * speed);
  }
  return options.profile == Profile::time_optimal ? sum : most;
}

namespace {

// Of a free move that is taken, more than while it is one of many: what is found first may go a
// long way round.
constexpr int kSearchesAtLast = 12;

Verdict<StepMotion> finished(const Verdict<PacedMotion>& paced, const CellQuery& query) {
  if (!paced) return paced.reason();
  return StepMotion{paced->motion, query.cell()};
}

}  // namespace

PaceOptions StepPlanner::pacing_for(const Step& step, const Arm& arm) const {
  PaceOptions out = routine_.pacing_of(step);
  std::erase_if(out.frame_speeds, [&](const FrameSpeed& rule) { return !has_frame(arm, rule); });
  return out;
}

Verdict<StepMotion> StepPlanner::free_motion(const Step& step, const CellQuery& query,
                                             const Posture& from, const Posture& to,
                                             const Effort& effort, const Supervision& supervision) {
  if (furthest(from, to) < kThere) return StepMotion{{}, query.cell()};
  RouteOptions options{
      .clearance = routine_.clearance_of(step) + more_,
      .seed = routine_.seed,
      .tries = effort.tries,
      .searches = effort.at_last ? kSearchesAtLast : RouteOptions{}.searches,
      .draw_back = false,
      .cost = step.cost,
      .rules = step.keep,
      .planner =
          effort.at_last && step.improve > 0 ? RoutePlanner::improving : RoutePlanner::two_trees,
      .rounds = step.improve,
      .find_remedies = false,
      .least_within = 0.0,
  };
  PaceOptions pacing = pacing_for(step, query.arm());
  // Rules are proved along the lines, which round corners leave.
  if (step.keep.empty() && pacing.profile == Profile::time_optimal)
    pacing.corners = routine_.corners;
  const auto moved = [&]() -> Verdict<StepMotion> {
    const auto route = find_route(query, from, {to}, options, {.stop = supervision.stop});
    if (!route) return route.reason();
    return finished(pace(*route, query, pacing), query);
  };
  const Verdict<StepMotion> searched = moved();
  // What a step asks for beside time, the search has weighed.
  const bool by_time = effort.at_last && step.cost.is_travel_alone() && step.improve == 0;
  if (searched && !by_time) return searched;
  // Drawing the tool back leads another way: quicker for some moves, slower for others; where none
  // was found, one search more may find one.
  options.searches = 1;
  options.draw_back = true;
  options.planner = RoutePlanner::two_trees;
  const Verdict<StepMotion> drawn = moved();
  const bool is_better =
      drawn && (!searched || drawn->motion.duration() < searched->motion.duration());
  return is_better ? drawn : searched;
}

Verdict<StepMotion> StepPlanner::tool_motion(const Step& step, const CellQuery& query,
                                             const Posture& from, const StepMove& move) {
  const PaceOptions options = pacing_for(step, query.arm());
  if (move.curve) return finished(pace(*move.curve, query, options), query);
  const std::string tool = query.arm().end_tool(step.tool).name;
  const auto curve = follow_tool_path(query, from, tool, *move.path,
                                      {.clearance = routine_.clearance_of(step) + more_});
  if (!curve) return curve.reason();
  return finished(pace(*curve, query, options), query);
}

Verdict<StepMotion> StepPlanner::joint_motion(const Step& step, const CellQuery& query,
                                              const Posture& from, const Posture& to) {
  const double clearance = routine_.clearance_of(step) + more_;
  SweepMemory memory(query);
  const CurveSweep sweep = sweep_curve(query, lines_through({from, to}), clearance, memory);
  if (!sweep.free)
    return Reason{Cause::in_collision,
                  fmt::format("no: after {:.0f} % of the turn {}", 100.0 * sweep.at,
                              query.describe(sweep.blocking, clearance))};
  return finished(pace({from, to}, query, pacing_for(step, query.arm())), query);
}

Verdict<StepMotion> StepPlanner::motion_of(const Step& step, const RoutineState& from,
                                           const RoutineState& to, const StepMove& move,
                                           const Effort& effort, const Supervision& supervision) {
  const CellQuery& query = situations_.query(from.situation, move.meant);
  auto motion = moved(step, query, from, to, move, effort, supervision);
  if (!motion) return motion;
  // What may touch is no part of the proof.
  for (const MeantContact& contact : move.meant) {
    const double least =
        counted_distance(least_distance(query, contact, motion->motion, kContactSamples),
                         query.cell(), contact, more_);
    if (least < -kDeepestContact)
      return Reason{Cause::in_collision,
                    fmt::format("no: {} and {} may touch, but would be {} deep in each other{}",
                                contact.first, contact.second, text_length(-least),
                                more_ > 0.0 ? " where pieces are as far off as they may be" : "")};
  }
  return motion;
}

Verdict<StepMotion> StepPlanner::moved(const Step& step, const CellQuery& query,
                                       const RoutineState& from, const RoutineState& to,
                                       const StepMove& move, const Effort& effort,
                                       const Supervision& supervision) {
  if (std::holds_alternative<FreeMove>(step.action))
    return free_motion(step, query, from.posture, to.posture, effort, supervision);
  if (move.path) return tool_motion(step, query, from.posture, move);
  if (std::holds_alternative<TurnJoints>(step.action))
    return joint_motion(step, query, from.posture, to.posture);
  if (std::string fault = query.fault_of(from.posture, routine_.clearance_of(step) + more_);
      !fault.empty())
    return Reason{Cause::in_collision, "no: standing still, " + fault};
  return StepMotion{at_rest(from.posture, move.least), query.cell()};
}

}  // namespace er
