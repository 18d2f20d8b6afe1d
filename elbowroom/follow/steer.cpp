#include "elbowroom/follow/steer.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

constexpr double kStandstill = 1e-9;  // rad/s or m/s
constexpr double kLongestStop = 5.0;  // s to wait for rest after the last command

Vector3 shaped(const Vector3& deflection, double dead_zone) {
  Vector3 out = deflection;
  for (double& d : out)
    d = std::copysign(std::max(0.0, std::abs(d) - dead_zone) / (1.0 - dead_zone), d);
  return out / std::max(1.0, out.norm());
}

// "52.0 mm of 60.0 mm", or "60.0 mm" if it is all, or nothing if nothing was asked for.
std::string share_text(double done, double asked, std::string (*text)(double)) {
  if (!(asked > 1e-9)) return "";
  return done > 0.999 * asked ? text(done) : text(done) + " of " + text(asked);
}

}  // namespace

Twist twist_of_sticks(const std::array<double, 6>& deflections, const StickScale& scale) {
  if (!(scale.speed > 0.0) || !(scale.turn_speed > 0.0))
    throw InputError("the speed at full deflection is above zero");
  if (!(scale.dead_zone >= 0.0 && scale.dead_zone <= 0.9))
    throw InputError(fmt::format("the dead zone is 0 to 0.9, found {}", scale.dead_zone));
  const auto& d = deflections;
  return {scale.speed * shaped({d[0], d[1], d[2]}, scale.dead_zone),
          scale.turn_speed * shaped({d[3], d[4], d[5]}, scale.dead_zone)};
}

void check_record(const TwistRecord& record) {
  if (record.twists.empty()) throw InputError("the record has no commands");
  if (record.times.size() != record.twists.size())
    throw InputError(fmt::format("the record has {} commands and {} times", record.twists.size(),
                                 record.times.size()));
  for (std::size_t i = 0; i < record.twists.size(); ++i) {
    const Twist& twist = record.twists[i];
    if (!twist.velocity.allFinite() || !twist.turning.allFinite())
      throw InputError(fmt::format("command {} is not finite", i + 1));
    const double before = i == 0 ? 0.0 : record.times[i - 1];
    if (!std::isfinite(record.times[i]) ||
        (i == 0 ? record.times[0] != 0.0 : !(record.times[i] > before)))
      throw InputError(fmt::format("the times of commands ascend from 0, but command {} is at {} s",
                                   i + 1, record.times[i]));
  }
  if (!(record.duration > record.times.back()) || !std::isfinite(record.duration))
    throw InputError("a record ends after its last command");
}

Steered steer(const CellQuery& query, const Tool& tool, const TwistRecord& record,
              const Posture& start, const SteerOptions& options, const SteerRun& run) {
  check_record(record);
  Steering steering(query, tool, start, options);
  Steered out;
  out.mode = options.mode;
  StepLogger log(query, 1.0 / options.rate, {options.clearance, run.deviation, run.turn_deviation},
                 out);
  log.begin(start);
  out.moments.push_back({});
  std::size_t next = 0;
  const auto steps = std::lround(record.duration * options.rate);
  const auto longest = steps + std::lround(kLongestStop * options.rate);
  for (long i = 0; i < longest; ++i) {
    if (i >= steps && steering.velocity().isZero(kStandstill)) break;
    const double now = static_cast<double>(i) / options.rate;
    while (next + 1 < record.times.size() && record.times[next + 1] <= now + 1e-9) ++next;
    Twist command;
    if (i < steps) {
      const Matrix3 axes = run.in_tool_axes ? steering.tip().rotation : run.axes;
      command = {product(axes, record.twists[next].velocity),
                 product(axes, record.twists[next].turning)};
    }
    const Pose before = steering.tip();
    steering.step(command);
    FollowSample sample;
    sample.path_time = std::min(now + 1.0 / options.rate, record.duration);
    sample.posture = steering.posture();
    sample.velocity = steering.velocity();
    sample.scale = steering.share();
    const TrackedTool::Off off = steering.off();
    sample.off = off.position;
    sample.off_angle = off.angle;
    if (steering.slow_by().kind == SlowBy::Kind::nothing)
      log.close_stretch();
    else
      log.note_slow(steering.share(), steering.slow_by());
    log.push(std::move(sample));
    const Twist went = twist_between(before, steering.tip(), 1.0 / options.rate);
    out.moments.push_back({command.velocity.norm(), went.velocity.norm()});
    out.asked_travel += command.velocity.norm() / options.rate;
    out.asked_turn += command.turning.norm() / options.rate;
    out.travel += went.velocity.norm() / options.rate;
    out.turn += went.turning.norm() / options.rate;
  }
  log.finish();
  return out;
}

std::string Steered::summary(const CellQuery& query) const {
  if (no) return no->text;
  std::string done = share_text(travel, asked_travel, text_length);
  const std::string turned = share_text(turn, asked_turn, text_angle);
  if (!done.empty() && !turned.empty()) done += " and ";
  done += turned;
  return fmt::format("yes: {} is steered for {}, {}; least clearance {}", query.arm().name(),
                     text_time(duration()), done.empty() ? "and stands still" : done,
                     text_length(clearance.nearest.distance));
}

std::string Steered::report(const CellQuery& query) const {
  return report_line("went", fmt::format("{}, commanded {}", text_length(travel),
                                         text_length(asked_travel))) +
         report_line("turned",
                     fmt::format("{}, commanded {}", text_angle(turn), text_angle(asked_turn))) +
         StepLog::report(query, "its course", "held back");
}

}  // namespace er
