#include "elbowroom/draw/dimension_drawing.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <optional>

#include "elbowroom/base/units.hpp"
#include "elbowroom/draw/line_drawing.hpp"
#include "elbowroom/kinematics/forward.hpp"

namespace er {
namespace {

constexpr double kLeast = 1e-5;   // m; less is no dimension
constexpr double kSquare = 1e-6;  // how far an axis may lean to count as along a direction

constexpr LineDrawing::Pen kAxisPen{"#0072b2", 1.2, 4};
constexpr LineDrawing::Pen kSensePen{"#0072b2", 1.6, 1};
constexpr LineDrawing::Pen kDimensionPen{"#555555", 1.0, 1};
constexpr LineDrawing::Pen kExtensionPen{"#bbbbbb", 0.8, 1};
constexpr LineDrawing::Pen kLimbPen{"#d8cfc4", 11.0, 1};
constexpr LineDrawing::Pen kFloorPen{"#222222", 1.6, 1};

// Something in the chain that dimensions run between.
struct Landmark {
  std::string name;
  Vector3 at = Vector3::Zero();                // in the base frame, all joints at zero
  std::optional<Vector3> axis = std::nullopt;  // of a joint
  bool slides = false;
};

struct Chain {
  std::vector<Landmark> landmarks;  // the floor, the moving joints, the flange, the end
  std::vector<Vector3> frames;      // every link's origin, for the limbs
};

Chain chain_of(const Arm& arm) {
  const int last = arm.end_link();
  const auto poses = link_poses(arm.mounted_at({}), Posture::Zero(arm.dof()));
  const std::vector<int> links = arm.links_to(last);
  Chain chain;
  chain.landmarks.push_back({"floor", Vector3::Zero()});
  for (const int index : links) {
    const Link& link = arm.links()[static_cast<std::size_t>(index)];
    const Pose& pose = poses[static_cast<std::size_t>(index)];
    chain.frames.push_back(pose.position);
    if (link.posture_index >= 0)
      chain.landmarks.push_back({link.joint.name, pose.position, pose.rotation * link.joint.axis,
                                 link.joint.kind == JointKind::prismatic});
  }
  // What the last joint carries: the flange, where a tool is bolted on beyond it.
  for (auto link = links.rbegin(); link != links.rend(); ++link) {
    const Link& one = arm.links()[static_cast<std::size_t>(*link)];
    if (one.posture_index < 0) continue;
    if (*link != last)
      chain.landmarks.push_back({one.name, poses[static_cast<std::size_t>(*link)].position});
    break;
  }
  chain.landmarks.push_back({arm.links()[static_cast<std::size_t>(last)].name,
                             poses[static_cast<std::size_t>(last)].position});
  return chain;
}

struct Directions {
  Vector3 along;    // to the right
  Vector3 up;       // upwards
  Vector3 towards;  // the eye
};

Directions directions_of(DrawingView view) {
  const Vector3 x = Vector3::UnitX();
  const Vector3 up = view == DrawingView::side ? Vector3::UnitZ() : Vector3::UnitY();
  return {x, up, x.cross(up)};
}

// The place of a mark along a direction, unless it is free to be anywhere along it.
std::optional<double> place_along(const Landmark& mark, const Vector3& direction,
                                  DrawingView view) {
  if (mark.axis && std::abs(std::abs(mark.axis->dot(direction)) - 1.0) < kSquare)
    return std::nullopt;
  const bool floor = !mark.axis && mark.name == "floor";
  if (floor && (view == DrawingView::plan || direction.z() == 0.0)) return std::nullopt;
  return mark.at.dot(direction);
}

std::vector<ArmDimension> dimensions_of(const Chain& chain, DrawingView view) {
  const Directions d = directions_of(view);
  std::vector<ArmDimension> out;
  for (const bool upward : {false, true}) {
    const Landmark* last = nullptr;
    double from = 0.0;
    for (const Landmark& mark : chain.landmarks) {
      const auto to = place_along(mark, upward ? d.up : d.along, view);
      if (!to) continue;
      if (last != nullptr && std::abs(*to - from) >= kLeast)
        out.push_back({upward, from, *to, last->name, mark.name});
      // Of several in one place the first is named.
      if (last == nullptr || std::abs(*to - from) >= kLeast) last = &mark;
      from = *to;
    }
  }
  return out;
}

// Puts dimensions side by side in as few rows as keep them apart.
std::vector<std::vector<ArmDimension>> in_rows(const std::vector<ArmDimension>& dimensions,
                                               double room) {
  std::vector<std::vector<ArmDimension>> rows;
  const auto clear = [&](const ArmDimension& a, const ArmDimension& b) {
    const auto [a_low, a_high] = std::minmax(a.from, a.to);
    const auto [b_low, b_high] = std::minmax(b.from, b.to);
    // A short dimension needs room for its figure beside it.
    const double gap = std::min(a_high - a_low, b_high - b_low) < room ? room : -kLeast;
    return a_high + gap <= b_low || b_high + gap <= a_low;
  };
  for (const ArmDimension& one : dimensions) {
    const auto fits = std::find_if(rows.begin(), rows.end(), [&](const auto& row) {
      return std::all_of(row.begin(), row.end(),
                         [&](const ArmDimension& other) { return clear(one, other); });
    });
    (fits == rows.end() ? rows.emplace_back() : *fits).push_back(one);
  }
  return rows;
}

std::string figure(double length) {
  const double mm = std::abs(to_mm(length));
  return fmt::format("{:.{}f}", mm, std::abs(mm - std::round(mm)) < 0.005 ? 0 : 2);
}

// One view on the page: where it stands, and everything drawn in it.
class ViewDrawing {
 public:
  ViewDrawing(LineDrawing& page, const Chain& chain, DrawingView view, double scale,
              const Vector2& origin)
      : page_(page), chain_(chain), d_(directions_of(view)), scale_(scale), origin_(origin) {}

  [[nodiscard]] Vector2 on_page(const Vector3& point) const {
    return origin_ + scale_ * Vector2(point.dot(d_.along), point.dot(d_.up));
  }

  void limbs() {
    for (std::size_t i = 1; i < chain_.frames.size(); ++i) {
      const Vector2 a = on_page(chain_.frames[i - 1]);
      const Vector2 b = on_page(chain_.frames[i]);
      if ((a - b).norm() > 1.0) page_.line(a, b, kLimbPen);
    }
  }

  // Axes by their numbers in the table; those that share a place in this view share a label.
  void axes() {
    std::vector<std::pair<Vector2, std::string>> labels;
    int number = 0;
    for (const Landmark& mark : chain_.landmarks) {
      const Vector2 at = on_page(mark.at);
      if (!mark.axis) {
        if (mark.name != "floor") page_.dot(at, 4.0, "#222222");
        continue;
      }
      ++number;
      mark_axis(at, *mark.axis, mark.slides);
      const auto here = std::find_if(labels.begin(), labels.end(), [&](const auto& other) {
        return (other.first - at).norm() < 30.0;
      });
      if (here != labels.end()) {
        here->second += fmt::format(", {}", number);
      } else {
        labels.emplace_back(at, fmt::format("{}", number));
      }
    }
    for (const auto& [at, label] : labels)
      page_.text(at + Vector2(20.0, 26.0), label, {.size = 14, .colour = kSensePen.colour});
  }

  void columns(const std::vector<std::vector<ArmDimension>>& rows, double left) {
    for (std::size_t row = 0; row < rows.size(); ++row)
      for (const ArmDimension& one : rows[row]) {
        const double x = left - 16.0 - 34.0 * static_cast<double>(row);
        const Vector2 a(x, origin_.y() + scale_ * one.from);
        const Vector2 b(x, origin_.y() + scale_ * one.to);
        extension(a, one.first, true);
        extension(b, one.second, true);
        measure(a, b, one.length());
      }
  }

  void rows(const std::vector<std::vector<ArmDimension>>& rows, double top) {
    for (std::size_t row = 0; row < rows.size(); ++row)
      for (const ArmDimension& one : rows[row]) {
        const double y = top - 16.0 - 30.0 * static_cast<double>(row);
        const Vector2 a(origin_.x() + scale_ * one.from, y);
        const Vector2 b(origin_.x() + scale_ * one.to, y);
        extension(a, one.first, false);
        extension(b, one.second, false);
        measure(a, b, one.length());
      }
  }

 private:
  void mark_axis(const Vector2& at, const Vector3& axis, bool slides) {
    const double out = axis.dot(d_.towards);
    if (std::abs(out) > 1.0 - kSquare) {
      page_.dot(at, 4.0, kSensePen.colour);
      if (!slides && out > 0.0) page_.arc(at, 17.0, -0.6, 3.9, kSensePen);
      if (!slides && out < 0.0) page_.arc(at, 17.0, 3.9, -0.6, kSensePen);
      return;
    }
    // In the plane: a centre line with a head at its positive end.
    const Vector2 way = Vector2(axis.dot(d_.along), axis.dot(d_.up)).normalized();
    page_.line(at - 52.0 * way, at + 52.0 * way, kAxisPen, LineDrawing::Heads::end);
  }

  // From the dimension to what it measures.
  void extension(const Vector2& end, const std::string& name, bool upward) {
    for (const Landmark& mark : chain_.landmarks) {
      if (mark.name != name) continue;
      const Vector2 at = name == "floor" ? origin_ : on_page(mark.at);
      const Vector2 to = upward ? Vector2(at.x(), end.y()) : Vector2(end.x(), at.y());
      page_.line(end, to, kExtensionPen);
      return;
    }
  }

  void measure(const Vector2& a, const Vector2& b, double length) {
    const bool upward = std::abs(a.x() - b.x()) < 1e-9;
    const double pixels = (a - b).norm();
    const Vector2 along = (b - a) / pixels;
    if (pixels > 40.0) {
      page_.line(a, b, kDimensionPen, LineDrawing::Heads::both);
    } else {  // arrows from outside
      page_.line(a - 22.0 * along, a, kDimensionPen, LineDrawing::Heads::end);
      page_.line(b + 22.0 * along, b, kDimensionPen, LineDrawing::Heads::end);
    }
    LineDrawing::Lettering lettering{.align = LineDrawing::Align::centre, .upright = upward};
    Vector2 at = 0.5 * (a + b) + (upward ? Vector2(-9.0, 0.0) : Vector2(0.0, 9.0));
    const std::string label = figure(length);
    if (pixels < 10.0 + 8.5 * static_cast<double>(label.size()))
      at = (upward ? Vector2(a.x() - 9.0, std::max(a.y(), b.y()) + 38.0)
                   : Vector2(std::max(a.x(), b.x()) + 38.0, a.y() + 9.0));
    page_.text(at, label, lettering);
  }

  LineDrawing& page_;
  const Chain& chain_;
  Directions d_;
  double scale_;
  Vector2 origin_;
};

struct Extent {
  double low = 0.0;
  double high = 0.0;
  void take(double value) {
    low = std::min(low, value);
    high = std::max(high, value);
  }
  [[nodiscard]] double size() const { return high - low; }
};

Extent extent_of(const Chain& chain, const Vector3& direction) {
  Extent extent;
  for (const Vector3& point : chain.frames) extent.take(point.dot(direction));
  return extent;
}

// "+y" or "[0.00, 0.71, 0.71]".
std::string text_axis(const Vector3& axis) {
  for (int i = 0; i < 3; ++i)
    if (std::abs(std::abs(axis[i]) - 1.0) < kSquare)
      return fmt::format("{}{}", axis[i] > 0.0 ? '+' : '-', "xyz"[i]);
  return fmt::format("[{:.2f}, {:.2f}, {:.2f}]", axis.x(), axis.y(), axis.z());
}

std::string text_range(const Joint& joint, const JointLimits& limits) {
  const bool slides = joint.kind == JointKind::prismatic;
  const auto shown = [&](double value) { return slides ? to_mm(value) : to_deg(value); };
  return fmt::format("{:.4g} to {:.4g} {}", shown(limits.lower), shown(limits.upper),
                     slides ? "mm" : "deg");
}

void draw_table(LineDrawing& page, const Arm& arm, const Chain& chain, double left, double top) {
  const LineDrawing::Lettering mono{.size = 10, .monospace = true};
  double y = top;
  const auto line = [&](const std::string& text) {
    page.text({left, y}, text, mono);
    y -= 19.0;
  };
  std::size_t widest = 5;
  for (const Landmark& mark : chain.landmarks)
    if (mark.axis) widest = std::max(widest, mark.name.size());
  line(fmt::format("{:>2} {:<{}} {:>5}  {}", "", "joint", widest, "axis", "range"));
  int number = 0;
  for (const Landmark& mark : chain.landmarks) {
    if (!mark.axis) continue;
    const int index = arm.find_moving_joint(mark.name);
    const Joint& joint = arm.moving_joint(index);
    const JointLimits limits = arm.limits_of(index);
    line(fmt::format("{:>2} {:<{}} {:>5}  {}", ++number, mark.name, widest, text_axis(*mark.axis),
                     joint.continuous ? std::string("without end")
                     : std::isfinite(limits.lower) && std::isfinite(limits.upper)
                         ? text_range(joint, limits)
                         : std::string("not stated")));
  }
}

}  // namespace

std::vector<ArmDimension> dimensions_of(const Arm& arm, DrawingView view) {
  return dimensions_of(chain_of(arm), view);
}

void draw_dimensions(const std::filesystem::path& path, const Arm& arm, int width, int height) {
  const Chain chain = chain_of(arm);
  const double page_width = width;
  const double page_height = height;
  constexpr double kTable = 430.0;  // pixels on the right for the table
  constexpr double kHead = 70.0;
  constexpr double kMargin = 60.0;  // about what is drawn, for names and centre lines
  const Extent x = extent_of(chain, Vector3::UnitX());
  const Extent y = extent_of(chain, Vector3::UnitY());
  const Extent z = extent_of(chain, Vector3::UnitZ());
  const auto dimensions = [&](DrawingView view, bool upward) {
    std::vector<ArmDimension> out;
    for (const ArmDimension& one : dimensions_of(chain, view))
      if (one.upward == upward) out.push_back(one);
    return in_rows(out, 0.06 * std::max({x.size(), z.size(), 1e-3}));
  };
  const auto heights = dimensions(DrawingView::side, true);
  const auto lengths = dimensions(DrawingView::side, false);
  const auto widths = dimensions(DrawingView::plan, true);
  const double left =
      kMargin + 34.0 * static_cast<double>(std::max(heights.size(), widths.size())) + 30.0;
  const double under = 30.0 * static_cast<double>(lengths.size()) + 40.0;
  const double room_across = page_width - kTable - left - kMargin;
  const double room_up = page_height - kHead - under - 4.0 * kMargin;
  const double scale = std::min(room_across / std::max(x.size(), 1e-3),
                                room_up / std::max(z.size() + y.size(), 1e-3));

  LineDrawing page(width, height);
  page.text({24.0, page_height - 26.0},
            fmt::format("{} with every joint at zero, in mm", arm.name()), {.size = 14});
  page.text({24.0, page_height - 50.0},
            "side view: x to the right, z up; below it the plan: y up. Blue: axes, arrows the "
            "positive way (a centre line's by the right hand)",
            {.size = 10, .colour = "#555555"});
  const double plan_bottom = kMargin;
  const double side_bottom = plan_bottom + scale * y.size() + 2.0 * kMargin + under;
  const double origin_x = left - scale * x.low;
  ViewDrawing side(page, chain, DrawingView::side, scale, {origin_x, side_bottom - scale * z.low});
  ViewDrawing plan(page, chain, DrawingView::plan, scale, {origin_x, plan_bottom - scale * y.low});
  const Vector2 floor_at(origin_x, side_bottom - scale * z.low);
  page.line(floor_at - Vector2(70.0, 0.0), floor_at + Vector2(70.0, 0.0), kFloorPen);
  for (ViewDrawing* view : {&side, &plan}) view->limbs();
  side.columns(heights, left - 50.0);
  plan.columns(widths, left - 50.0);
  side.rows(lengths, side_bottom - 40.0);
  for (ViewDrawing* view : {&side, &plan}) view->axes();
  draw_table(page, arm, chain, page_width - kTable + 20.0, page_height - kHead - 40.0);
  page.save(path);
}

}  // namespace er
