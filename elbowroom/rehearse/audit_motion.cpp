#include "elbowroom/rehearse/audit_motion.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/symmetric.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/zone_speed.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/pace/motor_use.hpp"

namespace er {
namespace {

// What limits may be passed by, relative.
constexpr double kSlack = 1e-6;
// Of what is known by a bound, which is a thousandth above the truth at most.
constexpr double kBound = 1e-3;
// What positions and velocities may jump by (rad, m, and per second).
constexpr double kLeastJump = 1e-6;

std::string shown(const Joint& joint, double value, int order) {
  static constexpr std::array kPer{"", "/s", "/s^2", "/s^3"};
  const bool slides = joint.kind == JointKind::prismatic;
  return fmt::format("{:.1f} {}{}", slides ? to_mm(value) : to_deg(value), slides ? "mm" : "deg",
                     kPer[static_cast<std::size_t>(order)]);
}

constexpr std::array kNames{"range", "velocity", "acceleration", "jerk"};

// The joint's position or a derivative, over one piece.
Quintic derivative(const Quintic& c, int order) {
  Quintic out = c;
  for (int i = 0; i < order; ++i) out = derivative_of(out);
  return out;
}

class Audit {
 public:
  Audit(const CellQuery& query, const Motion& motion, const MotionAuditOptions& options)
      : query_(query), arm_(query.arm()), motion_(motion), options_(options) {
    if (motion.dof() != arm_.dof())
      throw InputError(fmt::format("the motion has {} joints, arm '{}' has {}", motion.dof(),
                                   arm_.name(), arm_.dof()));
    out.duration = motion.duration();
    out.clearance = options.clearance;
    out.jerk = options.jerk;
    out.peaks = options.sampled ? peaks_of_rows() : peaks_of(motion, arm_.limits());
    // Rows say nothing of jerk, nor whether accelerations jump between them.
    const int highest = options.sampled ? 2 : 3;
    for (int k = 0; k < arm_.dof(); ++k) {
      look_at_range(k);
      for (int order = 1; order <= highest; ++order) look_at_limit(k, order);
      for (int order = 0; order < highest; ++order) look_at_jumps(k, order);
    }
    look_at_torques();
    look_at_collisions();
    look_at_zones();
    look_at_tool();
    for (const FrameSpeed& rule : options.frame_speeds) look_at_frame(rule);
  }

  MotionAudit out;

 private:
  void look_at_range(int k) {
    const double low = arm_.limits().lower[k];
    const double high = arm_.limits().upper[k];
    if (!std::isfinite(low) || !std::isfinite(high)) return;
    // Seen from the middle, both ends of the range are one limit.
    const double half = 0.5 * (high - low) * (1.0 + 1e-12) + 1e-9;
    look(k, 0, 0.5 * (low + high), half, [&](double value, double at) {
      return fmt::format("{} at {}, range {} to {}", shown(arm_.moving_joint(k), value, 0),
                         text_time(at), shown(arm_.moving_joint(k), low, 0),
                         shown(arm_.moving_joint(k), high, 0));
    });
  }

  void look_at_limit(int k, int order) {
    const WayLimits both = limits_of(k, order);
    if (!std::isfinite(both.either())) return;
    // Seen from the middle of both ways, they are one limit.
    const double middle = 0.5 * (both.low + both.high);
    const double half = 0.5 * (both.high - both.low);
    look(k, order, middle, half + kSlack * both.either(), [&](double value, double at) {
      return fmt::format(
          "{} at {}, limit {}", shown(arm_.moving_joint(k), std::abs(value), order), text_time(at),
          shown(arm_.moving_joint(k), value > middle ? both.high : -both.low, order));
    });
  }

  [[nodiscard]] WayLimits limits_of(int k, int order) const {
    const Limits& limits = arm_.limits();
    return order == 1   ? limits.velocity_of(k)
           : order == 2 ? limits.acceleration_of(k)
                        : WayLimits{-limits.jerk[k], limits.jerk[k]};
  }

  // Where |derivative - middle| is above `half`: first, and most.
  template <class Text>
  void look(int k, int order, double middle, double half, Text text) {
    double start = 0.0;
    double first = -1.0;
    double worst = 0.0;
    double worst_at = 0.0;
    for (const CurvePiece& piece : motion_.pieces()) {
      Quintic c = derivative(piece.joints[static_cast<std::size_t>(k)], order);
      if ((order == 1 || order == 2) && options_.sampled)
        c = {from_row_to_row(piece, k, order, [&](double v) { return std::abs(v - middle); })};
      c[0] -= middle;
      if (bound_over(c, piece.duration) > std::max(half, std::abs(worst))) {
        const Extremes e = extremes_of(c, piece.duration);
        const bool high = e.high >= -e.low;
        const double most = high ? e.high : e.low;
        if (std::abs(most) > half && first < 0.0)
          first = start + std::min(first_beyond(c, piece.duration, half), piece.duration);
        if (std::abs(most) > std::max(half, std::abs(worst))) {
          worst = most;
          worst_at = start + (high ? e.high_at : e.low_at);
        }
      }
      start += piece.duration;
    }
    if (first < 0.0) return;
    add(order < 3, {fmt::format("{} of {}", kNames[static_cast<std::size_t>(order)],
                                arm_.moving_joint(k).name),
                    first, worst_at, text(worst + middle, worst_at)});
  }

  // What the rows at the ends of a piece say of it: the mean acceleration; of velocities, the mean
  // or one at a row, whichever is furthest by `far`.
  template <class Far>
  static double from_row_to_row(const CurvePiece& piece, int k, int order, Far far) {
    const Quintic& c = piece.joints[static_cast<std::size_t>(k)];
    const double end = piece.duration;
    double most = (value_at(c, end, order - 1) - value_at(c, 0.0, order - 1)) / end;
    if (order == 1)
      for (const double t : {0.0, end})
        if (const double v = value_at(c, t, 1); far(v) > far(most)) most = v;
    return most;
  }

  [[nodiscard]] MotionPeaks peaks_of_rows() const {
    MotionPeaks peaks;
    double start = 0.0;
    for (const CurvePiece& piece : motion_.pieces()) {
      for (int k = 0; k < arm_.dof(); ++k)
        for (const int order : {1, 2}) {
          PeakUse& peak = order == 1 ? peaks.velocity : peaks.acceleration;
          const WayLimits both = limits_of(k, order);
          const auto share_of = [&](double value) { return both.share_of(value); };
          const double share = share_of(from_row_to_row(piece, k, order, share_of));
          if (peak.joint < 0 || share > peak.share) peak = {share, k, start};
        }
      start += piece.duration;
    }
    return peaks;
  }

  // Between pieces; and from and to rest at the ends, but for positions.
  void look_at_jumps(int k, int order) {
    const auto& pieces = motion_.pieces();
    double time = 0.0;
    double first = -1.0;
    double worst = 0.0;
    double worst_at = 0.0;
    const double scale =
        order == 2 ? kLeastJump * std::max(arm_.limits().acceleration[k], 1.0) : kLeastJump;
    for (std::size_t i = 0; i <= pieces.size(); ++i) {
      const double jump = std::abs(jump_before(motion_, i, k, order));
      if (jump > scale && first < 0.0) first = time;
      if (jump > std::max(scale, worst)) {
        worst = jump;
        worst_at = time;
      }
      if (i < pieces.size()) time += pieces[i].duration;
    }
    if (first < 0.0) return;
    static constexpr std::array kWhat{"a jump of", "a jump of the velocity of",
                                      "a jump of the acceleration of"};
    add(order < 2,
        {fmt::format("{} {}", kWhat[static_cast<std::size_t>(order)], arm_.moving_joint(k).name),
         first, worst_at,
         fmt::format("by {} at {}", shown(arm_.moving_joint(k), worst, order),
                     text_time(worst_at))});
  }

  // What counts, forbids.
  void add(bool counts, MotionBreach breach) {
    (counts || options_.jerk ? out.breaches : out.notes).push_back(std::move(breach));
  }

  void look_at_torques() {
    if (options_.sampled) return;  // rows say too little of accelerations
    out.torque = torque_use(motion_, arm_);
    if (out.torque.share > 1.0 + kTorqueSlack)
      out.breaches.push_back({fmt::format("torque of {}", arm_.moving_joint(out.torque.joint).name),
                              out.torque.time, out.torque.time,
                              fmt::format("{:.1f} % of its limit, at {}", 100.0 * out.torque.share,
                                          text_time(out.torque.time))});
  }

  void look_at_collisions() {
    SweepMemory memory(query_);
    const CurveSweep sweep = sweep_curve(query_, motion_, options_.clearance, memory);
    if (sweep.free) return;
    out.breaches.push_back(
        {"clearance", sweep.at, sweep.at, describe(query_, sweep, options_.clearance)});
  }

  void look_at_zones() {
    if (fastest_in_zones(query_, motion_).share <= 1.0 + kSlack) return;
    // Piece by piece, to say when.
    MotionBreach breach{"speed in a zone", -1.0, 0.0, ""};
    double most = 0.0;
    double start = 0.0;
    for (const CurvePiece& piece : motion_.pieces()) {
      const ZoneSpeed fastest = fastest_in_zones(query_, Motion({piece}));
      if (fastest.share > 1.0 + kSlack && breach.first < 0.0) breach.first = start;
      if (fastest.share > most) {
        most = fastest.share;
        breach.worst = start;
        breach.text = fmt::format("{:.1f} % of its cap in the piece from {}: {}", 100.0 * most,
                                  text_time(start), describe(query_, fastest));
      }
      start += piece.duration;
    }
    // Each by itself may be proved a little closer than all together.
    if (breach.first >= 0.0) out.breaches.push_back(std::move(breach));
  }

  void look_at_tool() {
    const Tool tool = arm_.end_tool(options_.tool);
    double start = 0.0;
    double first = -1.0;
    Jacobian jacobian;
    JointState state;
    for (const CurvePiece& piece : motion_.pieces()) {
      constexpr int kSamples = 32;
      for (int i = 0; i <= kSamples; ++i) {
        const double time = std::min(start + piece.duration * i / kSamples, motion_.duration());
        motion_.at(time, state);
        tool_jacobian(arm_, tool, state.position, jacobian);
        const double speed = (jacobian.topRows<3>() * state.velocity).norm();
        if (speed > out.tool_speed) {
          out.tool_speed = speed;
          out.tool_speed_at = time;
        }
        if (speed > options_.tool_speed * (1.0 + kBound) && first < 0.0) first = time;
        const double ratio = conditioning(jacobian);
        if (ratio < out.conditioning) {
          out.conditioning = ratio;
          out.conditioning_at = time;
        }
      }
      start += piece.duration;
    }
    if (!std::isfinite(options_.tool_speed)) return;
    // Between the samples, too.
    const FastestFrame fastest =
        fastest_of(arm_, {.of = tool.name, .most = options_.tool_speed}, motion_);
    if (fastest.share <= 1.0 + kBound) return;
    if (first < 0.0) {
      first = out.tool_speed_at = fastest.time;
      out.tool_speed = fastest.share * options_.tool_speed;
    }
    out.breaches.push_back(
        {"speed of the tool", first, out.tool_speed_at,
         fmt::format("{:.1f} mm/s at {}, limit {:.1f} mm/s", to_mm(out.tool_speed),
                     text_time(out.tool_speed_at), to_mm(options_.tool_speed))});
  }

  void look_at_frame(const FrameSpeed& rule) {
    const FastestFrame fastest = fastest_of(arm_, rule, motion_);
    if (fastest.share <= 1.0 + kBound) return;
    double first = -1.0;
    double start = 0.0;
    for (const CurvePiece& piece : motion_.pieces()) {
      if (fastest_of(arm_, rule, Motion({piece})).share > 1.0 + kBound) {
        first = start;
        break;
      }
      start += piece.duration;
    }
    out.breaches.push_back(
        {rule.text(), std::max(first, 0.0), fastest.time,
         fmt::format("{:.1f} mm/s at {}, limit {:.1f} mm/s", to_mm(fastest.share * rule.most),
                     text_time(fastest.time), to_mm(rule.most))});
  }

  // Of the three rows of positions: the roots of the eigenvalues of J J^T.
  static double conditioning(const Jacobian& jacobian) {
    const Matrix3 square = jacobian.topRows<3>() * jacobian.topRows<3>().transpose();
    const Eigen::VectorXd values = symmetric_eigen(square).values;
    if (values[2] <= 0.0) return 0.0;
    return std::sqrt(std::max(values[0], 0.0) / values[2]);
  }

  const CellQuery& query_;
  const Arm& arm_;
  const Motion& motion_;
  const MotionAuditOptions& options_;
};

}  // namespace

MotionAudit audit_motion(const CellQuery& query, const Motion& motion,
                         const MotionAuditOptions& options) {
  return Audit(query, motion, options).out;
}

std::string MotionAudit::summary() const {
  if (passed())
    return fmt::format(
        "yes: may be run: {} in range, within limits of velocity{} acceleration{}, without jumps, "
        "and proved to keep {:.1f} mm",
        text_time(duration), jerk ? "," : " and", jerk ? " and jerk" : "", to_mm(clearance));
  const auto first = std::min_element(
      breaches.begin(), breaches.end(),
      [](const MotionBreach& a, const MotionBreach& b) { return a.first < b.first; });
  return fmt::format("no: must not be run: {}, {}{}", first->what, first->text,
                     breaches.size() == 1 ? "" : fmt::format("; and {} more", breaches.size() - 1));
}

std::string MotionAudit::report(const Arm& arm) const {
  std::string out;
  if (!breaches.empty()) {
    Table table({"<not kept", "first at", "most at", "<there"});
    for (const MotionBreach& one : breaches)
      table.row({one.what, text_time(one.first), text_time(one.worst), one.text});
    out += table.text();
  }
  if (!notes.empty())
    out += fmt::format(
        "  not counted: {}, {}{}\n", notes.front().what, notes.front().text,
        notes.size() == 1
            ? ""
            : fmt::format("; and {} more jerks and jumps of acceleration", notes.size() - 1));
  const auto use = [&](const char* what, const PeakUse& peak) {
    if (peak.joint < 0) return;
    out += fmt::format("{} {} {:.1f} % ({}, {})", out.ends_with(":") ? "" : ",", what,
                       100.0 * peak.share, arm.moving_joint(peak.joint).name, text_time(peak.time));
  };
  out += "  most used:";
  use("velocity", peaks.velocity);
  use("acceleration", peaks.acceleration);
  use("jerk", peaks.jerk);
  use("torque", torque);
  out += "\n";
  out += fmt::format(
      "  tool: {:.1f} mm/s at most, at {}; nearest to singular at {} (singular values {:.3f} : "
      "1)\n",
      to_mm(tool_speed), text_time(tool_speed_at), text_time(conditioning_at), conditioning);
  return out;
}

}  // namespace er
