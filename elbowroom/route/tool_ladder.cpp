#include "elbowroom/route/tool_ladder.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/spline.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/model/posture_text.hpp"
#include "elbowroom/reach/numeric.hpp"
#include "elbowroom/reach/reach.hpp"
#include "elbowroom/reach/screw_chain.hpp"

namespace er {
namespace {

constexpr double kNever = std::numeric_limits<double>::infinity();
constexpr int kFewestRungs = 24;
constexpr int kMostRungs = 200;
constexpr double kRungWay = 0.01;         // m of the tip from rung to rung
constexpr double kRungTurn = 0.1;         // rad of the tool
constexpr double kLongestStep = 0.35;     // rad or m of a joint from rung to rung
constexpr double kOffsetSeconds = 0.002;  // s that turning the tool by one step of the grid counts
constexpr int kLeanWays = 6;              // leaning: this many ways round
constexpr double kNearShare = 0.2;        // of the time to get to a start, beside the path's own
constexpr int kMostProofs = 40;
constexpr double kAtStart = 1e-4;          // m and rad that a start may be off the path
constexpr double kOtherStart = 0.6;        // rad or m of a joint: well apart from another start
constexpr double kOtherEnd = 0.3;          // the same of ends
constexpr int kSmoothings[] = {60, 8, 0};  // rounds: fewer where evened-out turns leave the ranges

}  // namespace

ToolLadder::ToolLadder(const CellQuery& query, const std::string& tool, const ToolPath& path,
                       const ToolFreedom& freedom, const ToolCurveOptions& options)
    : query_(query),
      tool_(query.arm().end_tool(tool)),
      path_(path),
      freedom_(freedom),
      options_(options),
      postures_(query.arm(), tool_, query.arm().home_or_zero()),
      checker_(query) {
  if (!(freedom.tilt >= 0.0) || freedom.tilt > 1.0)
    throw InputError(fmt::format("a tool may lean by 0 to {} along a path, found {}",
                                 text_angle(1.0), text_angle(freedom.tilt)));
  if (freedom.turn.lower > freedom.turn.upper || freedom.turns < 4)
    throw InputError("what a tool may be turned along a path is a band of angles");
  make_offsets();
  double way = 0.0;
  double turn = 0.0;
  constexpr int kLooks = 256;
  for (int i = 0; i < kLooks; ++i) {
    const Twist step = twist_between(path_.at(path_.end() * i / kLooks),
                                     path_.at(path_.end() * (i + 1) / kLooks), 1.0);
    way += step.velocity.norm();
    turn += step.turning.norm();
  }
  const double wanted = std::ceil(std::max(way / kRungWay, turn / kRungTurn));
  const int steps = std::clamp(static_cast<int>(std::min(wanted, 1e6)), kFewestRungs, kMostRungs);
  rungs_.resize(static_cast<std::size_t>(steps) + 1);
  if (!postures_.can()) return;  // made when it is known where to begin
  for (std::size_t i = 0; i < rungs_.size(); ++i) make_rung(i);
  work_out(rungs_.size() - 1);
}

std::size_t ToolLadder::postures() const {
  std::size_t count = 0;
  for (const Rung& rung : rungs_) count += rung.nodes.size();
  return count;
}

double ToolLadder::parameter(std::size_t rung) const {
  return path_.end() * static_cast<double>(rung) / static_cast<double>(rungs_.size() - 1);
}

Pose ToolLadder::pose(double at, const Offset& offset) const {
  Pose out = path_.at(at);
  out.rotation = product(out.rotation, rotation_offset(offset.lean_x, offset.lean_y, offset.turn));
  return out;
}

// A grid of turns, for each way to lean.
void ToolLadder::make_offsets() {
  const bool round = freedom_.turn.upper - freedom_.turn.lower >= kTurn - 1e-9;
  const double from = round ? -std::numbers::pi : freedom_.turn.lower;
  const double to = round ? std::numbers::pi : freedom_.turn.upper;
  const int steps =
      freedom_.turn.is_exact()
          ? 0
          : std::max(2, static_cast<int>(std::ceil(freedom_.turns * (to - from) / kTurn)));
  const int count = round ? steps : steps + 1;
  std::vector<std::pair<double, double>> leans{{0.0, 0.0}};
  for (int i = 0; freedom_.tilt > 0.0 && i < kLeanWays; ++i) {
    const double way = kTurn * i / kLeanWays;
    leans.emplace_back(freedom_.tilt * std::cos(way), freedom_.tilt * std::sin(way));
  }
  for (std::size_t lean = 0; lean < leans.size(); ++lean)
    for (int i = 0; i < count; ++i)
      offsets_.push_back({leans[lean].first, leans[lean].second,
                          steps == 0 ? from : from + (to - from) * i / steps});
  const auto turns = static_cast<std::size_t>(count);
  for (std::size_t a = 0; a < offsets_.size(); ++a) {
    std::vector<int>& near = neighbours_.emplace_back();
    for (std::size_t b = 0; b < offsets_.size(); ++b) {
      const auto apart = a % turns > b % turns ? a % turns - b % turns : b % turns - a % turns;
      const bool turned = apart <= 1 || (round && apart == turns - 1);
      const double lean = std::hypot(offsets_[a].lean_x - offsets_[b].lean_x,
                                     offsets_[a].lean_y - offsets_[b].lean_y);
      if (turned && lean <= 1.01 * freedom_.tilt) near.push_back(static_cast<int>(b));
    }
  }
}

void ToolLadder::add_rung(Rung& rung, const std::vector<std::pair<int, Posture>>& postures) const {
  rung.nodes.clear();
  rung.of_offset.assign(offsets_.size() + 1, 0);
  std::size_t offset = 0;
  for (const auto& [number, posture] : postures) {
    for (; offset <= static_cast<std::size_t>(number); ++offset)
      rung.of_offset[offset] = rung.nodes.size();
    rung.nodes.push_back({posture, number});
  }
  for (; offset < rung.of_offset.size(); ++offset) rung.of_offset[offset] = rung.nodes.size();
}

void ToolLadder::make_rung(std::size_t number) {
  std::vector<std::pair<int, Posture>> all;
  std::vector<Posture> some;
  for (std::size_t offset = 0; offset < offsets_.size(); ++offset) {
    some.clear();
    postures_.at(pose(parameter(number), offsets_[offset]), some);
    for (Posture& posture : some) all.emplace_back(static_cast<int>(offset), std::move(posture));
  }
  add_rung(rungs_[number], all);
}

// An arm without a closed form: from postures at the beginning, each turn is followed by numeric
// solves, so families that begin later are not found.
void ToolLadder::make_rungs_by_steps(const Posture& start) {
  std::vector<std::pair<int, Posture>> here;
  for (std::size_t offset = 0; offset < offsets_.size(); ++offset) {
    Target first;
    first.place(tool_.name, pose(0.0, offsets_[offset])).within(1e-9, 1e-9);
    const auto reached =
        reach(query_, first, {.from = start, .find_remedies = false, .rate_refused = false});
    if (!reached) continue;
    for (const ReachSolution& one : reached->solutions)
      here.emplace_back(static_cast<int>(offset), one.posture);
  }
  add_rung(rungs_[0], here);
  for (std::size_t i = 1; i < rungs_.size(); ++i) {
    std::vector<std::pair<int, Posture>> next;
    for (const auto& [offset, posture] : here) {
      Target target;
      target.place(tool_.name, pose(parameter(i), offsets_[static_cast<std::size_t>(offset)]))
          .within(1e-9, 1e-9);
      const NumericSolve solve = solve_from(query_.arm(), target, posture);
      if (solve.met && (solve.posture - posture).cwiseAbs().maxCoeff() <= kLongestStep)
        next.emplace_back(offset, solve.posture);
    }
    add_rung(rungs_[i], next);
    here = std::move(next);
  }
  work_out(rungs_.size() - 1);
}

double ToolLadder::step_time(const Posture& a, const Posture& b) const {
  const Limits& limits = query_.arm().limits();
  double time = 0.0;
  for (Eigen::Index k = 0; k < a.size(); ++k) {
    const double step = b[k] - a[k];
    if (std::abs(step) > kLongestStep) return kNever;
    time = std::max(time, limits.velocity_of(k).share_of(step));
  }
  return time;
}

// The best way on from a node.
bool ToolLadder::join(Node& node, const Rung& next) const {
  node.to_end = kNever;
  node.next = -1;
  if (node.blocked) return false;
  for (const int offset : neighbours_[static_cast<std::size_t>(node.offset)]) {
    const double turning = offset == node.offset ? 0.0 : kOffsetSeconds;
    const auto at = static_cast<std::size_t>(offset);
    for (std::size_t i = next.of_offset[at]; i < next.of_offset[at + 1]; ++i) {
      const Node& other = next.nodes[i];
      if (other.to_end + turning >= node.to_end) continue;
      const double time = other.to_end + turning + step_time(node.posture, other.posture);
      if (time >= node.to_end) continue;
      node.to_end = time;
      node.next = static_cast<int>(i);
    }
  }
  return node.next >= 0;
}

// From a rung back to the first one.
void ToolLadder::work_out(std::size_t from) {
  for (std::size_t number = from + 1; number-- > 0;) {
    for (Node& node : rungs_[number].nodes) {
      if (number + 1 == rungs_.size())
        node.to_end = node.blocked ? kNever : 0.0;
      else
        join(node, rungs_[number + 1]);
    }
  }
}

// Which postures of a rung are free.
void ToolLadder::look_at(std::size_t number) {
  Rung& rung = rungs_[number];
  if (rung.looked_at) return;
  rung.looked_at = true;
  std::vector<Posture> all;
  for (const Node& node : rung.nodes) all.push_back(node.posture);
  const auto free = std::make_unique<bool[]>(all.size());
  checker_.check(all, options_.clearance, {free.get(), all.size()});
  for (std::size_t i = 0; i < all.size(); ++i)
    rung.nodes[i].blocked = rung.nodes[i].blocked || !free[i];
}

// The offset that a start has, as a node beside the first rung.
std::optional<ToolLadder::Node> ToolLadder::node_of(const Posture& start) const {
  const Pose wanted = path_.at(0.0);
  const Pose tip = tool_pose(query_.arm(), tool_, start);
  int best = -1;
  double least = kNever;
  for (std::size_t i = 0; i < offsets_.size(); ++i) {
    const Twist off = twist_between(pose(0.0, offsets_[i]), tip, 1.0);
    if (off.turning.norm() < least) {
      least = off.turning.norm();
      best = static_cast<int>(i);
    }
  }
  const double grid = freedom_.is_none() ? 0.0 : kTurn / freedom_.turns;
  if ((tip.position - wanted.position).norm() > kAtStart ||
      least > std::max(kAtStart, freedom_.tilt + 0.5 * grid + 1e-6))
    return std::nullopt;
  return Node{start, best};
}

// What getting there takes counts for less than the path itself: it can be done any way.
double ToolLadder::cost_near(const Node& node, const Posture& near) const {
  const Posture times = query_.arm().limits().least_times(near, node.posture);
  return node.to_end + kNearShare * (times.maxCoeff() + 0.1 * times.sum());
}

// Null where nothing leads to the end.
const ToolLadder::Node* ToolLadder::best_start(const Posture& near) const {
  const Node* best = nullptr;
  for (const Node& node : rungs_.front().nodes)
    if (node.to_end < kNever && (best == nullptr || cost_near(node, near) < cost_near(*best, near)))
      best = &node;
  return best;
}

// The way from a start to the end, all of whose nodes are free.
Verdict<std::vector<ToolLadder::Node>> ToolLadder::way_from(Node start) {
  for (;;) {
    if (rungs_.size() > 1 && !join(start, rungs_[1])) return how_far(start);
    std::vector<Node> way{start};
    std::size_t blocked = 0;
    for (std::size_t number = 1; number < rungs_.size(); ++number) {
      const auto at = static_cast<std::size_t>(way.back().next);
      if (!rungs_[number].looked_at) look_at(number);
      const Node& node = rungs_[number].nodes[at];
      if (node.blocked) {
        blocked = number;
        break;
      }
      way.push_back(node);
    }
    if (blocked == 0) return way;
    work_out(blocked);
  }
}

Verdict<ToolCurve> ToolLadder::curve(const Posture* start, const Posture& near) {
  query_.arm().check_posture(near, "the start of the path");
  if (!postures_.can() && rungs_.front().nodes.empty()) make_rungs_by_steps(near);
  std::optional<Node> from;
  if (start != nullptr) {
    from = node_of(*start);
    if (!from) throw InputError(fmt::format("the tool does not begin on the {}", path_.kind()));
  }
  std::optional<Reason> last;
  for (int proof = 0; proof < kMostProofs; ++proof) {
    if (start == nullptr) {
      look_at(0);
      work_out(0);
      const Node* best = best_start(near);
      if (best == nullptr) return last ? *last : how_far(std::nullopt);
      from = *best;
    }
    const auto way = way_from(*from);
    if (!way) {
      if (start != nullptr) return last ? *last : way.reason();
      continue;  // the first rung was worked out anew, where nothing leads from that start any more
    }
    double blocked_at = -1.0;
    auto curve = curve_of(*way, blocked_at);
    if (curve || blocked_at < 0.0) return curve;
    last = curve.reason();
    // Not there, then, nor beside it.
    const auto number = static_cast<std::size_t>(
        std::lround(blocked_at / path_.end() * static_cast<double>(rungs_.size() - 1)));
    if (number == 0 && start != nullptr) return curve;
    const Node& node = (*way)[number];
    for (Node& other : rungs_[number].nodes)
      if ((other.posture - node.posture).cwiseAbs().maxCoeff() < 0.1) other.blocked = true;
    work_out(number);
  }
  return *last;
}

namespace {

// The share of the path that a no says can be followed; below zero where it says none.
double followed(const Reason& reason) {
  for (const Figure& figure : reason.figures)
    if (figure.name == "followed") return figure.value;
  return -1.0;
}

// Evened out, the ends staying where they are.
std::vector<Posture> smooth(std::vector<Posture> offsets, int rounds) {
  for (int round = 0; round < rounds; ++round) {
    std::vector<Posture> next = offsets;
    for (std::size_t i = 1; i + 1 < offsets.size(); ++i)
      next[i] = 0.25 * offsets[i - 1] + 0.5 * offsets[i] + 0.25 * offsets[i + 1];
    offsets = std::move(next);
  }
  return offsets;
}

// What rotation_offset was made of.
Posture offset_of(const Matrix3& rotation) {
  const Vector3 leaning = Vector3::UnitZ().cross(Vector3(rotation.col(2)));
  const double sine = leaning.norm();
  const double lean = std::atan2(sine, rotation(2, 2));
  const Vector3 axis = sine > 1e-12 ? Vector3(leaning / sine) : Vector3::Zero();
  const Matrix3 turned =
      rotation_offset(lean * axis.x(), lean * axis.y(), 0.0).transpose() * rotation;
  Posture out = Posture::Zero(3);
  out << lean * axis.x(), lean * axis.y(), std::atan2(turned(1, 0), turned(0, 0));
  return out;
}

}  // namespace

// With joints to spare, proved: as the joints move least where that was not tried before, or near
// to straight lines through as few of the way's postures as it takes.
Verdict<ToolCurve> ToolLadder::spared_curve(const std::vector<Node>& way,
                                            const ToolPath& path) const {
  const auto proved = [&](const JointCurve* near) {
    auto curve = curve_along(query_.arm(), way.front().posture, tool_.name, path, options_, near);
    return curve ? proved_free(query_, std::move(curve).value()) : curve;
  };
  Verdict<ToolCurve> curve = Reason{Cause::off_line, "no: the joints that move least do not do"};
  if (!freedom_.is_none()) curve = proved(nullptr);
  const std::size_t last = way.size() - 1;
  for (std::size_t step = last; step >= 1 && !curve; step /= 2) {
    std::vector<Posture> postures;
    std::vector<double> times;
    for (std::size_t i = 0; i < last; i += step) {
      postures.push_back(way[i].posture);
      times.push_back(parameter(i));
    }
    postures.push_back(way[last].posture);
    times.push_back(parameter(last));
    const JointCurve near = spline_through(postures, times);
    curve = proved(&near);
  }
  return curve;
}

// The curve along a way: offsets evened out, followed exactly, measured and proved.
Verdict<ToolCurve> ToolLadder::curve_of(const std::vector<Node>& way, double& blocked_at) const {
  const Arm& arm = query_.arm();
  const Posture& begin = way.front().posture;
  // It begins as the arm stands, which need not be on the grid.
  std::vector<Posture> offsets{
      offset_of(path_.at(0.0).rotation.transpose() * tool_pose(arm, tool_, begin).rotation)};
  std::vector<double> times{0.0};
  for (std::size_t i = 1; i < way.size(); ++i) {
    const Offset& offset = offsets_[static_cast<std::size_t>(way[i].offset)];
    const double before = offsets.back()[2];
    Posture value = Posture::Zero(3);
    value << offset.lean_x, offset.lean_y, before + std::remainder(offset.turn - before, kTurn);
    offsets.push_back(value);
    times.push_back(parameter(i));
  }
  const bool to_spare = has_joints_to_spare(arm, tool_);
  const auto along = [&](int rounds) {
    const ToolPath path =
        freedom_.is_none() && freedom_.turn.lower == 0.0
            ? path_
            : ToolPath(ToolFreed(path_, spline_through(smooth(offsets, rounds), times)));
    return to_spare ? spared_curve(way, path) : curve_along(arm, begin, tool_.name, path, options_);
  };
  auto curve = along(kSmoothings[0]);
  for (std::size_t i = 1; !curve && !freedom_.is_none() && i < std::size(kSmoothings); ++i)
    curve = along(kSmoothings[i]);
  if (!curve && !to_spare) return curve;
  if (!to_spare) curve = proved_free(query_, std::move(curve).value());
  if (!curve) blocked_at = followed(curve.reason()) * path_.end();
  return curve;
}

// The furthest that any way gets, and what is there.
Reason ToolLadder::how_far(const std::optional<Node>& start) const {
  // Forwards, over what is free as far as it was looked at.
  std::size_t last = 0;
  Posture at = start ? start->posture : query_.arm().home_or_zero();
  std::vector<Node> here;
  if (start)
    here.push_back(*start);
  else
    for (const Node& node : rungs_.front().nodes)
      if (!node.blocked) here.push_back(node);
  bool blocked = here.empty() && !rungs_.front().nodes.empty();
  if (blocked) at = rungs_.front().nodes.front().posture;
  for (std::size_t number = 1; number < rungs_.size() && !here.empty(); ++number) {
    at = here.front().posture;
    std::vector<Node> next;
    blocked = false;  // at the rung that ends it
    for (const Node& other : rungs_[number].nodes) {
      const bool joins = std::any_of(here.begin(), here.end(), [&](const Node& node) {
        const std::vector<int>& near = neighbours_[static_cast<std::size_t>(node.offset)];
        return std::find(near.begin(), near.end(), other.offset) != near.end() &&
               step_time(node.posture, other.posture) < kNever;
      });
      if (!joins) continue;
      if (other.blocked) {
        blocked = true;
        at = other.posture;
      } else {
        next.push_back(other);
      }
    }
    here = std::move(next);
    if (!here.empty()) last = number;
  }
  std::string why;
  if (rungs_.front().nodes.empty()) {
    why = "no posture within the joint ranges is at its beginning";
  } else if (blocked) {
    why = "every posture is too near something";
    if (const std::string fault = query_.fault_of(at, options_.clearance); !fault.empty())
      why += ", such as " + fault;
  } else {
    why = end_of_branch(query_.arm(), at);
  }
  return cut_short(path_, parameter(last), why);
}

void ToolLadder::leave_out_end(const Posture& end, double apart) {
  for (Node& node : rungs_.back().nodes)
    if ((node.posture - end).cwiseAbs().maxCoeff() < apart) node.blocked = true;
  work_out(rungs_.size() - 1);
}

std::vector<Posture> ToolLadder::starts(const Posture& near, std::size_t most) {
  if (!postures_.can() && rungs_.front().nodes.empty()) make_rungs_by_steps(near);
  look_at(0);
  work_out(0);
  std::vector<const Node*> order;
  for (const Node& node : rungs_.front().nodes)
    if (node.to_end < kNever) order.push_back(&node);
  std::stable_sort(order.begin(), order.end(), [&](const Node* a, const Node* b) {
    return cost_near(*a, near) < cost_near(*b, near);
  });
  std::vector<Posture> out;
  for (const Node* node : order) {
    const bool known = std::any_of(out.begin(), out.end(), [&](const Posture& other) {
      return (other - node->posture).cwiseAbs().maxCoeff() < kOtherStart;
    });
    if (known) continue;
    out.push_back(node->posture);
    if (out.size() == most) break;
  }
  return out;
}

bool has_joints_to_spare(const Arm& arm, const Tool& tool) {
  const auto chain = screw_chain(arm, tool);
  return chain && chain->size() > 6;
}

Verdict<ToolCurve> follow_freely(const CellQuery& query, const std::string& tool,
                                 const ToolPath& path, const ToolFreedom& freedom,
                                 const Posture& start, const ToolCurveOptions& options) {
  if (freedom.is_none() && freedom.turn.lower == 0.0) {
    auto curve = follow_tool_path(query, start, tool, path, options);
    if (curve || !has_joints_to_spare(query.arm(), query.arm().end_tool(tool))) return curve;
    auto spared = ToolLadder(query, tool, path, freedom, options).curve_from(start);
    return spared || followed(spared.reason()) > followed(curve.reason()) ? spared : curve;
  }
  return ToolLadder(query, tool, path, freedom, options).curve_from(start);
}

Verdict<std::vector<ToolCurve>> follow_freely_to_ends(const CellQuery& query,
                                                      const std::string& tool, const ToolPath& path,
                                                      const ToolFreedom& freedom,
                                                      const Posture& start, std::size_t most,
                                                      const ToolCurveOptions& options) {
  std::vector<ToolCurve> out;
  ToolLadder ladder(query, tool, path, freedom, options);
  while (out.size() < most) {
    auto curve = ladder.curve_from(start);
    if (!curve && out.empty()) return curve.reason();
    if (!curve) break;
    out.push_back(std::move(curve).value());
    if (out.size() < most)
      ladder.leave_out_end(out.back().curve.at(out.back().curve.duration()).position, kOtherEnd);
  }
  return out;
}

std::vector<Remedy> ways_to_do_whole(const CellQuery& query, const std::string& tool,
                                     const ToolPath& path, const Posture& start,
                                     const ToolCurveOptions& options) {
  std::vector<Remedy> out;
  const Arm& arm = query.arm();
  if (const auto curve = ToolLadder(query, tool, path, {}, options).curve_near(start))
    out.push_back({fmt::format("begin in posture \"{}\"",
                               posture_argument(arm, curve->curve.at(0.0).position))});
  if (ToolLadder(query, tool, path, {.turn = Band::free()}, options).curve_from(start))
    out.push_back({"leave the turn about the tool's axis open along the way"});
  return out;
}

}  // namespace er
