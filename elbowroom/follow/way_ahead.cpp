#include "elbowroom/follow/way_ahead.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/units.hpp"
#include "elbowroom/reach/numeric.hpp"

namespace er {
namespace {

constexpr double kLongestJointStep = 0.02;  // rad or m from node to node
constexpr int kFinest = 64;                 // parts of a step that is too long for the joints
constexpr double kDrawn = 0.5;  // 1/s of the way to `towards` that redundant joints are drawn
constexpr double kJumpAccuracy = 1e-8;
// Shares of the limits that are planned with; the rest is for what happens between nodes.
constexpr double kAheadVelocityShare = 0.99;
constexpr double kZoneShare = 0.98;
constexpr double kAccelerationShare = 0.9;

class Walk {
 public:
  Walk(const CellQuery& query, TrackedTool& tool, const PosePath& path, const WayOptions& options)
      : query_(query),
        arm_(query.arm()),
        tool_(tool),
        path_(path),
        options_(options),
        memory_(query) {}

  WayAhead run(const Posture& start) {
    way_.nodes.push_back({.posture = start});
    before_ = Posture::Zero(arm_.dof());
    question_.unit = velocity_units(arm_.limits());
    while (way_.nodes.back().path_time < path_.duration() - 1e-12)
      if (!go_on()) break;
    return std::move(way_);
  }

 private:
  bool go_on() {
    const double now = way_.nodes.back().path_time;
    const double longest = std::min(options_.step, path_.duration() - now);
    for (int parts = 1; parts <= kFinest; parts *= 2) {
      const double h = longest / parts;
      if (!ask(now, h)) break;
      if (h * answer_.velocity.cwiseAbs().maxCoeff() > kLongestJointStep) continue;
      return push(now + h, way_.nodes.back().posture + h * answer_.velocity);
    }
    return jump(now, longest);
  }

  // The joint velocities for the next so long of the path, with only the ranges to keep.
  bool ask(double now, double h) {
    const Posture& q = way_.nodes.back().posture;
    question_.lower = (arm_.limits().lower - q) / h;
    question_.upper = (arm_.limits().upper - q) / h;
    question_.wish = kDrawn * (options_.towards - q);
    tool_.rows(q, tool_.tip(q), before_, h, path_.at(now), path_.at(now + h), h, 1.0 / h,
               question_);
    velocity_step(question_, FollowMode::limited, answer_);
    return answer_.on_course && answer_.scale > 1.0 - 1e-9;
  }

  // Another posture for the next pose, reached while the tool all but stands still.
  bool jump(double now, double h) {
    const Posture from = way_.nodes.back().posture;
    const Target target = tool_.target_at(path_.at(now + h)).within(kJumpAccuracy, kJumpAccuracy);
    const NumericSolve solve = solve_from(arm_, target, from);
    if (!solve.met) return end_here(Cause::off_line, stopped_by(from));
    const Posture shift = solve.posture - from;
    const int parts = 1 + static_cast<int>(shift.cwiseAbs().maxCoeff() / kLongestJointStep);
    for (int i = 1; i <= parts; ++i) {
      const double share = static_cast<double>(i) / parts;
      const Posture q = from + share * shift;
      const TrackedTool::Off off = tool_.off(tool_.tip(q), path_.at(now + share * h));
      if (off.position > options_.deviation || off.angle > options_.turn_deviation)
        return end_here(
            Cause::off_line,
            fmt::format("{}: the joints would have to jump by {}, and the tool would stray {} and "
                        "{} meanwhile",
                        stopped_by(from), text_angle(shift.cwiseAbs().maxCoeff()),
                        text_length(off.position), text_angle(off.angle)));
      if (!push(now + share * h, q)) return false;
      way_.nodes.back().jumped = true;
    }
    return true;
  }

  [[nodiscard]] std::string stopped_by(const Posture& q) const {
    const std::string reached = arm_.limit_reached(q, 1e-4);
    if (!reached.empty()) return reached;
    if (answer_.held_by >= 0 && answer_.on_course) {
      const double limit = answer_.held_up ? arm_.limits().upper[answer_.held_by]
                                           : arm_.limits().lower[answer_.held_by];
      return fmt::format("joint {} comes to its limit of {}",
                         arm_.moving_joint(answer_.held_by).name,
                         text_value(arm_.moving_joint(answer_.held_by), limit));
    }
    return "the arm is in a singularity (stretched out, or two axes in line), where no joint moves "
           "the tool as the path asks";
  }

  bool push(double path_time, const Posture& q) {
    const WayNode& last = way_.nodes.back();
    const Sweep sweep =
        sweep_line(query_, last.posture, q, {.clearance = options_.clearance, .tube = {}}, memory_);
    if (!sweep.free)
      return end_here(Cause::in_collision, "something is in the way: " +
                                               query_.describe(sweep.blocking, options_.clearance));
    const double duration = path_time - last.path_time;
    before_ = (q - last.posture) / duration;
    WayNode node{.path_time = path_time, .posture = q};
    const ZoneSpeed speed = fastest_in_zones(query_, last.posture, before_, duration);
    if (speed.share > kZoneShare) {
      node.most = kZoneShare / speed.share;
      node.most_by = {.kind = SlowBy::Kind::zone, .zone = speed};
    }
    way_.nodes.push_back(std::move(node));
    return true;
  }

  bool end_here(Cause cause, std::string why) {
    way_.cause = cause;
    way_.ended_by = std::move(why);
    return false;
  }

  const CellQuery& query_;
  const Arm& arm_;
  TrackedTool& tool_;
  const PosePath& path_;
  const WayOptions& options_;
  SweepMemory memory_;
  StepQuestion question_;
  StepAnswer answer_;
  Posture before_;
  WayAhead way_;
};

// The node before a time, and how far on to the next one it is.
double share_after(const std::vector<WayNode>& nodes, double path_time, std::size_t& hint) {
  while (hint + 2 < nodes.size() && nodes[hint + 1].path_time <= path_time) ++hint;
  if (nodes.size() < 2) return 0.0;
  const double gap = nodes[hint + 1].path_time - nodes[hint].path_time;
  return std::clamp((path_time - nodes[hint].path_time) / gap, 0.0, 1.0);
}

// Lowers the square of a speed, and says why.
void lower_to(double& square, SlowBy& by, double to, LimitKind kind, Eigen::Index joint) {
  if (!(to < square)) return;
  square = to;
  by = {SlowBy::Kind::limit, kind, static_cast<int>(joint)};
}

}  // namespace

Posture WayAhead::posture_at(double path_time, std::size_t& hint) const {
  const double share = share_after(nodes, path_time, hint);
  if (nodes.size() < 2) return nodes.front().posture;
  return nodes[hint].posture + share * (nodes[hint + 1].posture - nodes[hint].posture);
}

double WayAhead::scale_at(double path_time, std::size_t& hint) const {
  const double share = share_after(nodes, path_time, hint);
  if (nodes.size() < 2) return 0.0;
  const double a = nodes[hint].scale;
  const double b = nodes[hint + 1].scale;
  return std::sqrt(a * a + share * (b * b - a * a));
}

Posture WayAhead::slope_after(std::size_t hint) const {
  if (hint + 1 >= nodes.size()) return Posture::Zero(nodes.back().posture.size());
  return (nodes[hint + 1].posture - nodes[hint].posture) /
         (nodes[hint + 1].path_time - nodes[hint].path_time);
}

bool WayAhead::jumps_after(std::size_t hint) const {
  return hint + 1 < nodes.size() && nodes[hint + 1].jumped;
}

WayAhead walk_path(const CellQuery& query, TrackedTool& tool, const PosePath& path,
                   const Posture& start, const WayOptions& options) {
  return Walk(query, tool, path, options).run(start);
}

void limit_speeds(const Limits& limits, double period, WayAhead& way) {
  std::vector<WayNode>& nodes = way.nodes;
  const std::size_t last = nodes.size() - 1;
  nodes[last].scale = 0.0;
  nodes[last].by = {};
  if (last == 0) return;
  nodes[last].scale = nodes[last].most;
  const Posture at_end = way.slope_after(last - 1);
  for (Eigen::Index k = 0; k < at_end.size(); ++k)
    if (at_end[k] != 0.0)
      nodes[last].scale = std::min(nodes[last].scale, kAccelerationShare * limits.acceleration[k] *
                                                          period / std::abs(at_end[k]));
  for (std::size_t i = last; i-- > 0;) {
    const double h = nodes[i + 1].path_time - nodes[i].path_time;
    const Posture on = way.slope_after(i);
    const Posture from = i > 0 ? way.slope_after(i - 1) : on;
    const double around = i > 0 ? 0.5 * (nodes[i + 1].path_time - nodes[i - 1].path_time) : h;
    double square = 1.0;
    SlowBy by;
    for (const WayNode* stretch : {&nodes[i], &nodes[i + 1]})
      if (stretch->most * stretch->most < square) {
        square = stretch->most * stretch->most;
        by = stretch->most_by;
      }
    const double next = nodes[i + 1].scale * nodes[i + 1].scale;
    double braking = std::numeric_limits<double>::infinity();
    for (Eigen::Index k = 0; k < on.size(); ++k) {
      const double most = std::max(std::abs(on[k]), std::abs(from[k]));
      const double bend = (on[k] - from[k]) / around;
      const double a = kAccelerationShare * limits.acceleration[k];
      if (most > 0.0) {
        const double share = kAheadVelocityShare * limits.velocity[k] / most;
        lower_to(square, by, share * share, LimitKind::velocity, k);
      }
      if (bend != 0.0) lower_to(square, by, a / std::abs(bend), LimitKind::acceleration, k);
      // A joint that has to gain speed along the path is slowed by less than the path itself.
      const double helped = on[k] > 0.0 ? bend * next : -bend * next;
      if (most > 0.0) braking = std::min(braking, std::max(0.0, a + helped) / most);
    }
    if (next + 2.0 * h * braking < square) {
      square = next + 2.0 * h * braking;
      by = nodes[i + 1].by;
    }
    nodes[i].scale = std::sqrt(square);
    nodes[i].by = by;
  }
}

}  // namespace er
