#include "elbowroom/rehearse/check_certificate.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/model/cloud.hpp"
#include "elbowroom/model/mesh.hpp"
#include "elbowroom/rehearse/cell_parts.hpp"
#include "elbowroom/rehearse/drift.hpp"

namespace er {
namespace {

constexpr double kRounding = 1e-10;  // m; of poses and sums here
constexpr double kFalse = 1e-7;      // m; a distance claimed to be this much more is a false claim
// Stretches are cut no finer than this share of a line, however weak the evidence.
constexpr double kShortest = 1.0 / (1 << 26);

// The largest of direction . p over a shape, in its own frame.
double reach_along(const Shape& shape, const Vector3& direction) {
  const double across = std::hypot(direction.x(), direction.y());
  const double up = std::abs(direction.z());
  if (const auto* box = std::get_if<Box>(&shape)) return 0.5 * box->size.dot(direction.cwiseAbs());
  if (const auto* sphere = std::get_if<Sphere>(&shape)) return sphere->radius * direction.norm();
  if (const auto* one = std::get_if<Cylinder>(&shape))
    return 0.5 * one->length * up + one->radius * across;
  if (const auto* one = std::get_if<Capsule>(&shape))
    return 0.5 * one->length * up + one->radius * direction.norm();
  if (const auto* one = std::get_if<Cone>(&shape))
    return std::max(one->top * across + 0.5 * one->length * direction.z(),
                    one->radius * across - 0.5 * one->length * direction.z());
  double most = -std::numeric_limits<double>::infinity();
  if (std::holds_alternative<HalfSpace>(shape))
    return across > 1e-12 * up || direction.z() < 0.0 ? -most : 0.0;
  for (const Vector3& corner : std::get<Hull>(shape).data->corners)
    most = std::max(most, corner.dot(direction));
  return most;
}

// What a mesh or a cloud is made of, as points that are each the middle of a ball.
class Made {
 public:
  explicit Made(const Shape& shape)
      : mesh_(std::get_if<Mesh>(&shape)), cloud_(std::get_if<Cloud>(&shape)) {
    if (!is_many()) return;
    build(all());
  }

  [[nodiscard]] bool is_many() const { return mesh_ != nullptr || cloud_ != nullptr; }
  [[nodiscard]] bool is_solid() const { return mesh_ != nullptr && !mesh_->data->is_skin; }
  /// Nothing for a convex shape.
  [[nodiscard]] ElementRange all() const {
    if (mesh_ != nullptr) return {0, static_cast<int>(mesh_->data->faces.size())};
    if (cloud_ != nullptr) return {0, static_cast<int>(cloud_->data->points.size())};
    return {};
  }
  template <class Use>
  void for_each_point(const ElementRange& range, Use use) const {
    for (int i = range.begin; i < range.end; ++i) {
      if (cloud_ != nullptr) {
        use(cloud_->data->points[static_cast<std::size_t>(i)]);
      } else {
        for (const Vector3& corner : mesh_->data->triangle(i)) use(corner);
      }
    }
  }
  [[nodiscard]] double thickness() const {
    if (mesh_ != nullptr) return mesh_->data->thickness;
    return cloud_ != nullptr ? cloud_->data->radius : 0.0;
  }
  [[nodiscard]] double reach_along(const ElementRange& range, const Vector3& direction) const {
    double most = -std::numeric_limits<double>::infinity();
    for_each_point(range, [&](const Vector3& p) { most = std::max(most, p.dot(direction)); });
    return most + thickness() * direction.norm();
  }

  struct Ball {
    Vector3 middle;
    double radius;
  };
  /// About a range that halving gives.
  [[nodiscard]] Ball ball(const ElementRange& range) const {
    const auto known = balls_.find(range);
    return known != balls_.end() ? known->second : ball_of(range);
  }

  /// How often the surface winds about a point, by the solid angles of all triangles.
  [[nodiscard]] bool encloses(const Vector3& point) const {
    double angle = 0.0;
    for (int face = 0; face < all().end; ++face) {
      const auto corners = mesh_->data->triangle(face);
      const Vector3 a = (corners[0] - point).normalized();
      const Vector3 b = (corners[1] - point).normalized();
      const Vector3 c = (corners[2] - point).normalized();
      angle += 2.0 * std::atan2(a.dot(b.cross(c)), 1.0 + a.dot(b) + b.dot(c) + c.dot(a));
    }
    return std::abs(angle) > 2.0 * std::numbers::pi;
  }

 private:
  static constexpr int kFew = 16;

  [[nodiscard]] Ball ball_of(const ElementRange& range) const {
    Vector3 low = Vector3::Constant(std::numeric_limits<double>::infinity());
    Vector3 high = -low;
    for_each_point(range, [&](const Vector3& p) {
      low = low.cwiseMin(p);
      high = high.cwiseMax(p);
    });
    return {0.5 * (low + high), 0.5 * (high - low).norm() + thickness()};
  }
  void build(const ElementRange& range) {
    if (range.end - range.begin <= kFew) return;
    balls_[range] = ball_of(range);
    const int middle = range.begin + (range.end - range.begin) / 2;
    build({range.begin, middle});
    build({middle, range.end});
  }

  const Mesh* mesh_;
  const Cloud* cloud_;
  std::map<ElementRange, Ball> balls_;
};

// Where a link is: turns as quaternions.
struct Placed {
  Eigen::Quaterniond turn = Eigen::Quaterniond::Identity();
  Vector3 position = Vector3::Zero();
  [[nodiscard]] Vector3 operator*(const Vector3& p) const { return position + turn * p; }
};

Placed placed(const Pose& pose) { return {Eigen::Quaterniond(pose.rotation), pose.position}; }
Placed operator*(const Placed& a, const Placed& b) {
  return {(a.turn * b.turn).normalized(), a * b.position};
}

class Checker {
 public:
  Checker(const Cell& cell, const Arm& arm, const Certificate& certificate)
      : arm_(arm), certificate_(certificate), all_(parts_of(cell, arm)) {
    links_.resize(arm.links().size());
    for (const CellParts::Item& item : all_.items) {
      items_.push_back(placed(item.at));
      made_.emplace_back(item.shape);
    }
    gather_evidence();
  }

  Verdict<CheckedCertificate> run() {
    out_.stretches = static_cast<long>(certificate_.stretches.size());
    if (!claims_are_true() || !begins_outside()) return reason_;
    for (line_ = 0; line_ + 1 < certificate_.waypoints.size(); ++line_) {
      set_line();
      std::vector<Open> all;
      for (const auto& [a, b] : all_.pairs) all.push_back({a, b, made_[a].all(), made_[b].all()});
      if (!check(0.0, 1.0, all)) return reason_;
    }
    return out_;
  }

 private:
  struct Evidence {
    const Stretch* stretch;
    bool swapped;
    Vector3 normal;  ///< from b to a, in the frame of the link that carries both (or the world)
  };
  // Two items, or elements of theirs.
  struct Open {
    std::size_t a = 0;
    std::size_t b = 0;
    ElementRange of_a = {};
    ElementRange of_b = {};
    auto operator<=>(const Open&) const = default;
  };

  // By pair and line, in the order in which it comes.
  void gather_evidence() {
    std::map<std::pair<std::string, int>, std::size_t> item_of;
    for (std::size_t i = 0; i < all_.items.size(); ++i)
      item_of[{all_.items[i].body, all_.items[i].part}] = i;
    std::vector<std::size_t> item;
    constexpr auto kNone = static_cast<std::size_t>(-1);
    for (const PartName& name : certificate_.parts) {
      const auto found = item_of.find({name.body, name.part});
      item.push_back(found == item_of.end() ? kNone : found->second);
    }
    for (const Stretch& stretch : certificate_.stretches) {
      const auto in_range = [&](int part) {
        return part >= 0 && part < static_cast<int>(certificate_.parts.size());
      };
      if (!in_range(stretch.first) || !in_range(stretch.second) || stretch.line < 0 ||
          stretch.line + 1 >= static_cast<int>(certificate_.waypoints.size()) ||
          !stretch.normal.allFinite() || !(stretch.from < stretch.to))
        throw InputError("a stretch of the certificate makes no sense");
      const std::size_t a = item[static_cast<std::size_t>(stretch.first)];
      const std::size_t b = item[static_cast<std::size_t>(stretch.second)];
      if (a == kNone || b == kNone) continue;  // of what is not in this cell any more
      const Open open = a < b ? Open{a, b, stretch.first_elements, stretch.second_elements}
                              : Open{b, a, stretch.second_elements, stretch.first_elements};
      const auto are_known = [&](std::size_t i, const ElementRange& range) {
        const ElementRange all = made_[i].all();
        return all == range ||
               (0 <= range.begin && range.begin < range.end && range.end <= all.end);
      };
      // Of other shapes than there are now, it says nothing.
      if (!are_known(open.a, open.of_a) || !are_known(open.b, open.of_b)) continue;
      evidence_[{open, stretch.line}].push_back({&stretch, a > b, stretch.normal.normalized()});
    }
    for (auto& [key, list] : evidence_)
      std::sort(list.begin(), list.end(), [](const Evidence& x, const Evidence& y) {
        return x.stretch->from < y.stretch->from;
      });
  }

  // Calls `use` for the two, and all larger groups of their elements that halving comes by: what
  // holds of those holds of them. Ends when it returns false.
  template <class Use>
  void for_all_around(const Open& open, Use use) const {
    for (ElementRange of_a = made_[open.a].all();; of_a = half_towards(of_a, open.of_a)) {
      for (ElementRange of_b = made_[open.b].all();; of_b = half_towards(of_b, open.of_b)) {
        if (!use(Open{open.a, open.b, of_a, of_b})) return;
        if (of_b == open.of_b) break;
      }
      if (of_a == open.of_a) return;
    }
  }

  // A stretch that holds a share of the line; null when there is none.
  [[nodiscard]] const Evidence* evidence_at(const Open& open, double share) const {
    const Evidence* found = nullptr;
    for_all_around(open, [&](const Open& group) {
      found = evidence_about(group, share);
      return found == nullptr;
    });
    return found;
  }

  // How far apart they are by the balls about them.
  [[nodiscard]] double apart_by_balls(const Open& open) const {
    double most = -std::numeric_limits<double>::infinity();
    for_all_around(open, [&](const Open& group) {
      const Made::Ball a = ball_of(group.a, group.of_a);
      const Made::Ball b = ball_of(group.b, group.of_b);
      most = std::max(most, (a.middle - b.middle).norm() - a.radius - b.radius);
      return true;
    });
    return most;
  }

  [[nodiscard]] static ElementRange half_towards(const ElementRange& whole,
                                                 const ElementRange& part) {
    const int middle = whole.begin + (whole.end - whole.begin) / 2;
    return part.begin < middle ? ElementRange{whole.begin, middle}
                               : ElementRange{middle, whole.end};
  }
  [[nodiscard]] const Evidence* evidence_about(const Open& open, double share) const {
    const auto found = evidence_.find({open, static_cast<int>(line_)});
    if (found == evidence_.end()) return nullptr;
    const auto after =
        std::upper_bound(found->second.begin(), found->second.end(), share,
                         [](double at, const Evidence& e) { return at < e.stretch->from; });
    if (after == found->second.begin()) return nullptr;
    const Evidence& before = *std::prev(after);
    return share <= before.stretch->to ? &before : nullptr;
  }

  // In the middle of each stretch, its two parts are as far apart along its normal as it says. The
  // normal turns on with the link that carries both.
  bool claims_are_true() {
    for (auto& [key, list] : evidence_) {
      const auto& [open, line] = key;
      const double margin = all_.items[open.a].margin + all_.items[open.b].margin;
      line_ = static_cast<std::size_t>(line);
      set_line();
      for (Evidence& evidence : list) {
        const Stretch& stretch = *evidence.stretch;
        const double middle = 0.5 * (stretch.from + stretch.to);
        place(middle);
        const Vector3 way = evidence.swapped ? Vector3(-evidence.normal) : evidence.normal;
        evidence.normal = turn_of(shared_by(open)).conjugate() * way;
        const double apart = apart_by(evidence, open) - margin;
        if (!(stretch.distance <= apart + kFalse))
          return refuse("a distance in it is false", open, middle, stretch.distance, apart);
      }
    }
    return true;
  }

  // Nothing is inside of a solid mesh at the very beginning. What keeps off its surface from then
  // on never is.
  bool begins_outside() {
    line_ = 0;
    set_line();
    place(0.0);
    for (const auto& [a, b] : all_.pairs)
      for (const auto& [solid, other] : {std::pair(a, b), std::pair(b, a)})
        if (made_[solid].is_solid() && holds_some_of(solid, other))
          return refuse("one begins inside the other", {a, b}, 0.0, certificate_.clearance, 0.0);
    return true;
  }

  [[nodiscard]] bool holds_some_of(std::size_t solid, std::size_t other) const {
    const Made& surface = made_[solid];
    const Made::Ball ball = surface.ball(surface.all());
    const auto holds = [&](const Vector3& point) {
      const Vector3 seen =
          items_[solid].turn.conjugate() * (items_[other] * point - items_[solid].position);
      return (seen - ball.middle).norm() <= ball.radius && surface.encloses(seen);
    };
    if (std::holds_alternative<HalfSpace>(all_.items[other].shape)) return false;
    if (!made_[other].is_many()) {
      const auto* hull = std::get_if<Hull>(&all_.items[other].shape);
      return holds(hull != nullptr ? hull->data->corners.front() : Vector3(Vector3::Zero()));
    }
    bool any = false;
    made_[other].for_each_point(made_[other].all(),
                                [&](const Vector3& point) { any = any || holds(point); });
    return any;
  }

  void set_line() {
    start_ = certificate_.waypoints[line_];
    step_ = certificate_.waypoints[line_ + 1] - start_;
  }

  void place(double share) {
    const Posture q = start_ + share * step_;
    for (std::size_t l = 0; l < links_.size(); ++l) {
      const Link& link = arm_.links()[l];
      Placed at = link.parent_index < 0 ? placed(arm_.mount())
                                        : links_[static_cast<std::size_t>(link.parent_index)];
      at = at * placed(link.joint.origin);
      if (link.posture_index >= 0) {
        const double value = link.posture_ratio * q[link.posture_index] + link.posture_offset;
        if (link.joint.kind == JointKind::prismatic)
          at.position += at.turn * (value * link.joint.axis);
        else
          at.turn = at.turn * Eigen::Quaterniond(Eigen::AngleAxisd(value, link.joint.axis));
      }
      links_[l] = at;
    }
    for (std::size_t i = 0; i < items_.size(); ++i)
      if (all_.items[i].link >= 0)
        items_[i] = links_[static_cast<std::size_t>(all_.items[i].link)] * placed(all_.items[i].at);
  }

  // How far any point of an item moves at the most within `half` of its step.
  [[nodiscard]] double travel(std::size_t i, double half, int shared) const {
    const auto axis_at = [&](int l) {
      const Placed& at = links_[static_cast<std::size_t>(l)];
      return JointAxis{at.position, at.turn * arm_.links()[static_cast<std::size_t>(l)].joint.axis};
    };
    const CellParts::Item& item = all_.items[i];
    return drift_within(arm_, item.link, shared, step_, half, items_[i].position, item.radius,
                        axis_at)
        .travel;
  }

  [[nodiscard]] int shared_link(int a, int b) const {
    while (a != b) {
      int& later = a > b ? a : b;
      later = later < 0 ? -1 : arm_.links()[static_cast<std::size_t>(later)].parent_index;
    }
    return a;
  }

  // How far two items are apart, seen along a direction.
  [[nodiscard]] double apart_along(const Vector3& normal, const Open& open) const {
    const auto most = [&](std::size_t i, const ElementRange& of, const Vector3& way) {
      const Vector3 own = items_[i].turn.conjugate() * way;
      return way.dot(items_[i].position) + (made_[i].is_many()
                                                ? made_[i].reach_along(of, own)
                                                : reach_along(all_.items[i].shape, own));
    };
    return -most(open.a, open.of_a, -normal) - most(open.b, open.of_b, normal);
  }

  [[nodiscard]] double apart_by(const Evidence& evidence, const Open& open) const {
    return apart_along(turn_of(shared_by(open)) * evidence.normal, open);
  }

  // The link that carries both; -1 for the world.
  [[nodiscard]] int shared_by(const Open& open) const {
    const int a = all_.items[open.a].link;
    const int b = all_.items[open.b].link;
    return a < 0 || b < 0 ? -1 : shared_link(a, b);
  }
  [[nodiscard]] Eigen::Quaterniond turn_of(int link) const {
    return link < 0 ? Eigen::Quaterniond::Identity() : links_[static_cast<std::size_t>(link)].turn;
  }

  bool check(double from, double to, const std::vector<Open>& pairs) {
    const double middle = 0.5 * (from + to);
    place(middle);
    std::vector<Open> open;
    for (const Open& pair : pairs)
      if (!settle(pair, from, to, open)) return false;
    return open.empty() || (check(from, middle, open) && check(middle, to, open));
  }

  // What is not settled over a whole stretch is kept for its halves. False when it never will be.
  bool settle(const Open& pair, double from, double to, std::vector<Open>& open) {
    ++out_.looks;
    const double middle = 0.5 * (from + to);
    const double half = 0.5 * (to - from);
    const CellParts::Item& one = all_.items[pair.a];
    const CellParts::Item& other = all_.items[pair.b];
    const int shared = shared_by(pair);
    const double margin = one.margin + other.margin;
    const double travels = (one.link < 0 ? 0.0 : travel(pair.a, half, shared)) +
                           (other.link < 0 ? 0.0 : travel(pair.b, half, shared));
    const double keep = certificate_.clearance + margin + kRounding + travels;
    const double balls = apart_by_balls(pair);
    if (balls > keep) return true;
    const Evidence* evidence = evidence_at(pair, middle);
    const bool covers =
        evidence != nullptr && evidence->stretch->from <= from && evidence->stretch->to >= to;
    double along = -std::numeric_limits<double>::infinity();
    if (evidence != nullptr) along = apart_by(*evidence, pair);
    if (covers && along > keep) {
      note(pair, middle, along - keep);
      return true;
    }
    const int elements = std::max(size_of(pair.of_a), size_of(pair.of_b));
    if (evidence == nullptr && elements > 1) {
      // Where things move by more than they are large, look at less of the way first.
      const double size =
          std::max(ball_of(pair.a, pair.of_a).radius, ball_of(pair.b, pair.of_b).radius);
      if (travels > size && to - from > kShortest) {
        open.push_back(pair);
        return true;
      }
      return settle_halves(pair, from, to, open);
    }
    if (std::max(balls, along) - margin <= certificate_.clearance || to - from < kShortest)
      return refuse(evidence == nullptr ? "it has no evidence" : "its evidence is too weak", pair,
                    middle, certificate_.clearance, std::max(balls, along) - margin);
    open.push_back(pair);
    return true;
  }

  bool settle_halves(const Open& pair, double from, double to, std::vector<Open>& open) {
    Open left = pair;
    Open right = pair;
    const auto halve = [](ElementRange& of_left, ElementRange& of_right) {
      of_left.end = of_right.begin = of_left.begin + (of_left.end - of_left.begin) / 2;
    };
    if (size_of(pair.of_a) > size_of(pair.of_b)) {
      halve(left.of_a, right.of_a);
    } else {
      halve(left.of_b, right.of_b);
    }
    return settle(left, from, to, open) && settle(right, from, to, open);
  }

  static int size_of(const ElementRange& range) { return range.end - range.begin; }

  // In the world.
  [[nodiscard]] Made::Ball ball_of(std::size_t i, const ElementRange& of) const {
    if (!made_[i].is_many()) return {items_[i].position, all_.items[i].radius};
    const Made::Ball own = made_[i].ball(of);
    return {items_[i] * own.middle, own.radius};
  }

  void note(const Open& pair, double at, double left) {
    if (left >= out_.least_left) return;
    out_.least_left = left;
    out_.first = {all_.items[pair.a].body, all_.items[pair.a].part};
    out_.second = {all_.items[pair.b].body, all_.items[pair.b].part};
    out_.line = static_cast<int>(line_);
    out_.at = at;
  }

  bool refuse(const std::string& why, const Open& pair, double at, double wanted, double found) {
    reason_ = {
        Cause::not_proved,
        fmt::format("no: the certificate does not hold: {} for {} and {} at {:.2f} % of move "
                    "{}: {:.3f} mm apart by it, where {:.3f} mm is claimed",
                    why, all_.items[pair.a].body, all_.items[pair.b].body, 100.0 * at, line_ + 1,
                    to_mm(found), to_mm(wanted)),
        {{"line", static_cast<double>(line_), ""}, {"at", at, ""}, {"distance", found, "m"}}};
    return false;
  }

  const Arm& arm_;
  const Certificate& certificate_;
  CellParts all_;
  std::vector<Made> made_;                                          // of items
  std::map<std::pair<Open, int>, std::vector<Evidence>> evidence_;  // by lines
  std::vector<Placed> links_;
  std::vector<Placed> items_;
  CheckedCertificate out_;
  Reason reason_;
  std::size_t line_ = 0;
  Posture start_;
  Posture step_;
};

}  // namespace

Verdict<CheckedCertificate> check_certificate(const Cell& cell, const Arm& arm,
                                              const Certificate& certificate) {
  if (certificate.waypoints.size() < 2)
    throw InputError("a certificate has at least two waypoints");
  for (const Posture& waypoint : certificate.waypoints) {
    arm.check_posture(waypoint, "a waypoint of the certificate");
    if (!waypoint.allFinite()) throw InputError("a waypoint of the certificate is not finite");
  }
  for (std::size_t w = 0; w < certificate.waypoints.size(); ++w)
    if (const std::string breach = arm.limit_breach(certificate.waypoints[w]); !breach.empty())
      return Reason{Cause::beyond_limits, fmt::format("no: waypoint {}: {}", w + 1, breach)};
  if (!(certificate.clearance >= 0.0) || !std::isfinite(certificate.clearance))
    throw InputError("the clearance of a certificate must be zero or more");
  return Checker(cell, arm, certificate).run();
}

std::string CheckedCertificate::summary(const Certificate& certificate) const {
  std::string text = fmt::format(
      "yes: {} straight joint {} {} throughout, checked again from {} stretch{} of evidence",
      certificate.waypoints.size() - 1,
      certificate.waypoints.size() == 2 ? "move keeps" : "moves keep",
      text_length(certificate.clearance), stretches, stretches == 1 ? "" : "es");
  if (std::isfinite(least_left))
    text += fmt::format("; tightest: {} and {} at {:.0f} % of move {}", first.body, second.body,
                        100.0 * at, line + 1);
  return text;
}

}  // namespace er
