#include "elbowroom/collision/cover.hpp"

#include <algorithm>
#include <cmath>

#include "elbowroom/collision/distance.hpp"
#include "elbowroom/collision/point_distance.hpp"

namespace er {
namespace {

// A piece of a shape that one ball has to cover, and how it is cut into finer ones.
//
// Round shapes are cut across their axis, so each piece is a slab of them. Everything else is cut
// as its box is; what of a cell holds nothing of the shape is left out.
class Splitter {
 public:
  Splitter(const Shape& shape, const CoverOptions& options) : shape_(shape), options_(options) {}

  Cover cover() {
    if (const auto* sphere = std::get_if<Sphere>(&shape_)) {
      add_ball(Vector3::Zero(), sphere->radius);
    } else if (const auto* capsule = std::get_if<Capsule>(&shape_)) {
      add_slabs(capsule->length, capsule->radius, true);
    } else if (const auto* cylinder = std::get_if<Cylinder>(&shape_)) {
      add_slabs(cylinder->length, cylinder->radius, false);
    } else {
      const BoundingBall ball = bounding_ball(shape_);
      const AlignedBox box = own_box(shape_);
      add_ball(ball.middle, ball.radius);
      add_cells(box.low, box.high, options_.most_leaves);
    }
    close(0);
    for (CoverBall& ball : cover_) {
      // Outside, how far it is away is not always known exactly; but it comes into the ball.
      const double away = point_distance(shape_, ball.centre);
      ball.inside = away > 0.0 ? -ball.radius : -away;
    }
    return std::move(cover_);
  }

 private:
  // It is a leaf until it is closed after others.
  void add_ball(const Vector3& centre, double radius) {
    cover_.push_back({centre, radius, -1.0, static_cast<int>(cover_.size()) + 1});
  }
  void close(std::size_t ball) { cover_[ball].next = static_cast<int>(cover_.size()); }

  // Of a round shape: enough slabs that a ball about each stands out at its side by `bulge` only.
  void add_slabs(double length, double radius, bool round_ends) {
    const double whole = 0.5 * length + (round_ends ? radius : 0.0);
    add_ball(Vector3::Zero(), round_ends ? whole : std::hypot(whole, radius));
    const double widest = radius + options_.bulge;
    const double half = std::sqrt(widest * widest - radius * radius);
    const int slabs =
        std::clamp(static_cast<int>(std::ceil(0.5 * length / half)), 1, options_.most_leaves);
    const double thick = length / slabs;
    for (int i = 0; i < slabs; ++i)
      add_ball({0.0, 0.0, (i + 0.5) * thick - 0.5 * length}, std::hypot(0.5 * thick, radius));
    if (round_ends)
      for (const double end : {-0.5, 0.5}) add_ball({0.0, 0.0, end * length}, radius);
  }

  // A ball about a box stands out of it by this at the side where it is thinnest.
  static double stands_out(const Vector3& half) { return half.norm() - half.minCoeff(); }

  void add_cells(const Vector3& low, const Vector3& high, int leaves) {
    const Vector3 half = 0.5 * (high - low);
    // Each side that is not much shorter than the longest is halved, at most three at a time.
    Eigen::Array3i cuts = (half.array() > 0.6 * half.maxCoeff()).select(Eigen::Array3i(2, 2, 2), 1);
    if (stands_out(half) <= options_.bulge || cuts.prod() > leaves) return;
    const Vector3 step = (high - low).cwiseQuotient(cuts.cast<double>().matrix());
    for (int i = 0; i < cuts[0]; ++i)
      for (int j = 0; j < cuts[1]; ++j)
        for (int k = 0; k < cuts[2]; ++k) {
          const Vector3 from = low + step.cwiseProduct(Vector3(i, j, k));
          const Vector3 middle = from + 0.5 * step;
          if (is_empty(middle, step)) continue;
          const std::size_t ball = cover_.size();
          add_ball(middle, 0.5 * step.norm());
          add_cells(from, from + step, leaves / cuts.prod());
          close(ball);
        }
  }

  [[nodiscard]] bool is_empty(const Vector3& middle, const Vector3& size) const {
    return !std::holds_alternative<Box>(shape_) &&
           further_apart_than(0.0, Box{size}, Pose::at(middle), shape_, {});
  }

  const Shape& shape_;
  const CoverOptions& options_;
  Cover cover_;
};

}  // namespace

Cover cover_of(const Shape& shape, const CoverOptions& options) {
  return Splitter(shape, options).cover();
}

int leaves_of(const Cover& cover) {
  int leaves = 0;
  for (std::size_t i = 0; i < cover.size(); ++i) leaves += is_leaf(cover, i) ? 1 : 0;
  return leaves;
}

double bulge_of(const Cover& cover, const Shape& shape) {
  // A ball about c reaches out of the shape by its radius and what c is outside; or, where c is
  // inside, less what c is deep: the ball of that depth is in the shape.
  double most = 0.0;
  for (std::size_t i = 0; i < cover.size(); ++i) {
    if (!is_leaf(cover, i)) continue;
    const Separation apart = distance(Sphere{1e-9}, Pose::at(cover[i].centre), shape, {});
    most = std::max(most, cover[i].radius + apart.distance + 1e-9);
  }
  return most;
}

}  // namespace er
