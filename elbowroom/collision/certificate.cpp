#include "elbowroom/collision/certificate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/elements.hpp"

namespace er {
namespace {

// A stretch gets no shorter than this share of its line.
constexpr double kShortestStretch = 1.0 / (1 << 24);
constexpr int kMostTogether = 32;  // elements of a mesh or cloud that get one plane

std::vector<PartName> names_of_parts(const CheckedPairs& pairs, const auto& parts) {
  std::vector<PartName> names;
  for (const auto& part : parts) {
    const std::string& body = pairs.bodies[static_cast<std::size_t>(part.body)];
    const int number = names.empty() || names.back().body != body ? 0 : names.back().part + 1;
    names.push_back({body, number});
  }
  return names;
}

// What of a part a plane is sought for: the whole of a convex one, or some elements of another.
class Group {
 public:
  Group(const Shape& shape, int part) : shape_(&shape), part_(part) {
    if (is_convex(shape)) return;
    node_ = 0;
    range_ = {0, tree().node(0).end};
  }

  [[nodiscard]] int part() const { return part_; }  ///< into CheckedPairs::moving or standing
  [[nodiscard]] ElementRange range() const { return range_; }
  [[nodiscard]] int count() const { return std::max(1, range_.end - range_.begin); }
  [[nodiscard]] Group half(bool is_left) const {
    Group out = *this;
    const int middle = range_.begin + (range_.end - range_.begin) / 2;  // as the tree halves it
    (is_left ? out.range_.end : out.range_.begin) = middle;
    const bool is_leaf = node_ < 0 || tree().node(node_).right < 0;
    out.node_ = is_leaf ? -1 : is_left ? node_ + 1 : tree().node(node_).right;
    return out;
  }
  // In the frame of its shape. Whoever checks must not see less by the ball about a whole shape: it
  // is the one about the shape's origin.
  [[nodiscard]] BoundingBall ball() const {
    if (is_convex(*shape_)) return {Vector3::Zero(), bounding_radius(*shape_)};
    AlignedBox box;
    if (node_ >= 0) {
      box = tree().node(node_).box;
    } else {
      const Elements elements(*shape_, {});
      box = elements.box(range_.begin);
      for (int i = range_.begin + 1; i < range_.end; ++i) box = box.with(elements.box(i));
    }
    return {box.middle(), box.half().norm()};
  }
  // The smallest convex shape that holds it; `corners` is where that has its points.
  [[nodiscard]] CoreShape core(const Pose& pose, std::vector<Vector3>& corners) const {
    if (is_convex(*shape_)) return {*shape_, pose};
    corners.clear();
    if (const auto* mesh = std::get_if<Mesh>(shape_)) {
      for (int face = range_.begin; face < range_.end; ++face)
        for (const Vector3& corner : mesh->data->triangle(face)) corners.push_back(corner);
      return {corners, mesh->data->thickness, pose};
    }
    const CloudData& cloud = *std::get<Cloud>(*shape_).data;
    corners.assign(cloud.points.begin() + range_.begin, cloud.points.begin() + range_.end);
    return {corners, cloud.radius, pose};
  }

 private:
  [[nodiscard]] const BoxTree& tree() const {
    const auto* mesh = std::get_if<Mesh>(shape_);
    return mesh != nullptr ? mesh->data->tree : std::get<Cloud>(*shape_).data->tree;
  }

  const Shape* shape_;
  int part_;
  int node_ = -1;  // of the tree, that has just these elements; none below its leaves
  ElementRange range_;
};

// Two groups that must keep apart. The second is of the arm, too, or stands.
struct Pair {
  Group first;
  Group second;
  bool stands = true;
  const Posture* lever = nullptr;
};

class Certifier {
 public:
  Certifier(const CellQuery& query, const std::vector<Posture>& waypoints,
            const CertifyOptions& options, const Supervision& supervision)
      : query_(query), options_(options), supervision_(supervision), parts_(query) {
    out_.clearance = options.clearance;
    out_.waypoints = waypoints;
    const CheckedPairs& pairs = query.pairs();
    out_.parts = names_of_parts(pairs, pairs.moving);
    const std::vector<PartName> standing = names_of_parts(pairs, pairs.standing);
    out_.parts.insert(out_.parts.end(), standing.begin(), standing.end());
  }

  Verdict<Certificate> run() {
    const int lines = static_cast<int>(out_.waypoints.size()) - 1;
    for (line_ = 0; line_ < lines && reason_.text.empty(); ++line_) {
      if (supervision_.progress)
        supervision_.progress(static_cast<double>(line_) / lines, "writing down the evidence");
      if (supervision_.stop.stop_requested())
        return Reason{Cause::stopped, "no: told to stop before all evidence was written down"};
      const auto at = static_cast<std::size_t>(line_);
      start_ = out_.waypoints[at];
      step_ = out_.waypoints[at + 1] - start_;
      travel_ = step_.cwiseAbs();
      split(0.0, 1.0, all_pairs());
    }
    if (!reason_.text.empty()) return reason_;
    return std::move(out_);
  }

 private:
  [[nodiscard]] std::vector<Pair> all_pairs() const {
    const CheckedPairs& pairs = query_.pairs();
    std::vector<Pair> all;
    for (int i = 0; i < static_cast<int>(pairs.moving.size()); ++i) {
      const auto part = static_cast<std::size_t>(i);
      for (int s = 0; s < static_cast<int>(pairs.standing.size()); ++s) {
        const int body = pairs.standing[static_cast<std::size_t>(s)].body;
        if (!pairs.meant[part][static_cast<std::size_t>(body)])
          all.push_back({Group(pairs.moving[part].shape, i),
                         Group(pairs.standing[static_cast<std::size_t>(s)].shape, s), true,
                         &pairs.moving[part].lever});
      }
    }
    const auto of_arm = [&](int part) {
      return Group(pairs.moving[static_cast<std::size_t>(part)].shape, part);
    };
    for (const SelfPair& pair : pairs.self)
      all.push_back({of_arm(pair.first), of_arm(pair.second), false, &pair.lever});
    return all;
  }

  // What is not settled over the whole of a stretch is handed to its halves.
  void split(double from, double to, const std::vector<Pair>& pairs) {
    const double middle = 0.5 * (from + to);
    const double half = 0.5 * (to - from);
    parts_.place_at(query_, start_ + middle * step_);
    std::vector<Pair> open;
    for (const Pair& pair : pairs) {
      const double travel = half * pair.lever->dot(travel_) + kMotionMargin;
      settle(pair, from, to, travel, open);
      if (!reason_.text.empty()) return;
    }
    if (open.empty()) return;
    split(from, middle, open);
    if (reason_.text.empty()) split(middle, to, open);
  }

  // Where no one plane lies between two groups: those of them that it does.
  void settle_parts_of(const Pair& pair, double from, double to, double travel,
                       std::vector<Pair>& open) {
    const bool cuts_first = pair.first.count() > pair.second.count();
    for (const bool left : {true, false}) {
      if (!reason_.text.empty()) return;
      Pair half = pair;
      Group& cut = cuts_first ? half.first : half.second;
      cut = cut.half(left);
      settle(half, from, to, travel, open);
    }
  }

  void settle(const Pair& pair, double from, double to, double travel, std::vector<Pair>& open) {
    const CheckedPairs& all = query_.pairs();
    const auto second = static_cast<std::size_t>(pair.second.part());
    const double margin = pair.stands ? all.standing[second].margin : 0.0;
    const Pose& pose_a = parts_.pose(pair.first.part());
    const Pose& pose_b = pair.stands ? all.standing[second].pose : parts_.pose(pair.second.part());
    const double needed = out_.clearance + travel;
    const BoundingBall ball_a = pair.first.ball();
    const BoundingBall ball_b = pair.second.ball();
    const double between = (pose_a * ball_a.middle - pose_b * ball_b.middle).norm() -
                           ball_a.radius - ball_b.radius - margin;
    if (between > needed) return;
    const int elements = std::max(pair.first.count(), pair.second.count());
    if (elements > kMostTogether) {
      // Where things move by more than a group is large, a shorter stretch tells more than less of
      // the group.
      if (travel > std::min(std::max(ball_a.radius, ball_b.radius), 1.0) &&
          to - from > kShortestStretch)
        return open.push_back(pair);
      return settle_parts_of(pair, from, to, travel, open);
    }
    const bool may_be_cut = elements > 1;
    const CoreShape core_a = pair.first.core(pose_a, corners_a_);
    const CoreShape core_b = pair.second.core(pose_b, corners_b_);
    const Separation apart =
        distance_within(std::numeric_limits<double>::infinity(), core_a, core_b, !may_be_cut);
    const double kept = apart.lower_bound - margin;
    if (kept > needed) {
      const int second_name =
          pair.second.part() + (pair.stands ? static_cast<int>(all.moving.size()) : 0);
      out_.stretches.push_back({line_, from, to, pair.first.part(), second_name, apart.normal, kept,
                                travel, pair.first.range(), pair.second.range()});
      if (out_.stretches.size() > options_.most_stretches)
        refuse(pair, 0.5 * (from + to), kept,
               fmt::format("the path runs too close by something to be written down in {} "
                           "stretches",
                           options_.most_stretches));
      return;
    }
    if (kept <= out_.clearance && may_be_cut) return settle_parts_of(pair, from, to, travel, open);
    if (kept <= out_.clearance || to - from < kShortestStretch)
      refuse(pair, 0.5 * (from + to), kept, "the path comes too near");
    open.push_back(pair);
  }

  void refuse(const Pair& pair, double at, double distance, const std::string& what) {
    const CheckedPairs& all = query_.pairs();
    const auto second = static_cast<std::size_t>(pair.second.part());
    const int body = pair.stands ? all.standing[second].body : all.moving[second].body;
    const int first_body = all.moving[static_cast<std::size_t>(pair.first.part())].body;
    reason_ = {
        Cause::in_collision,
        fmt::format("no: {}: {} at {:.2f} % of move {}", what,
                    query_.describe({.distance = distance, .first = first_body, .second = body},
                                    out_.clearance),
                    100.0 * at, line_ + 1),
        {{"line", static_cast<double>(line_), ""}, {"at", at, ""}, {"distance", distance, "m"}}};
  }

  const CellQuery& query_;
  const CertifyOptions& options_;
  const Supervision& supervision_;
  PartPoses parts_;
  std::vector<Vector3> corners_a_;
  std::vector<Vector3> corners_b_;
  Certificate out_;
  int line_ = 0;
  Posture start_;
  Posture step_;
  Posture travel_;
  Reason reason_ = {Cause::in_collision, ""};
};

}  // namespace

Verdict<Certificate> certify(const CellQuery& query, const std::vector<Posture>& waypoints,
                             const CertifyOptions& options, const Supervision& supervision) {
  if (waypoints.size() < 2) throw InputError("a path needs at least two waypoints");
  for (const Posture& waypoint : waypoints)
    query.arm().check_posture(waypoint, "a waypoint of the path");
  check_clearance(options.clearance);
  return Certifier(query, waypoints, options, supervision).run();
}

}  // namespace er
