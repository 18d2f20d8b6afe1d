// Motions from any state to any state: how many fail, what they break, how long they take.
//   states [joints' states, default 1000000]
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <vector>

#include "elbowroom/base/random.hpp"
#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/pace/jerk_limited.hpp"

namespace {

using er::AxisLimits;
using er::AxisProfile;
using er::AxisState;

struct Task {
  AxisState from;
  AxisState to;
  AxisLimits limits;
};

double decades(er::RandomStream& random) { return std::pow(10.0, random.uniform(-2.0, 2.0)); }

AxisState state_within(er::RandomStream& random, const AxisLimits& limits) {
  while (true) {
    AxisState s{random.uniform(-3.0, 3.0) * std::pow(10.0, random.uniform(-3.0, 0.0)),
                random.uniform(limits.velocity_low, limits.velocity_high),
                random.uniform(limits.acceleration_low, limits.acceleration_high)};
    if (random.index(4) == 0) s.acceleration = 0.0;
    if (random.index(4) == 0) s.velocity = 0.0;
    if (er::target_breach(s, limits).empty()) return s;
  }
}

Task random_task(er::RandomStream& random) {
  const bool alike = random.index(2) == 0;
  AxisLimits limits = er::symmetric_limits(decades(random), decades(random), decades(random));
  if (!alike) {
    limits.velocity_low = -decades(random);
    limits.acceleration_low = -decades(random);
  }
  return {state_within(random, limits), state_within(random, limits), limits};
}

// By how much a profile passes a limit, or misses its end, relative.
double worst_of(const Task& task, const AxisProfile& profile) {
  const AxisLimits& l = task.limits;
  double worst = 0.0;
  const double speed = std::max(l.velocity_high, -l.velocity_low);
  const double effort = std::max(l.acceleration_high, -l.acceleration_low);
  bool within = false;
  const auto look = [&](const AxisState& s) {
    // What starts outside of its limits, or has to pass one, counts from where it is back.
    const double v = s.velocity + 0.5 * s.acceleration * std::abs(s.acceleration) / l.jerk;
    within = within || (std::max(v, s.velocity) <= l.velocity_high * (1 + 1e-9) &&
                        std::min(v, s.velocity) >= l.velocity_low * (1 + 1e-9));
    if (!within) return;
    worst = std::max({worst, (s.velocity - l.velocity_high) / speed,
                      (l.velocity_low - s.velocity) / speed,
                      (s.acceleration - l.acceleration_high) / effort,
                      (l.acceleration_low - s.acceleration) / effort});
  };
  for (int i = 0; i < profile.count(); ++i) {
    const er::AxisPiece piece = profile.piece(i);
    worst = std::max(worst, std::abs(piece.jerk) / l.jerk - 1.0);
    look(piece.start);
    const double flat = piece.jerk != 0.0 ? -piece.start.acceleration / piece.jerk : -1.0;
    if (flat > 0.0 && flat < piece.duration) look(er::advanced(piece.start, piece.jerk, flat));
  }
  const AxisState end = profile.end();
  look(end);
  const double length =
      std::abs(task.to.position - task.from.position) + speed * profile.duration();
  return std::max({worst, std::abs(end.position - task.to.position) / length,
                   std::abs(end.velocity - task.to.velocity) / speed,
                   std::abs(end.acceleration - task.to.acceleration) / effort});
}

void quantiles(const char* what, std::vector<double>& all, double scale, const char* unit) {
  std::sort(all.begin(), all.end());
  const auto at = [&](double share) {
    return scale * all[std::min(all.size() - 1,
                                static_cast<std::size_t>(share * static_cast<double>(all.size())))];
  };
  fmt::print("{}: median {:.3g}, 99 % {:.3g}, worst {:.3g} {}\n", what, at(0.5), at(0.99), at(1.0),
             unit);
}

}  // namespace

int main(int argc, char** argv) {
  const long count = argc > 1 ? std::atol(argv[1]) : 1'000'000;
  er::RandomStream random(41);
  std::vector<double> worst;
  std::vector<double> worst_longer;
  std::vector<double> times;
  constexpr int kJoints = 7;
  for (long i = 0; i < count / kJoints; ++i) {
    std::array<Task, kJoints> tasks;
    for (Task& task : tasks) task = random_task(random);
    std::array<AxisProfile, kJoints> profiles;
    std::vector<er::JerkLimited> joints;
    joints.reserve(kJoints);
    double time = 0.0;
    const auto solve = [&] {
      const er::Stopwatch watch;
      joints.clear();
      time = 0.0;
      for (const Task& task : tasks) {
        joints.emplace_back(task.from, task.to, task.limits);
        time = std::max(time, joints.back().shortest());
      }
      for (std::size_t k = 0, agreed = 0; agreed < kJoints; k = (k + 1) % kJoints) {
        const double next = joints[k].possible_from(time);
        agreed = next > time ? 1 : agreed + 1;
        time = next;
      }
      for (std::size_t k = 0; k < kJoints; ++k) profiles[k] = joints[k].profile(time);
      return watch.seconds();
    };
    // What takes long is done again: mostly the machine was busy with something else.
    constexpr double kLong = 10e-6;
    double took = solve();
    for (int again = 0; again < 5 && took > kLong; ++again) took = std::min(took, solve());
    times.push_back(took);
    for (std::size_t k = 0; k < kJoints; ++k) {
      const double alone = worst_of(tasks[k], joints[k].profile(joints[k].shortest()));
      const double together = worst_of(tasks[k], profiles[k]);
      worst.push_back(alone);
      worst_longer.push_back(together);
      if (!(alone < 1e-6) || !(together < 1e-6)) {
        const Task& t = tasks[k];
        fmt::print(
            "from {:.17g} {:.17g} {:.17g} to {:.17g} {:.17g} {:.17g} limits {:.17g} {:.17g} "
            "{:.17g} {:.17g} {:.17g}: alone {:.3g} in {}, together {:.3g} in {}\n",
            t.from.position, t.from.velocity, t.from.acceleration, t.to.position, t.to.velocity,
            t.to.acceleration, t.limits.velocity_low, t.limits.velocity_high,
            t.limits.acceleration_low, t.limits.acceleration_high, t.limits.jerk, alone,
            joints[k].shortest(), together, time);
      }
    }
  }
  quantiles("least time, largest error relative", worst, 1.0, "");
  quantiles("in step with six others, largest error relative", worst_longer, 1.0, "");
  quantiles("seven joints, any state to any state, in step", times, 1e6, "us");
  return 0;
}
