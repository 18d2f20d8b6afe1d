#include "elbowroom/pace/path_progress.hpp"

#include <algorithm>
#include <cmath>

#include "elbowroom/pace/line_profile.hpp"

namespace er {
namespace {

Posture one(double value) { return Posture::Constant(1, value); }

}  // namespace

ProgressLimits progress_limits(const JointCurve& path, const PathLimits& limits) {
  // Each derivative of the path takes its share of what a joint may do.
  constexpr int kSamples = 16;
  constexpr double kHalf = 0.5;
  constexpr double kThird = 1.0 / 3.0;
  ProgressLimits out{limits.tool_speed, limits.tool_acceleration,
                     std::numeric_limits<double>::infinity()};
  const auto each = [&](const auto& look) {
    for (const CurvePiece& piece : path.pieces())
      for (int i = 0; i <= kSamples; ++i)
        for (std::size_t k = 0; k < piece.joints.size(); ++k)
          look(static_cast<Eigen::Index>(k),
               all_at(piece.joints[k], piece.duration * i / kSamples));
  };
  const auto keep = [](double& limit, double most, double value) {
    if (value != 0.0) limit = std::min(limit, most / std::abs(value));
  };
  const bool jerks = limits.jerk.size() > 0;
  double square = std::numeric_limits<double>::infinity();  // of the speed
  double cube = square;
  each([&](Eigen::Index k, const ValueAndDerivatives& q) {
    keep(out.speed, limits.velocity[k], q.first);
    keep(square, kHalf * limits.acceleration[k], q.second);
    if (jerks) keep(cube, kThird * limits.jerk[k], q.third);
  });
  out.speed = std::min({out.speed, std::sqrt(square), std::cbrt(cube)});
  // A speed that the way is too short for would only take acceleration from the joints.
  constexpr int kRounds = 4;
  for (int round = 0; round < kRounds; ++round) {
    out.acceleration = limits.tool_acceleration;
    each([&](Eigen::Index k, const ValueAndDerivatives& q) {
      keep(out.acceleration, limits.acceleration[k] - std::abs(q.second) * out.speed * out.speed,
           q.first);
      if (jerks) keep(out.acceleration, kThird * limits.jerk[k], 3.0 * q.second * out.speed);
    });
    const double reached = std::sqrt(path.duration() * out.acceleration);
    if (out.speed <= reached) break;
    out.speed = reached;
  }
  if (jerks)
    each([&](Eigen::Index k, const ValueAndDerivatives& q) {
      keep(out.jerk,
           limits.jerk[k] - 3.0 * std::abs(q.second) * out.speed * out.acceleration -
               std::abs(q.third) * std::pow(out.speed, 3),
           q.first);
    });
  return out;
}

PathProgress progress_by(Profile profile, double length, const ProgressLimits& limits) {
  Limits own;
  own.velocity = one(limits.speed);
  own.acceleration = one(limits.acceleration);
  own.jerk = one(limits.jerk);
  return PathProgress(profile_line(profile, one(0.0), one(length), own, 1.0));
}

Motion along(const JointCurve& path, const PathProgress& progress, int pieces) {
  std::vector<CurvePiece> out;
  JointState state;
  const auto end_at = [&](const CurvePiece& law, double t) {
    const ValueAndDerivatives s = all_at(law.joints.front(), t);
    // Beyond its ends the path would stand still.
    path.at(std::clamp(s.value, 0.0, path.duration()), state);
    std::vector<EndValues> ends;
    for (Eigen::Index k = 0; k < state.position.size(); ++k)
      ends.push_back({state.position[k], state.velocity[k] * s.first,
                      state.velocity[k] * s.second + state.acceleration[k] * s.first * s.first});
    return ends;
  };
  for (const CurvePiece& law : progress.pieces()) {
    const double share = law.duration / progress.duration();
    const int count = std::max(4, static_cast<int>(std::ceil(share * pieces - 1e-9)));
    std::vector<EndValues> from = end_at(law, 0.0);
    for (int i = 1; i <= count; ++i) {
      std::vector<EndValues> to = end_at(law, law.duration * i / count);
      CurvePiece piece{law.duration / count, {}};
      for (std::size_t k = 0; k < from.size(); ++k)
        piece.joints.push_back(quintic_between(from[k], to[k], piece.duration));
      out.push_back(std::move(piece));
      from = std::move(to);
    }
  }
  return Motion(std::move(out));
}

}  // namespace er
