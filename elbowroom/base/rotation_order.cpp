#include "elbowroom/base/rotation_order.hpp"

#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

constexpr std::string_view kLetters = "xyz";

// +1 when i, j and the third axis are a right-handed set in this order, else -1.
double handedness(int i, int j) { return (i + 1) % 3 == j ? 1.0 : -1.0; }

}  // namespace

const std::vector<RotationOrder>& all_rotation_orders() {
  static const std::vector<RotationOrder> kAll = [] {
    std::vector<RotationOrder> all;
    for (const bool moving : {false, true})
      for (int i = 0; i < 3; ++i)
        for (int j = 0; j < 3; ++j)
          for (int k = 0; k < 3; ++k)
            if (i != j && j != k) all.push_back({moving, {i, j, k}});
    return all;
  }();
  return kAll;
}

std::string name_of(const RotationOrder& order) {
  std::string name = order.moving ? "moving_" : "fixed_";
  for (const int axis : order.axes) name += kLetters[static_cast<std::size_t>(axis)];
  return name;
}

std::string describe(const RotationOrder& order) {
  const auto letter = [&](std::size_t i) {
    return kLetters[static_cast<std::size_t>(order.axes[i])];
  };
  return order.moving
             ? fmt::format("turned about {}, then about the new {}, then about the newest {}",
                           letter(0), letter(1), letter(2))
             : fmt::format("turned about the fixed {}, then the fixed {}, then the fixed {}",
                           letter(0), letter(1), letter(2));
}

std::string text_direction(const Vector3& direction) {
  for (Eigen::Index i = 0; i < 3; ++i) {
    const std::string letter(1, kLetters[static_cast<std::size_t>(i)]);
    if (direction[i] > 1.0 - 1e-9) return letter;
    if (direction[i] < -1.0 + 1e-9) return "-" + letter;
  }
  return fmt::format("[{:.3f}, {:.3f}, {:.3f}]", direction.x(), direction.y(), direction.z());
}

RotationOrder rotation_order_named(std::string_view name) {
  if (name == "rpy") return {};
  std::vector<std::string> known{"rpy"};
  for (const RotationOrder& order : all_rotation_orders()) {
    known.push_back(name_of(order));
    if (known.back() == name) return order;
  }
  throw unknown_name("order of rotations", name, known);
}

Matrix3 rotation_from(const RotationOrder& order, const Vector3& angles) {
  Matrix3 r = Matrix3::Identity();
  for (std::size_t n = 0; n < 3; ++n) {
    const Matrix3 turn =
        rotation_about(Vector3::Unit(order.axes[n]), angles[static_cast<Eigen::Index>(n)]);
    r = order.moving ? Matrix3(r * turn) : Matrix3(turn * r);
  }
  return r;
}

// Turning about fixed axes in one order is turning about moving axes in the reverse order, so one
// extraction serves both: r = R_i(first) R_j(middle) R_k(last) about moving axes i, j, k
// (K. Shoemake, "Euler angle conversion", Graphics Gems IV, 1994).
Vector3 angles_of(const RotationOrder& order, const Matrix3& r) {
  const int i = order.moving ? order.axes[0] : order.axes[2];
  const int j = order.axes[1];
  const int k = 3 - i - j;  // the third axis
  const bool repeats = order.axes[0] == order.axes[2];
  const double sign = handedness(i, j);
  double first = 0.0;
  double last = 0.0;
  // The sine (repeats) or cosine (else) of the middle angle; at zero the outer two axes coincide.
  const double across = repeats ? std::hypot(r(j, i), r(k, i)) : std::hypot(r(i, i), r(i, j));
  const double middle = repeats ? std::atan2(across, r(i, i)) : std::atan2(sign * r(i, k), across);
  if (across > 1e-9) {
    first = repeats ? std::atan2(r(j, i), -sign * r(k, i)) : std::atan2(-sign * r(j, k), r(k, k));
    last = repeats ? std::atan2(r(i, j), sign * r(i, k)) : std::atan2(-sign * r(i, j), r(i, i));
  } else if (order.moving) {
    first = std::atan2(sign * r(k, j), r(j, j));
  } else {
    last = repeats ? std::atan2(-sign * r(j, k), r(j, j)) : std::atan2(sign * r(j, i), r(j, j));
  }
  // Half a turn has two names; rounding is not to choose between them.
  for (double* angle : {&first, &last})
    if (*angle < -std::numbers::pi + 1e-12) *angle += 2.0 * std::numbers::pi;
  return order.moving ? Vector3(first, middle, last) : Vector3(last, middle, first);
}

}  // namespace er
