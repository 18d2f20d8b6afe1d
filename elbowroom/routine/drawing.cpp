#include "elbowroom/routine/drawing.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/kinematics/forward.hpp"
#include "elbowroom/route/one_stroke.hpp"

namespace er {
namespace {

constexpr double kLongest = 1e-3;  // m between two points of a trace
constexpr double kSampled = 5e-4;  // m of the tip from sample to sample

Pose over(const Drawing& drawing, const Eigen::Vector2d& point, double height) {
  Pose out{drawing.on.rotation, drawing.on * Vector3(point.x(), point.y(), height)};
  out.rotation.col(1) *= -1.0;
  out.rotation.col(2) *= -1.0;
  return out;
}

bool is_straight(const Stroke& part) {
  const Eigen::Vector2d way = (part.back() - part.front()).normalized();
  return std::all_of(part.begin(), part.end(), [&](const Eigen::Vector2d& point) {
    const Eigen::Vector2d out = point - part.front();
    return std::abs(way.x() * out.y() - way.y() * out.x()) < 1e-6;
  });
}

// With points no further apart: a spline through a long line and then a round would swing out.
Stroke with_more_points(const Stroke& part) {
  Stroke out{part.front()};
  for (std::size_t i = 1; i < part.size(); ++i) {
    const Eigen::Vector2d way = part[i] - part[i - 1];
    const int pieces = std::max(1, static_cast<int>(std::ceil(way.norm() / kLongest)));
    for (int k = 1; k <= pieces; ++k) out.push_back(part[i - 1] + way * k / pieces);
  }
  return out;
}

}  // namespace

std::vector<Pose> poses_along(const Drawing& drawing, const Stroke& stroke) {
  std::vector<Pose> out;
  for (const Eigen::Vector2d& point : with_more_points(stroke))
    out.push_back(over(drawing, point, 0.0));
  return out;
}

std::vector<Step> steps_of(const Drawing& drawing, int number, const Step& settings) {
  if (drawing.strokes.empty()) throw InputError("there is nothing to draw");
  if (!(drawing.lift >= 0.0)) throw InputError("a lift is zero or more");
  std::vector<Stroke> strokes = drawing.strokes;
  if (drawing.lift == 0.0 && strokes.size() > 1) strokes = {in_one_stroke(strokes)};
  for (const Stroke& stroke : strokes)
    if (length_of({stroke}) < 1e-5) throw InputError("a stroke is a single point", "leave it out");
  std::vector<Step> out;
  const auto add = [&](std::string name, Action action, bool draws) {
    Step step = settings;
    step.name = std::move(name);
    step.action = std::move(action);
    step.drawing = draws ? number : -1;
    if (!draws) {
      step.tool_speed.reset();
      step.steady = false;
    }
    if (std::holds_alternative<FreeMove>(step.action)) step.freedom = {};
    out.push_back(std::move(step));
  };
  const auto move = [&](const Vector3& by) { return RelativeMove{.by = drawing.on.rotation * by}; };
  Requirement first{.name = "place", .of = settings.tool};
  first.holds = AtPlace{.at = over(drawing, strokes.front().front(), drawing.lift),
                        .turn = settings.freedom.turn};
  Target begin;
  begin.named("the beginning").require(first);
  add("go to the beginning", FreeMove{{AtTarget{begin, {}, {}}}, true}, false);
  for (std::size_t i = 0; i < strokes.size(); ++i) {
    const Stroke& stroke = strokes[i];
    if (i > 0) {
      const Eigen::Vector2d way = stroke.front() - strokes[i - 1].back();
      if (way.norm() > 1e-6) add("over", move({way.x(), way.y(), 0.0}), false);
    }
    if (drawing.lift > 0.0) add("down", move({0.0, 0.0, -drawing.lift}), false);
    for (const Stroke& part : smooth_parts(stroke)) {
      const std::string name = fmt::format("stroke {}", i + 1);
      if (is_straight(part)) {
        const Eigen::Vector2d way = part.back() - part.front();
        add(name, move({way.x(), way.y(), 0.0}), true);
      } else {
        add(name, TraceMove{poses_along(drawing, part)}, true);
      }
    }
    if (drawing.lift > 0.0) add("up", move({0.0, 0.0, drawing.lift}), false);
  }
  return out;
}

std::vector<std::vector<Vector3>> drawn_lines(const PlannedRoutine& planned, int number) {
  const Pose to_plane = planned.routine.drawings[static_cast<std::size_t>(number)].on.inverse();
  std::vector<std::vector<Vector3>> out;
  for (const PlannedStep& step : planned.steps) {
    if (step.step.drawing != number) continue;
    const Arm& arm = step.cell->arm(planned.routine.arm_of(step.step));
    const Tool tool = arm.end_tool(step.step.tool);
    const auto tip = [&](double share) {
      const Posture posture = step.motion.at(share * step.duration()).position;
      return Vector3(to_plane * tool_pose(arm, tool, posture).position);
    };
    // As many samples as the stroke is long for.
    constexpr int kFewest = 32;
    double way = 0.0;
    for (int i = 0; i < kFewest; ++i)
      way += (tip((i + 1.0) / kFewest) - tip(static_cast<double>(i) / kFewest)).norm();
    const int samples = std::max(kFewest, static_cast<int>(std::ceil(way / kSampled)));
    std::vector<Vector3>& line = out.emplace_back();
    for (int i = 0; i <= samples; ++i) line.push_back(tip(static_cast<double>(i) / samples));
  }
  return out;
}

DrawnError drawn_error(const PlannedRoutine& planned, int number) {
  const Drawing& drawing = planned.routine.drawings[static_cast<std::size_t>(number)];
  DrawnError out;
  std::vector<Stroke> drawn;
  double sum = 0.0;
  for (const std::vector<Vector3>& line : drawn_lines(planned, number)) {
    Stroke& stroke = drawn.emplace_back();
    Vector3 before = line.front();
    for (const Vector3& at : line) {
      stroke.push_back(at.head<2>());
      const double off = std::hypot(distance_to(drawing.strokes, at.head<2>()), at.z());
      out.worst = std::max(out.worst, off);
      const double piece = (at - before).norm();
      sum += off * piece;
      out.length += piece;
      before = at;
    }
  }
  out.mean = out.length > 0.0 ? sum / out.length : 0.0;
  for (const Stroke& stroke : drawing.strokes)
    for (const Eigen::Vector2d& point : stroke)
      out.left_out = std::max(out.left_out, distance_to(drawn, point));
  return out;
}

}  // namespace er
