#include "elbowroom/collision/joint_run.hpp"

#include <cmath>
#include <numbers>

#include "elbowroom/collision/sweep.hpp"

namespace er {
namespace {

constexpr double kFine = 1e-4;  // rad or m

struct Reached {
  double value = 0.0;
  std::string met;
};

// Halving: the nearer half is proved first, so the end found is the first meeting from the start.
Reached run_towards(const CellQuery& query, const PostureRef& posture, int joint, double end,
                    SweepMemory& memory) {
  const double begin = posture[joint];
  double proved = begin;
  double goal = end;
  Nearest blocking;
  while (true) {
    Posture from = posture;
    Posture to = posture;
    from[joint] = proved;
    to[joint] = goal;
    const Sweep sweep = sweep_line(query, from, to, {}, memory);
    if (sweep.free) {
      proved = goal;
      if (proved == end) return {end, ""};
      goal = proved + 2.0 * (goal - from[joint]);  // confident again
      if ((goal - end) * (end - begin) > 0.0) goal = end;
    } else {
      blocking = sweep.blocking;
      if (std::abs(goal - proved) < kFine)
        return {proved, query.name(blocking.first) + ", " + query.name(blocking.second)};
      goal = proved + 0.5 * (goal - proved);
    }
  }
}

}  // namespace

JointRun run_joint(const CellQuery& query, const PostureRef& posture, int joint) {
  const Arm& arm = query.arm();
  const double half = arm.moving_joint(joint).kind == JointKind::revolute ? std::numbers::pi : 0.5;
  const auto end = [&](double limit, double otherwise) {
    return std::isfinite(limit) ? limit : posture[joint] + otherwise;
  };
  SweepMemory memory(query);
  JointRun run;
  if (const Nearest here = query.nearest(posture); here.distance <= 0.0) {
    run.lower = run.upper = posture[joint];
    run.met_below = run.met_above = query.name(here.first) + ", " + query.name(here.second);
    return run;
  }
  const Reached below =
      run_towards(query, posture, joint, end(arm.limits().lower[joint], -half), memory);
  const Reached above =
      run_towards(query, posture, joint, end(arm.limits().upper[joint], half), memory);
  return {below.value, above.value, below.met, above.met};
}

}  // namespace er
