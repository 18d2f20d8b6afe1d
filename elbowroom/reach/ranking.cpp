#include "elbowroom/reach/ranking.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/symmetric.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/dynamics/gravity.hpp"

namespace er {
namespace {

constexpr double kRoomyClearance = 0.05;  // m; more than this costs nothing
constexpr double kDexterous = 0.1;        // m a radian; more than this costs nothing
constexpr double kMetresPerRadian = 0.3;  // what turning counts as beside moving

bool turns(const Arm& arm, int joint) {
  return arm.moving_joint(joint).kind == JointKind::revolute;
}

// The smallest singular value of the Jacobian of the target's first frame, turning scaled to
// metres: of the directions that the joints can make at all when there are fewer than six.
double weakest_direction(const TargetOnArm& target, const Posture& posture) {
  if (target.size() == 0) return 0.0;
  Jacobian jacobian;
  frame_jacobian(target.arm(), target[0].link, target[0].frame, posture, jacobian);
  jacobian.bottomRows<3>() *= kMetresPerRadian;
  const Eigen::MatrixXd square = jacobian.cols() < 6
                                     ? Eigen::MatrixXd(jacobian.transpose() * jacobian)
                                     : Eigen::MatrixXd(jacobian * jacobian.transpose());
  return std::sqrt(std::max(0.0, symmetric_eigen(square).values[0]));
}

void rate_load(const Arm& arm, const Posture& posture, ReachSolution& out) {
  const Posture load = gravity_load(arm, posture);
  for (int k = 0; k < arm.dof(); ++k) {
    const double share = std::abs(load[k]) / arm.limits().torque[k];
    if (share <= out.load_cost) continue;
    out.load_cost = share;
    out.load_joint = k;
  }
}

}  // namespace

Ranking::Ranking(const CellQuery& query, const TargetOnArm& target, const Posture& from)
    : query_(&query), target_(&target), from_(from) {
  const Arm& arm = query.arm();
  if (wishes().near.size() > 0) {
    arm.check_posture(wishes().near, "the posture that is wished to be near");
    from_ = wishes().near;
  }
  if (wishes().load > 0.0) {
    if (!states_masses(arm))
      throw InputError(
          fmt::format("a small load is wished for, but arm '{}' has links without a mass",
                      arm.name()),
          "give every link a mass, or leave the wish out");
    if (!arm.limits().torque.allFinite())
      throw InputError(
          fmt::format("a small load is wished for, but arm '{}' has joints without a torque limit",
                      arm.name()),
          "give every joint its torque, or leave the wish out");
  }
}

void Ranking::rate_room(const Posture& posture, PartPoses& parts, ReachSolution& out) const {
  const Wishes& w = wishes();
  const Against against{w.room_to_itself, w.room_to_surroundings};
  const auto cost = [](const Nearest& pair) {
    return std::clamp(1.0 - pair.distance / kRoomyClearance, 0.0, 1.0);
  };
  const bool all_counts = against.itself && against.surroundings;
  if (w.room_of_every_link) {
    std::vector<Nearest> links(query_->arm().links().size());
    query_->nearest_of_links(posture, parts, links, against);
    int measured = 0;
    for (const Nearest& pair : links) {
      if (pair.first < 0) continue;
      ++measured;
      out.room_cost += cost(pair);
      out.links_near += pair.distance < kRoomyClearance ? 1 : 0;
      if (pair.distance < out.room_pair.distance) out.room_pair = pair;
    }
    if (measured > 0) out.room_cost /= measured;
  } else {
    out.room_pair = query_->nearest(posture, parts, against);
    out.room_cost = cost(out.room_pair);
  }
  out.nearest = all_counts ? out.room_pair : query_->nearest(posture, parts);
}

// Travel, and how far from the limits: what a full turn more or less makes a difference to.
void Ranking::rate_turns(const Posture& posture, ReachSolution& out) const {
  const Arm& arm = query_->arm();
  const Limits& limits = arm.limits();
  for (int k = 0; k < arm.dof(); ++k) {
    const double turn = turns(arm, k) ? std::numbers::pi : 1.0;
    const double travel = std::abs(posture[k] - from_[k]);
    if (travel / turn > out.travel_cost) {
      out.travel_cost = travel / turn;
      out.travel = travel;
      out.travel_joint = k;
    }
    const double half = 0.5 * (limits.upper[k] - limits.lower[k]);
    const double middle = 0.5 * (limits.upper[k] + limits.lower[k]);
    if (!(half > 0.0) || !std::isfinite(half)) continue;
    const double cost = std::abs(posture[k] - middle) / half;
    if (cost > out.limit_cost || out.limit_joint < 0) {
      out.limit_cost = cost;
      out.limit_margin = half - std::abs(posture[k] - middle);
      out.limit_joint = k;
    }
  }
}

double Ranking::cost_of_turns(const Posture& posture) const {
  ReachSolution out;
  rate_turns(posture, out);
  return wishes().travel * out.travel_cost + wishes().limits * out.limit_cost;
}

ReachSolution Ranking::rate(const Posture& posture, const std::string& branch,
                            PartPoses& parts) const {
  ReachSolution s;
  s.posture = posture;
  s.branch = branch;
  const TargetOnArm::Error error = target_->error(posture);
  s.position_error = error.position;
  s.angle_error = error.angle;
  rate_room(posture, parts, s);
  rate_turns(posture, s);
  const Wishes& w = wishes();
  if (w.dexterity > 0.0) {
    s.weakest = weakest_direction(*target_, posture);
    s.dexterity_cost = std::clamp(1.0 - s.weakest / kDexterous, 0.0, 1.0);
  }
  if (w.load > 0.0) rate_load(query_->arm(), posture, s);
  if (!w.branch.empty() && !branch.starts_with(w.branch)) s.branch_cost = 1.0;
  s.total = w.travel * s.travel_cost + w.room * s.room_cost + w.limits * s.limit_cost +
            w.dexterity * s.dexterity_cost + w.load * s.load_cost + w.branch_cost * s.branch_cost;
  return s;
}

std::string comparison(const Arm& arm, const Wishes& w, const ReachSolution& better,
                       const ReachSolution& worse) {
  const auto joint = [&](int index, double value) {
    return index < 0 ? std::string("nothing")
                     : fmt::format("{} {}", arm.moving_joint(index).name,
                                   text_value(arm.moving_joint(index), value));
  };
  const auto room = [&](const ReachSolution& s) {
    if (w.room_of_every_link)
      return fmt::format("{} link{} within 50 mm", s.links_near, s.links_near == 1 ? "" : "s");
    return s.room_pair.first < 0 ? std::string("nothing near")
                                 : text_length(s.room_pair.distance) + " clear";
  };
  struct Item {
    const char* name;
    double by;  // how much less the better one costs
    std::string figures;
  };
  const std::vector<Item> items{
      {"travel", w.travel * (worse.travel_cost - better.travel_cost),
       fmt::format("{}, not {}", joint(better.travel_joint, better.travel),
                   joint(worse.travel_joint, worse.travel))},
      {"room", w.room * (worse.room_cost - better.room_cost),
       fmt::format("{}, not {}", room(better), room(worse))},
      {"limits", w.limits * (worse.limit_cost - better.limit_cost),
       fmt::format("{} from its end, not {}", joint(better.limit_joint, better.limit_margin),
                   joint(worse.limit_joint, worse.limit_margin))},
      {"dexterity", w.dexterity * (worse.dexterity_cost - better.dexterity_cost),
       fmt::format("{:.0f} mm a radian, not {:.0f}", to_mm(better.weakest), to_mm(worse.weakest))},
      {"load", w.load * (worse.load_cost - better.load_cost),
       fmt::format("{:.0f} % of a motor, not {:.0f} %", 100.0 * better.load_cost,
                   100.0 * worse.load_cost)},
      {"branch", w.branch_cost * (worse.branch_cost - better.branch_cost),
       fmt::format("{}, not {}", better.branch, worse.branch)}};
  std::string out = fmt::format("cost {:.2f}, not {:.2f}:", better.cost(), worse.cost());
  int said = 0;
  for (const double sense : {1.0, -1.0})  // what speaks for it first
    for (const Item& item : items)
      if (sense * item.by >= 0.005) {
        // Two parts to a line.
        const char* before = said == 0 ? " " : said % 2 == 0 ? ",\n      " : ", ";
        out += fmt::format("{}{} {:.2f} {} ({})", before, item.name, std::abs(item.by),
                           sense > 0.0 ? "less" : "more", item.figures);
        ++said;
      }
  return said == 0 ? out + " all parts nearly the same" : out;
}

}  // namespace er
