#include "elbowroom/collision/mesh_order.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdint>
#include <limits>

#include "elbowroom/collision/distance.hpp"
#include "elbowroom/collision/point_distance.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

constexpr std::size_t kMostLinks = 12;
constexpr double kClearly = 0.15;  // of the arm's length
constexpr double kBetter = 0.5;    // of what it is now

// What a link's shapes should be near to, at zero, in the world.
struct Ends {
  std::vector<std::pair<Shape, Pose>> axes;  // thin, of its own joint and of those it carries
  std::vector<Vector3> joints;
};

class Fitting {
 public:
  explicit Fitting(const Arm& arm)
      : arm_(arm), at_(link_poses(arm, Posture::Zero(arm.dof()))), ends_(at_.size()) {
    for (std::size_t l = 0; l < at_.size(); ++l) {
      const Link& link = arm.links()[l];
      if (has_file(link)) links_.push_back(l);
      if (link.parent_index < 0) continue;
      const auto parent = static_cast<std::size_t>(link.parent_index);
      length_ += (at_[l].position - at_[parent].position).norm();
      for (const std::size_t end : {l, parent}) {
        ends_[end].axes.push_back(axis_of(l));
        ends_[end].joints.push_back(at_[l].position);
      }
    }
  }

  std::optional<MeshOrder> run() const {
    if (links_.size() < 2 || links_.size() > kMostLinks) return std::nullopt;
    std::optional<MeshOrder> best;
    for (const bool stays : {false, true}) {
      const MeshOrder one = best_order(stays);
      if (one.now - one.then > kClearly * length_ && one.then < kBetter * one.now &&
          (!best || one.then < best->then))
        best = one;
    }
    return best;
  }

 private:
  static bool has_file(const Link& link) {
    return std::any_of(link.parts.begin(), link.parts.end(), [](const Part& part) {
      const FileOrigin* origin = origin_of(part.shape);
      return part.collides && origin != nullptr && !origin->file.empty();
    });
  }
  // What does not turn has a place, not an axis.
  [[nodiscard]] std::pair<Shape, Pose> axis_of(std::size_t link) const {
    const Joint& joint = arm_.links()[link].joint;
    if (joint.kind != JointKind::revolute) return {Sphere{0.0}, at_[link]};
    constexpr double kHalf = 0.3;  // m to either side
    const Vector3 way = at_[link].rotation * joint.axis;
    const Part part =
        capsule_between(at_[link].position - kHalf * way, at_[link].position + kHalf * way, 0.0);
    return {part.shape, part.at};
  }

  // m; the shapes of one link on another: how far from its joints, and from the lines between.
  [[nodiscard]] double off(std::size_t of, std::size_t on, bool stays) const {
    const Pose& at = at_[stays ? of : on];
    double out = 0.0;
    for (const auto& [axis, pose] : ends_[on].axes) {
      double nearest = std::numeric_limits<double>::infinity();
      for (const Part& part : arm_.links()[of].parts)
        if (part.collides)
          nearest = std::min(nearest, distance(part.shape, at * part.at, axis, pose).distance);
      out += std::max(0.0, nearest);
    }
    double aside = 0.0;
    int parts = 0;
    for (const Part& part : arm_.links()[of].parts) {
      if (!part.collides) continue;
      const Vector3 middle = at * (part.at * bounding_ball(part.shape).middle);
      double nearest = std::numeric_limits<double>::infinity();
      for (const Vector3& joint : ends_[on].joints)
        nearest = std::min(nearest, segment_distance(at_[on].position, joint, middle));
      aside += nearest;
      ++parts;
    }
    return out + aside / parts;
  }

  // The cheapest way to give each link the shapes of one, link by link over all sets of those that
  // are given already.
  [[nodiscard]] MeshOrder best_order(bool stays) const {
    const std::size_t n = links_.size();
    std::vector<std::vector<double>> cost(n, std::vector<double>(n));
    MeshOrder out{.fits = std::vector<int>(at_.size(), -1)};
    for (std::size_t i = 0; i < n; ++i) {
      for (std::size_t k = 0; k < n; ++k) cost[i][k] = off(links_[i], links_[k], stays);
      out.now += cost[i][i];
    }
    const std::size_t sets = std::size_t{1} << n;
    std::vector<double> least(sets, std::numeric_limits<double>::infinity());
    std::vector<std::uint8_t> last(sets, 0);  // whose shapes the last link of a set took
    least[0] = 0.0;
    for (std::size_t set = 0; set + 1 < sets; ++set) {
      const auto on = static_cast<std::size_t>(std::popcount(set));
      for (std::size_t of = 0; of < n; ++of) {
        const std::size_t next = set | std::size_t{1} << of;
        const double sum = least[set] + cost[of][on];
        if (next == set || sum >= least[next]) continue;
        least[next] = sum;
        last[next] = static_cast<std::uint8_t>(of);
      }
    }
    out.then = least[sets - 1];
    for (std::size_t set = sets - 1; set != 0;) {
      const std::size_t of = last[set];
      set ^= std::size_t{1} << of;
      const auto on = static_cast<std::size_t>(std::popcount(set));
      out.fits[links_[of]] = static_cast<int>(links_[on]);
    }
    return out;
  }

  const Arm& arm_;
  std::vector<Pose> at_;
  std::vector<Ends> ends_;
  std::vector<std::size_t> links_;  // with shapes from files
  double length_ = 0.0;
};

}  // namespace

std::optional<MeshOrder> better_mesh_order(const Arm& arm) { return Fitting(arm).run(); }

}  // namespace er
