#include "elbowroom/bodies/axis_lines.hpp"

#include <Eigen/Geometry>
#include <algorithm>

namespace er {
namespace {

constexpr double kOff = 0.5e-3;  // m; a line nearer than this to another is on it

bool is_among(const AxisLine& line, const std::vector<AxisLine>& others) {
  return std::any_of(others.begin(), others.end(),
                     [&](const AxisLine& other) { return line.is_on(other); });
}

}  // namespace

bool AxisLine::is_on(const AxisLine& other) const {
  return way.cross(other.way).norm() <= kSameTurn &&
         (point - other.point).cross(other.way).norm() <= kOff;
}

std::vector<AxisLine> axis_lines(const Arm& arm, const std::vector<Pose>& links) {
  std::vector<AxisLine> out;
  for (std::size_t l = 0; l < links.size(); ++l) {
    const Joint& joint = arm.links()[l].joint;
    if (joint.kind != JointKind::revolute) continue;
    out.push_back({links[l].position, links[l].rotation * joint.axis});
  }
  return out;
}

std::vector<AxisLine> distinct(const std::vector<AxisLine>& lines) {
  std::vector<AxisLine> out;
  for (const AxisLine& line : lines)
    if (!is_among(line, out)) out.push_back(line);
  return out;
}

std::vector<AxisLine> feature_lines(std::vector<RoundFeature> features) {
  std::stable_sort(features.begin(), features.end(),
                   [](const RoundFeature& a, const RoundFeature& b) {
                     return a.radius * a.length > b.radius * b.length;
                   });
  constexpr std::size_t kMost = 60;
  std::vector<AxisLine> out;
  for (const RoundFeature& one : features) {
    const AxisLine line{one.middle, one.axis};
    if (out.size() < kMost && !is_among(line, out)) out.push_back(line);
  }
  return out;
}

std::vector<int> lines_on(const std::vector<AxisLine>& axes, const std::vector<AxisLine>& lines) {
  std::vector<int> out(axes.size(), -1);
  for (std::size_t i = 0; i < lines.size(); ++i)
    for (std::size_t k = 0; k < axes.size(); ++k)
      if (out[k] < 0 && lines[i].is_on(axes[k])) out[k] = static_cast<int>(i);
  return out;
}

int count_of_lines(const std::vector<int>& on) {
  return static_cast<int>(std::count_if(on.begin(), on.end(), [](int line) { return line >= 0; }));
}

}  // namespace er
