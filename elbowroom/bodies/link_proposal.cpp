#include "elbowroom/bodies/link_proposal.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "elbowroom/base/random.hpp"
#include "elbowroom/collision/distance.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

constexpr double kInfinity = std::numeric_limits<double>::infinity();
constexpr int kSamples = 256;          // of a body's surface
constexpr double kExactWithin = 0.05;  // of the whole size; bodies further apart go by their boxes
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

double distance_to_segment(const Vector3& point, const Vector3& from, const Vector3& to) {
  const Vector3 way = to - from;
  const double along =
      way.isZero(0.0) ? 0.0 : std::clamp((point - from).dot(way) / way.squaredNorm(), 0.0, 1.0);
  return (point - from - along * way).norm();
}

// An arm at zero, seen from its base frame: the middle lines of its links, and its joints.
class Bones {
 public:
  explicit Bones(const Arm& arm) : arm_(arm), lines_(arm.links().size()) {
    const Pose to_base = arm.mount().inverse();
    for (const Pose& pose : link_poses(arm, Posture::Zero(arm.dof())))
      at_.push_back(to_base * pose);
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
    for (const Vector3& end : lines_[static_cast<std::size_t>(link)])
      least = std::min(
          least, distance_to_segment(point, at_[static_cast<std::size_t>(link)].position, end));
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
  explicit Hanging(const Bodies& bodies) : bodies_(bodies) {
    for (const MeshBody& body : bodies.list)
      shapes_.push_back(mesh_of(body.surface.corners, body.surface.faces, true));
    exact_within_ = kExactWithin * (bodies.high - bodies.low).norm();
    const std::size_t root = nearest_to_mount();
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
  [[nodiscard]] std::size_t nearest_to_mount() const {
    std::size_t best = 0;
    double least = kInfinity;
    for (std::size_t i = 0; i < shapes_.size(); ++i) {
      if (bodies_.list[i].inside_of > 0) continue;
      const double gap = distance(Shape(shapes_[i]), Pose{}, Shape(Sphere{1e-6}), Pose{}).distance;
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
  Assignment(const Bodies& bodies, const Hanging& hanging, const Bones& bones)
      : bodies_(bodies), hanging_(hanging), bones_(bones) {
    off_.resize(bodies.list.size());
    for (const std::size_t i : hanging.order()) {
      const std::vector<Vector3> points = samples_of(bodies.list[i].surface);
      for (int link = 0; link < bones.links(); ++link) off_[i].push_back(bones.off(link, points));
    }
  }

  [[nodiscard]] double off(std::size_t body, int link) const {
    return off_[body][static_cast<std::size_t>(link)];
  }

  struct Found {
    std::vector<int> links;  // of each body; -1: inside of another
    double cost = kInfinity;
  };
  // `fixed`: a body that has to have this link; -1: none.
  [[nodiscard]] Found find(int fixed = -1, int fixed_link = 0) const {
    const auto links = static_cast<std::size_t>(bones_.links());
    std::vector<std::vector<double>> cost(off_);
    std::vector<std::vector<int>> choice(
        off_.size());  // of a body, for each link of what it hangs on
    const auto& order = hanging_.order();
    for (std::size_t n = order.size(); n-- > 0;) {
      const std::size_t i = order[n];
      if (static_cast<int>(i) == fixed)
        for (std::size_t l = 0; l < links; ++l)
          if (static_cast<int>(l) != fixed_link) cost[i][l] = kInfinity;
      if (n == 0) break;
      const auto over = static_cast<std::size_t>(hanging_.over(i));
      const Vector3 place = between(bodies_.list[over].box, bodies_.list[i].box);
      choice[i].assign(links, -1);
      for (std::size_t from = 0; from < links; ++from) {
        double least = kInfinity;
        for (std::size_t to = 0; to < links; ++to) {
          const double all =
              cost[i][to] + bones_.off_joints(static_cast<int>(from), static_cast<int>(to), place);
          if (all < least) {
            least = all;
            choice[i][from] = static_cast<int>(to);
          }
        }
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
  const Bodies& bodies_;
  const Hanging& hanging_;
  const Bones& bones_;
  std::vector<std::vector<double>> off_;  // m; of each body from each link
};

// Whether much of a body lies clearly nearer to another link than to its own.
bool goes_on(const MeshBody& body, int link, const Bones& bones) {
  const double clearly = 0.1 * body.size().norm();
  int beyond = 0;
  for (const Vector3& point : samples_of(body.surface)) {
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
  const Hanging hanging(bodies);
  const Assignment assignment(bodies, hanging, bones);
  const Assignment::Found found = assignment.find();
  std::vector<BodyOnLink> out(bodies.list.size());
  for (const std::size_t i : hanging.order()) {
    BodyOnLink& one = out[i];
    one.body = bodies.list[i].number;
    one.link = found.links[i];
    one.over = hanging.over(i) + 1;
    one.off = assignment.off(i, one.link);
    one.margin = kInfinity;
    for (int link = 0; link < bones.links(); ++link) {
      if (link == one.link) continue;
      const double worse = assignment.find(static_cast<int>(i), link).cost - found.cost;
      if (worse < one.margin) {
        one.margin = worse;
        one.second = link;
      }
    }
    one.spans = goes_on(bodies.list[i], one.link, bones);
  }
  for (const MeshBody& body : bodies.list) {
    if (body.inside_of == 0) continue;
    const MeshBody* outer = &body;
    while (outer->inside_of > 0) outer = &bodies.numbered(outer->inside_of);
    BodyOnLink& one = out[static_cast<std::size_t>(body.number - 1)];
    one = out[static_cast<std::size_t>(outer->number - 1)];
    one.body = body.number;
    one.over = body.inside_of;
    one.second = -1;
    one.spans = false;
  }
  return out;
}

}  // namespace er
