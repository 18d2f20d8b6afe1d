#include "elbowroom/reach/change.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/text.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/reach/numeric.hpp"

namespace er {
namespace {

constexpr std::array<const char*, 6> kCoordinates{"x", "y", "z", "roll", "pitch", "yaw"};

// Which of kCoordinates, or -1.
int coordinate(const std::string& name) {
  const auto found = std::find(kCoordinates.begin(), kCoordinates.end(), name);
  return found == kCoordinates.end() ? -1 : static_cast<int>(found - kCoordinates.begin());
}

Vector3 xyz_mm(const Pose& pose) { return 1e3 * pose.position; }
Vector3 rpy_deg(const Pose& pose) { return to_deg(1.0) * rpy_of(pose.rotation); }

}  // namespace

Change read_change(const Arm& arm, const std::string& text) {
  const std::size_t sign = text.find_first_of("+-");
  if (sign == std::string::npos)
    throw InputError(fmt::format("'{}' does not say by how much", text),
                     "write it like \"elbow + 5 deg\" or \"x - 10 mm\"");
  Change change;
  change.of = std::string(trimmed(std::string_view(text).substr(0, sign)));
  const int axis = coordinate(change.of);
  const int joint = arm.find_moving_joint(change.of);
  if (joint < 0 && axis < 0) {
    std::vector<std::string> known;
    for (int k = 0; k < arm.dof(); ++k) known.push_back(arm.moving_joint(k).name);
    known.insert(known.end(), kCoordinates.begin(), kCoordinates.end());
    throw unknown_name("joint or coordinate", change.of, known);
  }
  const Dimension dimension = joint >= 0 ? value_dimension(arm.moving_joint(joint).kind)
                              : axis < 3 ? dimension::length
                                         : dimension::angle;
  change.by = parse_quantity(text.substr(sign + 1), dimension);
  if (text[sign] == '-') change.by = -change.by;
  return change;
}

Verdict<ChangeEffect> effect_of(const Arm& arm, const Tool& tool, const PostureRef& posture,
                                const Change& change, const Pose& frame) {
  arm.check_posture(posture);
  ChangeEffect effect;
  effect.before = posture;
  effect.after = posture;
  effect.tip_before = frame.inverse() * tool_pose(arm, tool, posture);
  const int joint = arm.find_moving_joint(change.of);
  if (joint >= 0) {
    effect.after[joint] += change.by;
    if (const std::string breach = arm.limit_breach(effect.after); !breach.empty())
      return Reason{Cause::beyond_limits,
                    "no: " + breach,
                    {{"change", change.by,
                      arm.moving_joint(joint).kind == JointKind::prismatic ? "m" : "rad"}}};
  } else {
    const int axis = coordinate(change.of);
    if (axis < 0) throw unknown_name("joint or coordinate", change.of, {});
    Pose wanted = effect.tip_before;
    if (axis < 3) {
      wanted.position[axis] += change.by;
    } else {
      Vector3 rpy = rpy_of(wanted.rotation);
      rpy[axis - 3] += change.by;
      wanted.rotation = rotation_from_rpy(rpy.x(), rpy.y(), rpy.z());
    }
    const Target target = Target{}.place(tool.name, frame * wanted).within(1e-8, 1e-8);
    const NumericSolve solve = solve_from(arm, target, posture, {.iterations = 400});
    if (!solve.met)
      return Reason{Cause::out_of_reach,
                    fmt::format("no: from this posture the tool does not get there; the nearest it "
                                "comes is {:.3f} mm and {:.4f} deg off",
                                to_mm(solve.error.position), to_deg(solve.error.angle)),
                    {{"position_error", solve.error.position, "m"},
                     {"angle_error", solve.error.angle, "rad"}}};
    effect.after = solve.posture;
  }
  effect.tip_after = frame.inverse() * tool_pose(arm, tool, effect.after);
  return effect;
}

std::string ChangeEffect::report(const Arm& arm) const {
  Table table({"<", "before", "after", "changed by"});
  const auto tidy = [](double v, double unit) { return std::abs(v) < 5e-4 * unit ? 0.0 : v; };
  for (int k = 0; k < arm.dof(); ++k) {
    const bool slides = arm.moving_joint(k).kind == JointKind::prismatic;
    const double scale = slides ? 1e3 : to_deg(1.0);
    const char* unit = slides ? "mm" : "deg";
    table.row({arm.moving_joint(k).name, fmt::format("{:.3f} {}", tidy(scale * before[k], 1), unit),
               fmt::format("{:.3f} {}", tidy(scale * after[k], 1), unit),
               fmt::format("{:+.3f} {}", tidy(scale * (after[k] - before[k]), 1), unit)});
  }
  const auto rows = [&](const Vector3& a, const Vector3& b, std::size_t first, const char* unit) {
    for (Eigen::Index i = 0; i < 3; ++i) {
      double by = b[i] - a[i];
      if (first == 3) by = std::remainder(by, 360.0);
      table.row({kCoordinates[first + static_cast<std::size_t>(i)],
                 fmt::format("{:.3f} {}", tidy(a[i], 1), unit),
                 fmt::format("{:.3f} {}", tidy(b[i], 1), unit),
                 fmt::format("{:+.3f} {}", tidy(by, 1), unit)});
    }
  };
  rows(xyz_mm(tip_before), xyz_mm(tip_after), 0, "mm");
  rows(rpy_deg(tip_before), rpy_deg(tip_after), 3, "deg");
  return table.text() + "  roll, pitch, yaw: turned about the fixed x, then y, then z\n";
}

}  // namespace er
