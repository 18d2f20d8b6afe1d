#include "elbowroom/bodies/round_features.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <Eigen/LU>
#include <algorithm>
#include <cmath>
#include <optional>

#include "elbowroom/base/symmetric.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/bodies/neighbours.hpp"

namespace er {
namespace {

constexpr double kSquare = 0.02;     // rad; how square to the axis normals have to be
constexpr double kFlat = 1e-3;       // rad; neighbours that turn by less lie in one plane
constexpr std::size_t kFewest = 6;   // triangles
constexpr int kMostVain = 3;         // stretches that come to nothing, through one triangle
constexpr double kSeedFault = 0.02;  // of the radius

class Finder {
 public:
  Finder(const MeshBody& body, const RoundFeatureOptions& options)
      : body_(body),
        options_(options),
        neighbours_(body.surface),
        taken_(body.surface.faces.size(), false),
        vain_(body.surface.faces.size(), 0),
        seen_(body.surface.faces.size(), 0) {
    for (std::size_t i = 0; i < body.surface.faces.size(); ++i) {
      const auto [a, b, c] = body.surface.triangle(i);
      const Vector3 normal = (b - a).cross(c - a);
      areas_.push_back(0.5 * normal.norm());
      normals_.push_back(normal.norm() > 0.0 ? Vector3(normal.normalized())
                                             : Vector3(Vector3::Zero()));
    }
  }

  std::vector<RoundFeature> find() {
    std::vector<RoundFeature> out;
    for (std::size_t face = 0; face < taken_.size(); ++face)
      for (int k = 0; k < 3 && !taken_[face] && vain_[face] < kMostVain; ++k) {
        const auto seed = seed_over(face, k);
        if (!seed) continue;
        const std::vector<std::size_t> stretch = grown(face, *seed);
        const auto found = fitted(stretch);
        for (const std::size_t one : stretch) {
          if (found)
            taken_[one] = true;
          else
            ++vain_[one];
        }
        if (found) out.push_back(*found);
      }
    std::stable_sort(out.begin(), out.end(), [](const RoundFeature& a, const RoundFeature& b) {
      return a.radius * a.length * a.span > b.radius * b.length * b.span;
    });
    return out;
  }

 private:
  // What two triangles at an edge would be a stretch of.
  struct Round {
    Vector3 point = Vector3::Zero();  // on the axis
    Vector3 axis = Vector3::UnitZ();
    double radius = 0.0;
  };

  [[nodiscard]] double turn(std::size_t a, std::size_t b) const {
    return std::atan2(normals_[a].cross(normals_[b]).norm(), normals_[a].dot(normals_[b]));
  }

  // Seen along the axis, the edge between two facets of a cylinder is a point, and what else they
  // have are two: the circle through the three.
  [[nodiscard]] std::optional<Round> seed_over(std::size_t face, int k) const {
    const int over = neighbours_.over(face, k).face;
    if (over < 0 || taken_[static_cast<std::size_t>(over)]) return std::nullopt;
    const auto next = static_cast<std::size_t>(over);
    const double step = turn(face, next);
    if (step < kFlat || step > options_.largest_step) return std::nullopt;
    const auto& here = body_.surface.faces[face];
    const int from = here[static_cast<std::size_t>(k)];
    const int to = here[static_cast<std::size_t>((k + 1) % 3)];
    const int third = here[static_cast<std::size_t>((k + 2) % 3)];
    int fourth = -1;
    for (const int corner : body_.surface.faces[next])
      if (corner != from && corner != to) fourth = corner;
    if (fourth < 0) return std::nullopt;
    Round out;
    out.axis = normals_[face].cross(normals_[next]).normalized();
    const Vector3 edge = body_.surface.corner(from);
    const auto flat = [&](int corner) -> Vector3 {
      const Vector3 to_it = body_.surface.corner(corner) - edge;
      return to_it - out.axis.dot(to_it) * out.axis;
    };
    // The centre of the circle through 0, a and b.
    const Vector3 a = flat(third);
    const Vector3 b = flat(fourth);
    const Vector3 normal = a.cross(b);
    if (!(normal.squaredNorm() > 0.0)) return std::nullopt;
    const Vector3 centre = (b.squaredNorm() * normal.cross(a) + a.squaredNorm() * b.cross(normal)) /
                           (2.0 * normal.squaredNorm());
    out.point = edge + centre;
    out.radius = centre.norm();
    return out;
  }

  // Triangles from one on that are square to the axis and, but for what three points tell of a
  // circle, on it.
  [[nodiscard]] std::vector<std::size_t> grown(std::size_t first, const Round& round) {
    std::vector<std::size_t> out{first};
    seen_[first] = ++look_;
    const auto is_on = [&](int corner) {
      const Vector3 to = body_.surface.corner(corner) - round.point;
      const double away = (to - round.axis.dot(to) * round.axis).norm();
      return std::abs(away - round.radius) <= kSeedFault * round.radius;
    };
    for (std::size_t i = 0; i < out.size(); ++i)
      for (int k = 0; k < 3; ++k) {
        const int next = neighbours_.over(out[i], k).face;
        if (next < 0) continue;
        const auto face = static_cast<std::size_t>(next);
        if (seen_[face] == look_ || taken_[face]) continue;
        seen_[face] = look_;
        const auto& corners = body_.surface.faces[face];
        if (normals_[face].isZero(0.0) || std::abs(normals_[face].dot(round.axis)) > kSquare ||
            turn(out[i], face) > options_.largest_step ||
            !std::all_of(corners.begin(), corners.end(), is_on))
          continue;
        out.push_back(face);
      }
    return out;
  }

  [[nodiscard]] std::optional<RoundFeature> fitted(const std::vector<std::size_t>& stretch) const {
    if (stretch.size() < kFewest) return std::nullopt;
    Matrix3 spread = Matrix3::Zero();
    std::vector<int> corners;
    for (const std::size_t face : stretch) {
      spread += areas_[face] * normals_[face] * normals_[face].transpose();
      for (const int corner : body_.surface.faces[face]) corners.push_back(corner);
    }
    std::sort(corners.begin(), corners.end());
    corners.erase(std::unique(corners.begin(), corners.end()), corners.end());
    RoundFeature out{.body = body_.number};
    out.axis = symmetric_eigen(spread).vectors.col(0);  // of the least value
    const Vector3 x = out.axis.unitOrthogonal();
    const Vector3 y = out.axis.cross(x);
    std::vector<Eigen::Vector2d> seen;
    double low = std::numeric_limits<double>::infinity();
    double high = -low;
    const Vector3 origin = body_.surface.corner(corners.front());
    for (const int corner : corners) {
      const Vector3 to = body_.surface.corner(corner) - origin;
      seen.emplace_back(x.dot(to), y.dot(to));
      low = std::min(low, out.axis.dot(to));
      high = std::max(high, out.axis.dot(to));
    }
    const std::optional<Eigen::Vector3d> circle = fitted_circle(seen);
    if (!circle) return std::nullopt;
    out.radius = (*circle)[2];
    out.length = high - low;
    out.middle = origin + (*circle)[0] * x + (*circle)[1] * y + 0.5 * (low + high) * out.axis;
    for (const Eigen::Vector2d& at : seen)
      out.worst = std::max(out.worst, std::abs((at - circle->head<2>()).norm() - out.radius));
    out.span = span_of(seen, circle->head<2>());
    const Vector3 outward = body_.surface.triangle(stretch.front())[0] - out.middle;
    out.is_bore = normals_[stretch.front()].dot(outward) < 0.0;
    if (out.worst > options_.largest_fault * out.radius || out.span < options_.least_span)
      return std::nullopt;
    return out;
  }

  // Centre and radius.
  static std::optional<Eigen::Vector3d> fitted_circle(const std::vector<Eigen::Vector2d>& points) {
    Matrix3 left = Matrix3::Zero();
    Vector3 right = Vector3::Zero();
    for (const Eigen::Vector2d& p : points) {
      const Vector3 row(p.x(), p.y(), 1.0);
      left += row * row.transpose();
      right += row * p.squaredNorm();
    }
    Vector3 sum = left.inverse() * right;
    Eigen::Vector3d circle(0.5 * sum[0], 0.5 * sum[1], 0.0);
    circle[2] = std::sqrt(std::max(0.0, sum[2] + circle.head<2>().squaredNorm()));
    for (int step = 0; step < 10 && circle.allFinite(); ++step) {
      left.setZero();
      right.setZero();
      for (const Eigen::Vector2d& p : points) {
        const Eigen::Vector2d away = p - circle.head<2>();
        const double distance = away.norm();
        if (!(distance > 0.0)) return std::nullopt;
        const Vector3 row(-away.x() / distance, -away.y() / distance, -1.0);
        left += row * row.transpose();
        right += row * (distance - circle[2]);
      }
      circle -= left.inverse() * right;
    }
    if (!circle.allFinite() || !(circle[2] > 0.0)) return std::nullopt;
    return circle;
  }

  // The full turn less its widest gap between corners; all of it where that is one step.
  [[nodiscard]] double span_of(const std::vector<Eigen::Vector2d>& points,
                               const Eigen::Vector2d& centre) const {
    std::vector<double> angles;
    for (const Eigen::Vector2d& p : points)
      angles.push_back(std::atan2(p.y() - centre.y(), p.x() - centre.x()));
    std::sort(angles.begin(), angles.end());
    double gap = angles.front() + kTurn - angles.back();
    for (std::size_t i = 1; i < angles.size(); ++i) gap = std::max(gap, angles[i] - angles[i - 1]);
    return gap <= options_.largest_step ? kTurn : kTurn - gap;
  }

  const MeshBody& body_;
  const RoundFeatureOptions& options_;
  Neighbours neighbours_;
  std::vector<bool> taken_;
  std::vector<int> vain_;
  std::vector<int> seen_;  // by which look
  int look_ = 0;
  std::vector<Vector3> normals_;
  std::vector<double> areas_;
};

}  // namespace

std::string RoundFeature::text() const {
  return fmt::format("{} of {:.4g} mm diameter, {:.4g} mm long, of body {}",
                     is_bore ? "bore" : "boss", 2e3 * radius, 1e3 * length, body);
}

std::vector<RoundFeature> round_features(const MeshBody& body, const RoundFeatureOptions& options) {
  return Finder(body, options).find();
}

std::vector<RoundFeature> round_features(const Bodies& bodies, const RoundFeatureOptions& options) {
  std::vector<RoundFeature> out;
  for (const MeshBody& body : bodies.list) {
    std::vector<RoundFeature> found = round_features(body, options);
    out.insert(out.end(), found.begin(), found.end());
  }
  return out;
}

}  // namespace er
