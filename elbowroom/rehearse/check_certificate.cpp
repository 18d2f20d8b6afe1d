#include "elbowroom/rehearse/check_certificate.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <map>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/rehearse/cell_parts.hpp"

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
  double most = -std::numeric_limits<double>::infinity();
  for (const Vector3& corner : std::get<Hull>(shape).data->corners)
    most = std::max(most, corner.dot(direction));
  return most;
}

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
    for (const CellParts::Item& item : all_.items) items_.push_back(placed(item.at));
    gather_evidence();
  }

  Verdict<CheckedCertificate> run() {
    out_.stretches = static_cast<long>(certificate_.stretches.size());
    if (!claims_are_true()) return reason_;
    for (line_ = 0; line_ + 1 < certificate_.waypoints.size(); ++line_) {
      set_line();
      std::vector<std::size_t> all(all_.pairs.size());
      for (std::size_t p = 0; p < all.size(); ++p) all[p] = p;
      if (!check(0.0, 1.0, all)) return reason_;
    }
    return out_;
  }

 private:
  struct Evidence {
    const Stretch* stretch;
    bool swapped;
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
      evidence_[{std::min(a, b), std::max(a, b), stretch.line}].push_back({&stretch, a > b});
    }
    for (auto& [key, list] : evidence_)
      std::sort(list.begin(), list.end(), [](const Evidence& x, const Evidence& y) {
        return x.stretch->from < y.stretch->from;
      });
  }

  // The stretch that holds a share of the line; null when there is none.
  [[nodiscard]] const Evidence* evidence_at(std::size_t pair, double share) const {
    const auto [a, b] = all_.pairs[pair];
    const auto found = evidence_.find({a, b, static_cast<int>(line_)});
    if (found == evidence_.end()) return nullptr;
    const auto after =
        std::upper_bound(found->second.begin(), found->second.end(), share,
                         [](double at, const Evidence& e) { return at < e.stretch->from; });
    if (after == found->second.begin()) return nullptr;
    const Evidence& before = *std::prev(after);
    return share <= before.stretch->to ? &before : nullptr;
  }

  // In the middle of each stretch, its two parts are as far apart along its normal as it says.
  bool claims_are_true() {
    for (std::size_t pair = 0; pair < all_.pairs.size(); ++pair) {
      const auto [a, b] = all_.pairs[pair];
      const double margin = all_.items[a].margin + all_.items[b].margin;
      for (line_ = 0; line_ + 1 < certificate_.waypoints.size(); ++line_) {
        const auto found = evidence_.find({a, b, static_cast<int>(line_)});
        if (found == evidence_.end()) continue;
        set_line();
        for (const Evidence& evidence : found->second) {
          const Stretch& stretch = *evidence.stretch;
          const double middle = 0.5 * (stretch.from + stretch.to);
          place(middle);
          const double apart = apart_by(evidence, a, b) - margin;
          if (!(stretch.distance <= apart + kFalse))
            return refuse("a distance in it is false", pair, middle, stretch.distance, apart);
        }
      }
    }
    return true;
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

  // How far any point of an item moves at the most while each joint goes by at most `half` of its
  // step, beyond what the link `shared` does. Joints are taken one at a time, from the tip down:
  // each turns what is then within its distance in the middle and what those before have added.
  [[nodiscard]] double travel(std::size_t i, double half, int shared) const {
    const CellParts::Item& item = all_.items[i];
    double moved = 0.0;
    for (int l = item.link; l != shared;
         l = arm_.links()[static_cast<std::size_t>(l)].parent_index) {
      const Link& link = arm_.links()[static_cast<std::size_t>(l)];
      if (link.posture_index < 0) continue;
      const double by = half * std::abs(link.posture_ratio * step_[link.posture_index]);
      if (link.joint.kind == JointKind::prismatic) {
        moved += by;
        continue;
      }
      const Placed& at = links_[static_cast<std::size_t>(l)];
      const Vector3 axis = at.turn * link.joint.axis;
      const double away = axis.cross(items_[i].position - at.position).norm() + item.radius;
      moved += by * (away + moved);
    }
    return moved;
  }

  [[nodiscard]] int shared_link(int a, int b) const {
    while (a != b) {
      int& later = a > b ? a : b;
      later = later < 0 ? -1 : arm_.links()[static_cast<std::size_t>(later)].parent_index;
    }
    return a;
  }

  // How far two items are apart, seen along a direction.
  [[nodiscard]] double apart_along(const Vector3& normal, std::size_t a, std::size_t b) const {
    const auto most = [&](std::size_t i, const Vector3& way) {
      return way.dot(items_[i].position) +
             reach_along(all_.items[i].shape, items_[i].turn.conjugate() * way);
    };
    return -most(a, -normal) - most(b, normal);
  }

  [[nodiscard]] double apart_by(const Evidence& evidence, std::size_t a, std::size_t b) const {
    const Vector3 normal = evidence.stretch->normal.normalized();
    return apart_along(evidence.swapped ? Vector3(-normal) : normal, a, b);
  }

  bool check(double from, double to, const std::vector<std::size_t>& pairs) {
    const double middle = 0.5 * (from + to);
    const double half = 0.5 * (to - from);
    place(middle);
    std::vector<std::size_t> open;
    for (const std::size_t pair : pairs) {
      ++out_.looks;
      const auto [a, b] = all_.pairs[pair];
      const CellParts::Item& one = all_.items[a];
      const CellParts::Item& other = all_.items[b];
      const int shared = one.link < 0 || other.link < 0 ? -1 : shared_link(one.link, other.link);
      const double margin = one.margin + other.margin;
      const double keep = certificate_.clearance + margin + kRounding +
                          (one.link < 0 ? 0.0 : travel(a, half, shared)) +
                          (other.link < 0 ? 0.0 : travel(b, half, shared));
      const double balls =
          (items_[a].position - items_[b].position).norm() - one.radius - other.radius;
      if (balls > keep) continue;
      const Evidence* evidence = evidence_at(pair, middle);
      const bool covers =
          evidence != nullptr && evidence->stretch->from <= from && evidence->stretch->to >= to;
      double along = -std::numeric_limits<double>::infinity();
      if (evidence != nullptr) along = apart_by(*evidence, a, b);
      if (covers && along > keep) {
        note(pair, middle, along - keep);
        continue;
      }
      if (std::max(balls, along) - margin <= certificate_.clearance || to - from < kShortest)
        return refuse(evidence == nullptr ? "it has no evidence" : "its evidence is too weak", pair,
                      middle, certificate_.clearance, std::max(balls, along) - margin);
      open.push_back(pair);
    }
    return open.empty() || (check(from, middle, open) && check(middle, to, open));
  }

  void note(std::size_t pair, double at, double left) {
    if (left >= out_.least_left) return;
    out_.least_left = left;
    const auto [a, b] = all_.pairs[pair];
    out_.first = {all_.items[a].body, all_.items[a].part};
    out_.second = {all_.items[b].body, all_.items[b].part};
    out_.line = static_cast<int>(line_);
    out_.at = at;
  }

  bool refuse(const std::string& why, std::size_t pair, double at, double wanted, double found) {
    const auto [a, b] = all_.pairs[pair];
    reason_ = {
        Cause::not_proved,
        fmt::format("no: the certificate does not hold: {} for {} and {} at {:.2f} % of move "
                    "{}: {:.3f} mm apart by it, where {:.3f} mm is claimed",
                    why, all_.items[a].body, all_.items[b].body, 100.0 * at, line_ + 1,
                    to_mm(found), to_mm(wanted)),
        {{"line", static_cast<double>(line_), ""}, {"at", at, ""}, {"distance", found, "m"}}};
    return false;
  }

  const Arm& arm_;
  const Certificate& certificate_;
  CellParts all_;
  std::map<std::tuple<std::size_t, std::size_t, int>, std::vector<Evidence>> evidence_;
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
