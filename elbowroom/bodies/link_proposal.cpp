#include "elbowroom/bodies/link_proposal.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "elbowroom/base/random.hpp"
#include "elbowroom/collision/distance.hpp"
#include "elbowroom/collision/point_distance.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

constexpr double kInfinity = std::numeric_limits<double>::infinity();
constexpr int kSamples = 256;          // of a body's surface
constexpr double kExactWithin = 0.05;  // of the whole size; bodies further apart go by their boxes
constexpr double kClearly = 0.1;       // of a body's size
constexpr double kSpanShare = 0.25;    // of a body's surface that belongs to the next link

// Points spread evenly over a surface; always the same ones.
std::vector<Vector3> samples_of(const Surface& surface) {
  std::vector<double> sums;
  double area = 0.0;
  for (std::size_t i = 0; i < surface.faces.size(); ++i) {
    const auto [a, b, c] = surface.triangle(i);
    sums.push_back(area += (b - a).cross(c - a).norm());
  }
  RandomStream random(1);
  std::vector<Vector3> out;
  for (int i = 0; i < kSamples; ++i) {
    const double at = area * (i + 0.5) / kSamples;
    const auto face = static_cast<std::size_t>(
        std::min(std::lower_bound(sums.begin(), sums.end(), at), sums.end() - 1) - sums.begin());
    double u = random.uniform(0.0, 1.0);
    double v = random.uniform(0.0, 1.0);
    if (u + v > 1.0) {
      u = 1.0 - u;
      v = 1.0 - v;
    }
    const auto [a, b, c] = surface.triangle(face);
    out.push_back(a + u * (b - a) + v * (c - a));
  }
  return out;
}

std::vector<std::vector<Vector3>> samples_of(const Bodies& bodies) {
  std::vector<std::vector<Vector3>> out;
  for (const MeshBody& body : bodies.list) out.push_back(samples_of(body.surface));
  return out;
}

// An arm at zero, as it is mounted: the middle lines of its links, and its joints.
class Bones {
 public:
  explicit Bones(const Arm& arm)
      : arm_(arm), at_(link_poses(arm, Posture::Zero(arm.dof()))), lines_(arm.links().size()) {
    for (std::size_t l = 0; l < at_.size(); ++l)
      if (const int parent = arm.links()[l].parent_index; parent >= 0)
        lines_[static_cast<std::size_t>(parent)].push_back(at_[l].position);
    for (const Tool& tool : arm.tools()) {
      const auto link = static_cast<std::size_t>(tool.link_index);
      lines_[link].push_back(at_[link] * tool.tip.position);
    }
    for (std::size_t l = 0; l < at_.size(); ++l)
      if (lines_[l].empty()) lines_[l].push_back(at_[l].position);
  }

  [[nodiscard]] int links() const { return static_cast<int>(at_.size()); }

  // m, of a point from the middle lines of a link.
  [[nodiscard]] double off(int link, const Vector3& point) const {
    double least = kInfinity;
    const auto l = static_cast<std::size_t>(link);
    for (const Vector3& end : lines_[l])
      least = std::min(least, segment_distance(at_[l].position, end, point));
    return least;
  }
  [[nodiscard]] double off(int link, const std::vector<Vector3>& points) const {
    double sum = 0.0;
    for (const Vector3& point : points) sum += off(link, point);
    return sum / static_cast<double>(points.size());
  }

  // m, of a place where two bodies are next to each other from the joints that lie between the
  // links that they would belong to; infinite where the second does not hang on the first.
  [[nodiscard]] double off_joints(int from, int to, const Vector3& place) const {
    double sum = 0.0;
    for (int at = to; at != from; at = arm_.links()[static_cast<std::size_t>(at)].parent_index) {
      if (at < 0) return kInfinity;
      const Pose& frame = at_[static_cast<std::size_t>(at)];
      const Joint& joint = arm_.links()[static_cast<std::size_t>(at)].joint;
      const Vector3 away = place - frame.position;
      const Vector3 axis = frame.rotation * joint.axis;
      sum += joint.kind == JointKind::fixed ? away.norm() : (away - axis.dot(away) * axis).norm();
    }
    return sum;
  }

 private:
  const Arm& arm_;
  std::vector<Pose> at_;
  std::vector<std::vector<Vector3>> lines_;  // ends of each link's, which begin at its joint
};

// Where two boxes are next to each other: the middle of what they share, or of the gap.
Vector3 between(const AlignedBox& a, const AlignedBox& b) {
  return 0.5 * (a.low.cwiseMax(b.low) + a.high.cwiseMin(b.high));
}

// Each body but the first hangs on one that it is nearest to of those that hang already (the
// shortest tree; R. C. Prim, "Shortest connection networks", 1957).
class Hanging {
 public:
  Hanging(const Bodies& bodies, const Vector3& mount) : bodies_(bodies) {
    for (const MeshBody& body : bodies.list)
      shapes_.push_back(mesh_of(body.surface.corners, body.surface.faces, true));
    exact_within_ = kExactWithin * (bodies.high - bodies.low).norm();
    const std::size_t root = nearest_to(mount);
    over_.assign(shapes_.size(), -1);
    std::vector<double> gaps(shapes_.size(), kInfinity);
    std::vector<bool> hangs(shapes_.size(), false);
    for (std::size_t next = root; next < shapes_.size();) {
      hangs[next] = true;
      order_.push_back(next);
      std::size_t best = shapes_.size();
      for (std::size_t i = 0; i < shapes_.size(); ++i) {
        if (hangs[i] || bodies_.list[i].inside_of > 0) continue;
        if (const double gap = gap_between(next, i, gaps[i]); gap < gaps[i]) {
          gaps[i] = gap;
          over_[i] = static_cast<int>(next);
        }
        if (best == shapes_.size() || gaps[i] < gaps[best]) best = i;
      }
      next = best;
    }
  }

  // From the mount outward; without those inside of others.
  [[nodiscard]] const std::vector<std::size_t>& order() const { return order_; }
  [[nodiscard]] int over(std::size_t body) const { return over_[body]; }

 private:
  [[nodiscard]] std::size_t nearest_to(const Vector3& mount) const {
    std::size_t best = 0;
    double least = kInfinity;
    for (std::size_t i = 0; i < shapes_.size(); ++i) {
      if (bodies_.list[i].inside_of > 0) continue;
      const double gap = nearest_face(*shapes_[i].data, mount).distance;
      if (gap < least) {
        least = gap;
        best = i;
      }
    }
    return best;
  }

  [[nodiscard]] double gap_between(std::size_t a, std::size_t b, double least) const {
    const double boxes = bodies_.list[a].box.gap_to(bodies_.list[b].box);
    if (boxes >= least || boxes > exact_within_) return boxes;
    const double exact =
        distance_within(exact_within_, Shape(shapes_[a]), Pose{}, Shape(shapes_[b]), Pose{}, false)
            .lower_bound;
    return std::max(boxes, exact);
  }

  const Bodies& bodies_;
  std::vector<Mesh> shapes_;
  double exact_within_ = 0.0;
  std::vector<int> over_;
  std::vector<std::size_t> order_;
};

// The cheapest way to give bodies to links, from the leaves of the tree to its root and back.
class Assignment {
 public:
  Assignment(const Bodies& bodies, const std::vector<std::vector<Vector3>>& samples,
             const Hanging& hanging, const Bones& bones)
      : hanging_(hanging),
        links_(static_cast<std::size_t>(bones.links())),
        off_(bodies.list.size()),
        going_over_(bodies.list.size()) {
    for (const std::size_t i : hanging.order()) {
      for (int link = 0; link < bones.links(); ++link)
        off_[i].push_back(bones.off(link, samples[i]));
      if (hanging.over(i) < 0) continue;
      const auto over = static_cast<std::size_t>(hanging.over(i));
      const Vector3 place = between(bodies.list[over].box, bodies.list[i].box);
      for (int from = 0; from < bones.links(); ++from)
        for (int to = 0; to < bones.links(); ++to)
          going_over_[i].push_back(bones.off_joints(from, to, place));
    }
  }

  struct Found {
    std::vector<int> links;  // of each body; -1: inside of another
    double cost = kInfinity;
  };
  // `fixed`: a body that has to have this link; -1: none.
  [[nodiscard]] Found find(int fixed = -1, int fixed_link = 0) const {
    std::vector<std::vector<double>> cost(
        off_);  // of a body on each link, and all that hangs on it
    if (fixed >= 0)
      for (std::size_t l = 0; l < links_; ++l)
        if (static_cast<int>(l) != fixed_link) cost[static_cast<std::size_t>(fixed)][l] = kInfinity;
    std::vector<std::vector<int>> choice(
        off_.size());  // of a body, by the link of what it hangs on
    const auto& order = hanging_.order();
    for (std::size_t n = order.size(); n-- > 1;) {
      const std::size_t i = order[n];
      const auto over = static_cast<std::size_t>(hanging_.over(i));
      for (std::size_t from = 0; from < links_; ++from) {
        const auto [link, least] = cheapest(i, from, cost[i]);
        choice[i].push_back(link);
        cost[over][from] += least;
      }
    }
    Found out{std::vector<int>(off_.size(), -1)};
    const std::size_t root = order.front();
    const auto best = std::min_element(cost[root].begin(), cost[root].end());
    out.cost = *best;
    if (!std::isfinite(out.cost)) return out;
    out.links[root] = static_cast<int>(best - cost[root].begin());
    for (std::size_t n = 1; n < order.size(); ++n) {
      const auto over = static_cast<std::size_t>(hanging_.over(order[n]));
      out.links[order[n]] = choice[order[n]][static_cast<std::size_t>(out.links[over])];
    }
    return out;
  }

 private:
  // The link for a body that hangs on one of link `from`, and what that costs.
  [[nodiscard]] std::pair<int, double> cheapest(std::size_t body, std::size_t from,
                                                const std::vector<double>& cost) const {
    std::pair<int, double> out{-1, kInfinity};
    for (std::size_t to = 0; to < links_; ++to) {
      const double all = cost[to] + going_over_[body][from * links_ + to];
      if (all < out.second) out = {static_cast<int>(to), all};
    }
    return out;
  }

  const Hanging& hanging_;
  std::size_t links_;
  std::vector<std::vector<double>> off_;         // m; of each body from each link
  std::vector<std::vector<double>> going_over_;  // m; of each body, by the two links
};

// Whether much of a body, by points of its surface, lies nearer to another link than to its own.
bool goes_on(const std::vector<Vector3>& points, double clearly, int link, const Bones& bones) {
  int beyond = 0;
  for (const Vector3& point : points) {
    double other = kInfinity;
    for (int l = 0; l < bones.links(); ++l)
      if (l != link) other = std::min(other, bones.off(l, point));
    beyond += other + clearly < bones.off(link, point) ? 1 : 0;
  }
  return beyond > kSpanShare * kSamples;
}

}  // namespace

std::vector<BodyOnLink> propose_links(const Bodies& bodies, const Arm& arm) {
  const Bones bones(arm);
  const Hanging hanging(bodies, arm.mount().position);
  const std::vector<std::vector<Vector3>> samples = samples_of(bodies);
  const Assignment assignment(bodies, samples, hanging, bones);
  const Assignment::Found found = assignment.find();
  std::vector<BodyOnLink> out(bodies.list.size());
  for (const std::size_t i : hanging.order()) {
    BodyOnLink& one = out[i];
    one.body = bodies.list[i].number;
    one.link = found.links[i];
    for (int link = 0; link < bones.links(); ++link) {
      if (link == one.link) continue;
      const double worse = assignment.find(static_cast<int>(i), link).cost - found.cost;
      if (one.second >= 0 && worse >= one.margin) continue;
      one.margin = worse;
      one.second = link;
    }
    one.spans = goes_on(samples[i], kClearly * bodies.list[i].size().norm(), one.link, bones);
  }
  for (const MeshBody& body : bodies.list)
    if (body.inside_of > 0) {
      const int outer = bodies.outermost(body).number;
      out[static_cast<std::size_t>(body.number - 1)] = {
          .body = body.number, .link = out[static_cast<std::size_t>(outer - 1)].link};
    }
  return out;
}

std::vector<double> link_costs(const Bodies& bodies, const std::vector<Arm>& arms) {
  const Hanging hanging(bodies, arms.front().mount().position);
  const std::vector<std::vector<Vector3>> samples = samples_of(bodies);
  std::vector<double> out;
  for (const Arm& arm : arms) {
    const Bones bones(arm);
    out.push_back(Assignment(bodies, samples, hanging, bones).find().cost);
  }
  return out;
}

}  // namespace er
