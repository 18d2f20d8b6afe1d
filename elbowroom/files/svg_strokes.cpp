#include "elbowroom/files/svg_strokes.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <cctype>
#include <cmath>
#include <cstdlib>
#include <limits>
#include <numbers>
#include <pugixml.hpp>
#include <string_view>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/document.hpp"

namespace er {
namespace {

using Point = Eigen::Vector2d;
using Transform = Eigen::Affine2d;

constexpr int kCurveSteps = 24;    // of one curve segment
constexpr double kArcStep = 0.13;  // rad

// Numbers of path data and transforms, with commas or blanks between, or nothing ("1.5-2.5").
class NumberReader {
 public:
  NumberReader(const char* text, std::string what)
      : begin_(text), at_(text), what_(std::move(what)) {}

  [[nodiscard]] bool at_end() {
    skip();
    return *at_ == '\0';
  }
  [[nodiscard]] bool at_letter() {
    skip();
    return std::isalpha(static_cast<unsigned char>(*at_)) != 0;
  }
  char letter() { return *at_++; }
  double number() {
    skip();
    char* end = nullptr;
    const double value = std::strtod(at_, &end);
    if (end == at_ || !std::isfinite(value)) fail("a number");
    at_ = end;
    return value;
  }
  // Past a closing bracket, if one is there.
  bool closes() {
    skip();
    if (*at_ != ')') return false;
    ++at_;
    return true;
  }
  // Of an arc, where "01" are two of them.
  bool flag() {
    skip();
    if (*at_ != '0' && *at_ != '1') fail("0 or 1");
    return *at_++ == '1';
  }
  Point point() {
    const double x = number();
    return {x, number()};
  }
  [[noreturn]] void fail(const std::string& expected) const {
    const std::string found = *at_ == '\0' ? "its end" : fmt::format("'{:.12}'", at_);
    throw InputError(fmt::format("expected {} in {}, found {} after {} characters", expected, what_,
                                 found, at_ - begin_));
  }

 private:
  void skip() {
    while (std::isspace(static_cast<unsigned char>(*at_)) != 0 || *at_ == ',') ++at_;
  }
  const char* begin_;
  const char* at_;
  std::string what_;
};

// One path: the pen, and the strokes it leaves.
class Pen {
 public:
  std::vector<Stroke> strokes;

  void begin_at(const Point& to) {
    strokes.push_back({to});
    at_ = start_ = to;
  }
  void line_to(const Point& to) {
    need_start();
    if ((to - at_).norm() > 0.0) strokes.back().push_back(to);
    at_ = to;
  }
  void close() {
    line_to(start_);
    closed_ = true;
  }
  void cubic_to(const Point& a, const Point& b, const Point& to) {
    const Point from = at_;
    for (int i = 1; i <= kCurveSteps; ++i) {
      const double t = static_cast<double>(i) / kCurveSteps;
      const double s = 1.0 - t;
      line_to(s * s * s * from + 3.0 * s * s * t * a + 3.0 * s * t * t * b + t * t * t * to);
    }
  }
  void quadratic_to(const Point& by, const Point& to) {
    const Point from = at_;
    cubic_to(from + 2.0 / 3.0 * (by - from), to + 2.0 / 3.0 * (by - to), to);
  }
  // The arc of an ellipse from end point to end point (SVG 1.1, appendix F.6).
  void arc_to(Point radii, double turned, bool large, bool positive, const Point& to) {
    radii = radii.cwiseAbs();
    if (radii.minCoeff() < 1e-12) return line_to(to);
    const Eigen::Rotation2Dd axes(turned);
    const Point half = axes.inverse() * (0.5 * (at_ - to));
    const double over = (half.array() / radii.array()).square().sum();
    if (over > 1.0) radii *= std::sqrt(over);
    const Point scaled = half.cwiseQuotient(radii);
    const double rest = std::max(0.0, 1.0 / scaled.squaredNorm() - 1.0);
    const double side = (large == positive ? -1.0 : 1.0) * std::sqrt(rest);
    const Point middle = side * Point(scaled.y(), -scaled.x());
    const Point centre = axes * middle.cwiseProduct(radii) + 0.5 * (at_ + to);
    const Point a = scaled - middle;
    const Point b = -scaled - middle;
    double sweep = std::atan2(a.x() * b.y() - a.y() * b.x(), a.dot(b));
    if (positive && sweep < 0.0) sweep += 2.0 * std::numbers::pi;
    if (!positive && sweep > 0.0) sweep -= 2.0 * std::numbers::pi;
    const double from = std::atan2(a.y(), a.x());
    const int steps = std::max(2, static_cast<int>(std::ceil(std::abs(sweep) / kArcStep)));
    for (int i = 1; i < steps; ++i) {
      const double angle = from + sweep * i / steps;
      line_to(centre + axes * Point(radii.x() * std::cos(angle), radii.y() * std::sin(angle)));
    }
    line_to(to);
  }
  [[nodiscard]] const Point& at() const { return at_; }
  [[nodiscard]] bool began() const { return !strokes.empty(); }

 private:
  // After a path was closed the next line begins where it began.
  void need_start() {
    if (!closed_) return;
    closed_ = false;
    strokes.push_back({at_});
  }
  Point at_ = Point::Zero();
  Point start_ = Point::Zero();
  bool closed_ = false;
};

std::vector<Stroke> path_strokes(const char* data) {
  NumberReader in(data, "path data");
  Pen pen;
  char command = '\0';
  Point control = Point::Zero();  // of the curve before, for smooth ones
  char before = '\0';
  while (!in.at_end()) {
    if (in.at_letter())
      command = in.letter();
    else if (command == '\0')
      in.fail("a command");
    else if (command == 'M' || command == 'm')
      command = command == 'M' ? 'L' : 'l';  // further pairs are lines
    const bool relative = std::islower(static_cast<unsigned char>(command)) != 0;
    const char kind = static_cast<char>(std::toupper(static_cast<unsigned char>(command)));
    const Point origin = relative ? pen.at() : Point(Point::Zero());
    if (kind != 'M' && !pen.began()) in.fail("M first");
    const auto mirrored = [&](const char* kinds) {
      const bool goes_on = std::string_view(kinds).find(before) != std::string_view::npos;
      return goes_on ? Point(2.0 * pen.at() - control) : pen.at();
    };
    switch (kind) {
      case 'M':
        pen.begin_at(origin + in.point());
        break;
      case 'L':
        pen.line_to(origin + in.point());
        break;
      case 'H':
        pen.line_to({origin.x() + in.number(), pen.at().y()});
        break;
      case 'V':
        pen.line_to({pen.at().x(), origin.y() + in.number()});
        break;
      case 'C': {
        const Point a = origin + in.point();
        control = origin + in.point();
        pen.cubic_to(a, control, origin + in.point());
        break;
      }
      case 'S': {
        const Point a = mirrored("CS");
        control = origin + in.point();
        pen.cubic_to(a, control, origin + in.point());
        break;
      }
      case 'Q':
        control = origin + in.point();
        pen.quadratic_to(control, origin + in.point());
        break;
      case 'T':
        control = mirrored("QT");
        pen.quadratic_to(control, origin + in.point());
        break;
      case 'A': {
        const Point radii = in.point();
        const double turned = in.number() * std::numbers::pi / 180.0;
        const bool large = in.flag();
        const bool positive = in.flag();
        pen.arc_to(radii, turned, large, positive, origin + in.point());
        break;
      }
      case 'Z':
        pen.close();
        command = '\0';
        break;
      default:
        in.fail("one of M L H V C S Q T A Z");
    }
    before = kind;
  }
  return pen.strokes;
}

Transform transform_of(const char* text) {
  Transform out = Transform::Identity();
  for (NumberReader in(text, "a transform"); !in.at_end();) {
    std::string name;
    while (in.at_letter()) name += in.letter();
    if (in.letter() != '(') in.fail("( after its name");
    std::vector<double> values;
    for (;;) {
      values.push_back(in.number());
      if (in.closes()) break;
    }
    values.resize(6, std::numeric_limits<double>::quiet_NaN());
    const auto or_else = [&](std::size_t i, double other) {
      return std::isnan(values[i]) ? other : values[i];
    };
    Transform one = Transform::Identity();
    if (name == "translate") {
      one.translate(Point(values[0], or_else(1, 0.0)));
    } else if (name == "scale") {
      one.scale(Point(values[0], or_else(1, values[0])));
    } else if (name == "rotate") {
      const Point about(or_else(1, 0.0), or_else(2, 0.0));
      one.translate(about).rotate(values[0] * std::numbers::pi / 180.0).translate(-about);
    } else if (name == "matrix") {
      one.matrix() << values[0], values[2], values[4], values[1], values[3], values[5], 0, 0, 1;
    } else {
      throw InputError(fmt::format("transform '{}' is not known", name),
                       "translate, scale, rotate and matrix are");
    }
    out = out * one;
  }
  return out;
}

class SvgReader {
 public:
  SvgReader(const std::string& text, const std::string& file) : text_(text), file_(file) {
    const pugi::xml_parse_result result = document_.load_buffer(text.data(), text.size());
    if (!result)
      throw InputError(fmt::format("this is not well-formed XML: {}", result.description()),
                       "the file may have been cut short", place_in(text, result.offset, file));
    if (!document_.child("svg"))
      throw InputError("this is no SVG file: it has no element <svg>", "", {file, 1, 1});
    read(document_.child("svg"), Transform::Identity());
    for (Stroke& stroke : strokes_)
      for (Point& point : stroke) point.y() = -point.y();  // y is down there
    std::erase_if(strokes_, [](const Stroke& stroke) { return stroke.size() < 2; });
    if (strokes_.empty())
      throw InputError("this SVG file has no strokes",
                       "it needs path, line, polyline, polygon, rect, circle or ellipse elements",
                       {file, 1, 1});
  }

  std::vector<Stroke> take() { return std::move(strokes_); }

 private:
  void read(const pugi::xml_node& node, const Transform& outer) {
    const std::string_view name = node.name();
    if (name == "defs" || name == "clipPath" || name == "mask" || name == "symbol") return;
    try {
      const Transform here = outer * transform_of(node.attribute("transform").value());
      std::vector<Stroke> own = strokes_of(node, name);
      for (Stroke& stroke : own) {
        for (Point& point : stroke) point = here * point;
        strokes_.push_back(std::move(stroke));
      }
      for (const pugi::xml_node& child : node.children())
        if (child.type() == pugi::node_element) read(child, here);
    } catch (const InputError& error) {
      if (error.place().line > 0) throw;
      throw error.at(place_in(text_, node.offset_debug(), file_));
    }
  }

  static std::vector<Stroke> strokes_of(const pugi::xml_node& node, std::string_view name) {
    const auto value = [&](const char* key) { return node.attribute(key).as_double(); };
    if (name == "path") return path_strokes(node.attribute("d").value());
    if (name == "line") return {{{value("x1"), value("y1")}, {value("x2"), value("y2")}}};
    if (name == "polyline" || name == "polygon") {
      Stroke stroke;
      for (NumberReader in(node.attribute("points").value(), "points"); !in.at_end();)
        stroke.push_back(in.point());
      if (name == "polygon" && !stroke.empty()) stroke.push_back(stroke.front());
      return {stroke};
    }
    if (name == "rect") {
      const Point a(value("x"), value("y"));
      const Point size(value("width"), value("height"));
      return {{a, a + Point(size.x(), 0), a + size, a + Point(0, size.y()), a}};
    }
    if (name == "circle" || name == "ellipse") {
      const Point radii =
          name == "circle" ? Point(value("r"), value("r")) : Point(value("rx"), value("ry"));
      if (!(radii.minCoeff() > 0.0)) throw InputError("a circle of no radius", "leave it out");
      const Point centre(value("cx"), value("cy"));
      Pen pen;
      pen.begin_at(centre + Point(radii.x(), 0));
      pen.arc_to(radii, 0.0, false, true, centre - Point(radii.x(), 0));
      pen.arc_to(radii, 0.0, false, true, centre + Point(radii.x(), 0));
      return pen.strokes;
    }
    return {};
  }

  const std::string& text_;
  const std::string& file_;
  pugi::xml_document document_;
  std::vector<Stroke> strokes_;
};

}  // namespace

std::vector<Stroke> parse_svg_strokes(const std::string& text, const std::string& file) {
  return SvgReader(text, file).take();
}

std::vector<Stroke> load_svg_strokes(const std::filesystem::path& path) {
  return parse_svg_strokes(read_text(path), path.string());
}

}  // namespace er
