#include "elbowroom/bodies/mesh_posture.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <set>
#include <utility>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/bodies/axis_lines.hpp"
#include "elbowroom/collision/point_distance.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

// How far `from` turns about an axis to point as `to` does, both seen along it.
double turn_between(const Vector3& axis, const Vector3& from, const Vector3& to) {
  const Vector3 a = from - axis.dot(from) * axis;
  const Vector3 b = to - axis.dot(to) * axis;
  return std::atan2(axis.dot(a.cross(b)), a.dot(b));
}

// Zero, where it is meant, but for the rounding of the file.
double without_rounding(double turn) {
  constexpr double kRounding = 2e-6;
  constexpr double kWhole = kTurn / 36000.0;  // 0.01 deg
  const double whole = std::round(turn / kWhole) * kWhole;
  return std::abs(turn - whole) < kRounding ? whole : turn;
}

// Depth first through the joints that turn.
class PostureSearch {
 public:
  PostureSearch(const std::vector<RoundFeature>& features, const Arm& arm)
      : arm_(arm), lines_(feature_lines(features)) {
    for (std::size_t l = 0; l < arm.links().size(); ++l) {
      const Link& link = arm.links()[l];
      if (link.joint.kind == JointKind::revolute && link.posture_index >= 0 &&
          link.posture_ratio == 1.0 && link.posture_offset == 0.0)
        turning_.push_back(l);
    }
  }

  // Nothing where zero does as well.
  std::optional<MeshPosture> run() {
    Posture zero = Posture::Zero(arm_.dof());
    consider(zero);
    const MeshPosture as_it_is = best_;
    descend(0, zero);
    std::stable_sort(best_.postures.begin(), best_.postures.end(),
                     [](const Posture& a, const Posture& b) { return a.norm() < b.norm(); });
    return explains_less(as_it_is, best_) ? std::optional(best_) : std::nullopt;
  }

 private:
  static bool explains_less(const MeshPosture& a, const MeshPosture& b) {
    return std::pair(a.matched, a.lines) < std::pair(b.matched, b.lines);
  }
  static constexpr int kMostPostures = 20000;
  static constexpr std::size_t kMostAlike = 16;

  void consider(const Posture& posture) {
    ++tried_;
    const std::vector<AxisLine> axes = axis_lines(arm_, link_poses(arm_, posture));
    const std::vector<int> on = lines_on(axes, lines_);
    MeshPosture one{.postures = {posture}, .axes = static_cast<int>(axes.size())};
    one.matched = count_of_lines(on);
    // An axis that only falls in line with another explains less.
    std::set<int> lines(on.begin(), on.end());
    lines.erase(-1);
    one.lines = static_cast<int>(lines.size());
    if (best_.postures.empty() || explains_less(best_, one))
      best_ = std::move(one);
    else if (!explains_less(one, best_) && best_.postures.size() < kMostAlike)
      best_.postures.push_back(posture);
  }

  // Turns of a joint that bring the axis after it onto a line.
  [[nodiscard]] std::vector<double> turns_of(std::size_t k, const Posture& posture) const {
    const std::vector<Pose> at = link_poses(arm_, posture);
    const auto line_of = [&](std::size_t l) {
      return AxisLine{at[l].position, at[l].rotation * arm_.links()[l].joint.axis};
    };
    const AxisLine axis = line_of(turning_[k]);
    const AxisLine next = line_of(turning_[k + 1]);
    std::vector<double> out{0.0};
    if (next.is_on(axis)) return out;  // it turns on the spot
    for (const AxisLine& line : lines_)
      for (const double side : {1.0, -1.0}) {
        const bool is_parallel = next.way.cross(axis.way).norm() < kSameTurn;
        const double turn =
            is_parallel ? turn_between(axis.way, next.point - axis.point, line.point - axis.point)
                        : turn_between(axis.way, next.way, side * line.way);
        const Matrix3 rotation = rotation_about(axis.way, turn);
        const Pose about{rotation, axis.point - rotation * axis.point};
        if (!next.moved(about).is_on(line)) continue;
        const double rounded = without_rounding(turn);
        if (std::none_of(out.begin(), out.end(),
                         [&](double other) { return std::abs(other - rounded) < kSameTurn; }))
          out.push_back(rounded);
        if (is_parallel) break;
      }
    return out;
  }

  void descend(std::size_t k, Posture& posture) {
    if (k + 1 >= turning_.size() || tried_ > kMostPostures) return;
    const int entry = arm_.links()[turning_[k]].posture_index;
    const Joint& joint = arm_.links()[turning_[k]].joint;
    for (const double turn : turns_of(k, posture)) {
      if (!joint.continuous &&
          (turn < joint.limits.lower - kSameTurn || turn > joint.limits.upper + kSameTurn))
        continue;
      posture[entry] = turn;
      if (turn != 0.0) consider(posture);
      descend(k + 1, posture);
      posture[entry] = 0.0;
    }
  }

  const Arm& arm_;
  std::vector<AxisLine> lines_;
  std::vector<std::size_t> turning_;  // links
  MeshPosture best_;
  int tried_ = 0;
};

// The normal of the face that a point is on.
Vector3 normal_at(const FaceAtZero& face, const MeshBody& body) {
  constexpr double kOn = 1e-3;     // m
  constexpr double kFlat = 0.017;  // rad
  constexpr double kSame = 1e-6;   // m; as near
  const Mesh skin = mesh_of(body.surface.corners, body.surface.faces, true);
  const NearestFace nearest = nearest_face(*skin.data, face.near);
  const auto normal_of = [&](int number) {
    const auto [a, b, c] = skin.data->triangle(number);
    return Vector3((b - a).cross(c - a).normalized());
  };
  if (nearest.distance > kOn)
    throw InputError(
        fmt::format("this point is {} from body {}", text_length(nearest.distance), body.number),
        "give a point on its face, in the frame of the file with its unit applied");
  const Vector3 out = normal_of(nearest.face);
  for (int i = 0; i < static_cast<int>(skin.data->faces.size()); ++i) {
    if (triangle_distance(skin.data->triangle(i), face.near) > nearest.distance + kSame ||
        (normal_of(i) - out).norm() < kFlat)
      continue;
    throw InputError(fmt::format("body {} is not flat at this point", body.number),
                     "give a point in the middle of a flat face");
  }
  return out;
}

}  // namespace

std::optional<MeshPosture> posture_of(const std::vector<RoundFeature>& features, const Arm& arm) {
  std::optional<MeshPosture> best = PostureSearch(features, arm).run();
  if (best && (best->matched < 3 || 4 * best->matched < 3 * best->axes)) best.reset();
  return best;
}

TurnByFace turn_by_face(const FaceAtZero& face, const Bodies& bodies, const Arm& arm,
                        const PostureRef& posture) {
  const Link& link = arm.links()[static_cast<std::size_t>(face.link)];
  const auto parent = static_cast<std::size_t>(link.parent_index);
  TurnByFace out{.normal = normal_at(face, bodies.numbered(face.body))};
  // Seen from the link before, where the joint's axis does not move.
  const Matrix3 now = link_poses(arm, posture)[parent].rotation.transpose();
  const Matrix3 zero = link_poses(arm, Posture::Zero(arm.dof()))[parent].rotation.transpose();
  const Vector3 axis = link.joint.origin.rotation * link.joint.axis;
  const Vector3 is = now * out.normal;
  const Vector3 wanted = zero * face.faces.normalized();
  constexpr double kSteep = 0.05;  // of a normal, square to the axis
  if (is.cross(axis).norm() < kSteep || wanted.cross(axis).norm() < kSteep)
    throw InputError("a face that looks along the axis of the joint does not turn with it",
                     "give a face beside the axis");
  out.turn = without_rounding(turn_between(axis, wanted, is));
  const Vector3 at_zero = rotation_about(axis, -out.turn) * is;
  out.off = std::atan2(at_zero.cross(wanted).norm(), at_zero.dot(wanted));
  return out;
}

}  // namespace er
