#include "elbowroom/files/svg_strokes.hpp"

#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"

using namespace er;
using Catch::Contains;

namespace {

std::vector<Stroke> strokes(const std::string& elements) {
  return parse_svg_strokes("<svg xmlns=\"http://www.w3.org/2000/svg\">\n" + elements + "\n</svg>",
                           "m.svg");
}
std::vector<Stroke> strokes_of_path(const std::string& data) {
  return strokes("<path d=\"" + data + "\"/>");
}
std::string svg_fault(const std::string& text) {
  try {
    parse_svg_strokes(text, "m.svg");
  } catch (const InputError& error) {
    return error.what();
  }
  return "no error";
}

void check_points(const Stroke& stroke, const std::vector<std::pair<double, double>>& points) {
  REQUIRE(stroke.size() == points.size());
  for (std::size_t i = 0; i < points.size(); ++i)
    CHECK((stroke[i] - Eigen::Vector2d(points[i].first, points[i].second)).norm() < 1e-9);
}

}  // namespace

TEST_CASE("lines of a path, absolute and relative, closed and begun again, y turned up") {
  const auto found = strokes_of_path("M1 2 3,4L5-6h2v3H1V0z m10 10 1 0 0 1");
  REQUIRE(found.size() == 2);
  check_points(found[0], {{1, -2}, {3, -4}, {5, 6}, {7, 6}, {7, 3}, {1, 3}, {1, 0}, {1, -2}});
  check_points(found[1], {{11, -12}, {12, -12}, {12, -13}});
  // After closing, a line goes on from where the path began.
  const auto again = strokes_of_path("M0 0L1 0L1 1ZL0 5");
  REQUIRE(again.size() == 2);
  check_points(again[1], {{0, 0}, {0, -5}});
}

TEST_CASE("curves go where their formulas say") {
  const auto cubic = strokes_of_path("M0 0C0 1 1 1 1 0S2-1 2 0");
  const Stroke& stroke = cubic.at(0);
  REQUIRE(stroke.size() == 49);
  for (std::size_t i = 0; i <= 24; ++i) {
    const double t = static_cast<double>(i) / 24.0;
    CHECK(stroke[i].x() == Approx(3 * (1 - t) * t * t + t * t * t).margin(1e-12));
    CHECK(-stroke[i].y() == Approx(3 * t * (1 - t)).margin(1e-12));
    // The smooth one after it is the same, mirrored.
    CHECK((stroke[24 + i] - Eigen::Vector2d(1, 0) - Eigen::Vector2d(stroke[i].x(), -stroke[i].y()))
              .norm() < 1e-12);
  }
  const auto quadratic = strokes_of_path("M0 0Q1 2 2 0T4 0");
  for (std::size_t i = 0; i <= 24; ++i) {
    const double t = static_cast<double>(i) / 24.0;
    CHECK(quadratic[0][i].x() == Approx(2 * t).margin(1e-12));
    CHECK(-quadratic[0][i].y() == Approx(4 * t * (1 - t)).margin(1e-12));
  }
  CHECK(-quadratic[0][36].y() == Approx(-1.0));
}

TEST_CASE("arcs lie on their ellipses, the one that is asked for of four") {
  // Half circles of radius 1 about (1, 0), either way round.
  for (const int sweep : {0, 1}) {
    const auto arc = strokes_of_path("M0 0A1 1 0 0" + std::to_string(sweep) + "2 0");
    for (const auto& point : arc.at(0))
      CHECK((point - Eigen::Vector2d(1, 0)).norm() == Approx(1.0));
    const double middle = arc[0][arc[0].size() / 2].y();
    CHECK(middle * (sweep == 1 ? 1 : -1) > 0.9);
  }
  // Large and small, of a circle of radius 5 through two points 6 apart.
  const auto small = strokes_of_path("M0 0A5 5 0 0 1 6 0");
  const auto large = strokes_of_path("M0 0A5 5 0 1 1 6 0");
  const double half = std::asin(0.6);
  CHECK(length_of(small) == Approx(10.0 * half).epsilon(1e-3));
  CHECK(length_of(large) == Approx(10.0 * (std::numbers::pi - half)).epsilon(2e-3));
  // A turned ellipse: every point keeps its equation. Radii that are too small are made to do.
  const auto turned = strokes_of_path("M0 0A3 1 30 0 1 4 1");
  const double c = std::cos(std::numbers::pi / 6), s = std::sin(std::numbers::pi / 6);
  const auto along = [&](const Eigen::Vector2d& p) {
    return Eigen::Vector2d((c * p.x() - s * p.y()) / 3.0, -s * p.x() - c * p.y());
  };
  const Eigen::Vector2d a = along(turned[0].front()), b = along(turned[0].back());
  for (std::size_t i = 1; i + 1 < turned[0].size(); ++i) {
    // All on one unit circle through both ends: the same angle over the chord.
    const Eigen::Vector2d p = along(turned[0][i]);
    const double sine = std::abs((a - p).x() * (b - p).y() - (a - p).y() * (b - p).x()) /
                        ((a - p).norm() * (b - p).norm());
    CHECK((b - a).norm() / (2.0 * sine) == Approx(1.0).epsilon(1e-6));
  }
  CHECK(length_of(strokes_of_path("M0 0A1 1 0 0 1 8 0")) ==
        Approx(4.0 * std::numbers::pi).epsilon(1e-3));
}

TEST_CASE("other elements, groups and transforms") {
  const auto all = strokes(R"svg(<line x1="0" y1="0" x2="1" y2="2"/>
    <polyline points="0,0 1,0 1,1"/><polygon points="0 0 1 0 1 1"/>
    <rect x="1" y="2" width="3" height="4"/><circle cx="5" cy="5" r="2"/>
    <defs><line x1="9" y1="9" x2="1" y2="2"/></defs><text>no stroke</text>)svg");
  REQUIRE(all.size() == 5);
  CHECK(all[1].size() == 3);
  CHECK(all[2].size() == 4);
  CHECK(length_of({all[3]}) == Approx(14.0));
  for (const auto& point : all[4]) CHECK((point - Eigen::Vector2d(5, -5)).norm() == Approx(2.0));
  const auto moved = strokes(
      R"svg(<g transform="translate(10 20) rotate(90)"><line x1="1" y1="0" x2="2" y2="0" transform="scale(3)"/></g>)svg");
  check_points(moved.at(0), {{10, -23}, {10, -26}});
  check_points(strokes(R"svg(<line x2="1" transform="matrix(0 1 -1 0 5 6)"/>)svg").at(0),
               {{5, -6}, {5, -7}});
  check_points(strokes(R"svg(<line x2="2" transform="rotate(180,1,1)"/>)svg").at(0),
               {{2, -2}, {0, -2}});
}

TEST_CASE("SVG files that make no sense, with their place") {
  CHECK_THAT(svg_fault("<svg>\n  <path d=\"M 1 2 L 3 x\"/></svg>"),
             Contains("m.svg:2:4: expected a number in path data, found 'x' after 10 characters"));
  CHECK_THAT(svg_fault("<svg><path d=\"L 1 2\"/></svg>"), Contains("expected M first"));
  CHECK_THAT(svg_fault("<svg><path d=\"M 1 2 K 3 4\"/></svg>"),
             Contains("one of M L H V C S Q T A Z"));
  CHECK_THAT(svg_fault("<svg><path d=\"M0 0A1 1 0 2 1 8 0\"/></svg>"), Contains("expected 0 or 1"));
  CHECK_THAT(svg_fault("<svg><line transform=\"skew(3)\"/></svg>"),
             Contains("transform 'skew' is not known"));
  CHECK_THAT(svg_fault("<svg><circle r=\"0\"/></svg>"), Contains("a circle of no radius"));
  CHECK_THAT(svg_fault("<svg><path"), Contains("not well-formed XML"));
  CHECK_THAT(svg_fault("<html/>"), Contains("no element <svg>"));
  CHECK_THAT(svg_fault("<svg></svg>"), Contains("this SVG file has no strokes"));
}
