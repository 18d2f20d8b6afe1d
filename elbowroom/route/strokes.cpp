#include "elbowroom/route/strokes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <cstdlib>
#include <iterator>
#include <limits>
#include <map>
#include <numbers>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

using Point = Eigen::Vector2d;

constexpr double kCapital = 6.0;   // units of a capital's height in the table
constexpr double kSpace = 1.6;     // units between two letters
constexpr double kBlank = 3.0;     // units of a blank
constexpr double kCorner = 0.35;   // rad
constexpr double kArcStep = 0.13;  // rad from point to point of an arc

// A simple font of strokes, our own: points "x,y", arcs "@cx,cy,rx,ry,from,to" (deg), and ";" where
// the pen is lifted. A capital is 6 units high.
const std::map<char, const char*>& glyphs() {
  static const std::map<char, const char*> kGlyphs{
      {'A', "0,0 2,6 4,0;0.7,2 3.3,2"},
      {'B', "0,0 0,6 2.2,6 @2.2,4.6,1.4,1.4,90,-90 0,3.2;2.2,3.2 @2.2,1.6,1.6,1.6,90,-90 0,0"},
      {'C', "@2.2,3,2.2,3,45,315"},
      {'D', "0,0 0,6 1.2,6 @1.2,3,2.8,3,90,-90 0,0"},
      {'E', "3.4,0 0,0 0,6 3.4,6;0,3.2 2.8,3.2"},
      {'F', "0,0 0,6 3.4,6;0,3.2 2.8,3.2"},
      {'G', "@2.2,3,2.2,3,45,360 2.4,3"},
      {'H', "0,0 0,6;4,0 4,6;0,3.2 4,3.2"},
      {'I', "0,0 0,6"},
      {'J', "2.6,6 2.6,1.6 @1.3,1.6,1.3,1.6,0,-180"},
      {'K', "0,0 0,6;3.8,6 0,2.4;1.3,3.6 4,0"},
      {'L', "0,6 0,0 3.2,0"},
      {'M', "0,0 0,6 2.4,2 4.8,6 4.8,0"},
      {'N', "0,0 0,6 4,0 4,6"},
      {'O', "@2.3,3,2.3,3,90,450"},
      {'P', "0,0 0,6 2.2,6 @2.2,4.4,1.6,1.6,90,-90 0,2.8"},
      {'Q', "@2.3,3,2.3,3,90,450;2.8,1.6 4.6,-0.4"},
      {'R', "0,0 0,6 2.2,6 @2.2,4.4,1.6,1.6,90,-90 0,2.8;1.8,2.8 3.8,0"},
      {'S', "@1.9,4.4,1.7,1.6,30,270 @1.9,1.4,1.9,1.4,90,-150"},
      {'T', "2,0 2,6;0,6 4,6"},
      {'U', "0,6 0,1.8 @1.9,1.8,1.9,1.8,180,360 3.8,6"},
      {'V', "0,6 2,0 4,6"},
      {'W', "0,6 1.3,0 2.7,6 4,0 5.3,6"},
      {'X', "0,0 4,6;0,6 4,0"},
      {'Y', "0,6 2,3 4,6;2,3 2,0"},
      {'Z', "0,6 4,6 0,0 4,0"},
      {'0', "@2,3,2,3,90,450"},
      {'1', "0,4.8 1.4,6 1.4,0"},
      {'2', "@1.9,4.2,1.8,1.8,170,-40 0,0 3.8,0"},
      {'3', "@1.7,4.5,1.5,1.5,150,-90 @1.7,1.5,1.8,1.5,90,-150"},
      {'4', "2.8,0 2.8,6 0,1.8 4,1.8"},
      {'5', "3.4,6 0.4,6 0.27,3.12 @1.8,1.9,2,1.9,140,-140"},
      {'6', "@4,1.9,4,4.1,110,180 @1.9,1.9,1.9,1.9,180,540"},
      {'7', "0,6 3.8,6 1.2,0"},
      {'8', "@1.9,4.5,1.5,1.5,-90,270 @1.9,1.5,1.8,1.5,90,450"},
      {'9', "@1.9,4.1,1.9,1.9,0,360 @-0.2,4.1,4,4.1,0,-70"},
      {'.', "0,0 0,0.4"},
      {'-', "0,3 2.4,3"},
      {'+', "0,3 3,3;1.5,1.5 1.5,4.5"},
      {'/', "0,0 2.6,6"},
      {'\'', "0,6 0,4.8"},
  };
  return kGlyphs;
}

void add_distinct(Stroke& stroke, const Point& point) {
  if (stroke.empty() || (stroke.back() - point).norm() > 1e-9) stroke.push_back(point);
}

// Numbers with commas between; moves `text` beyond them.
std::vector<double> numbers(const char*& text) {
  std::vector<double> out;
  for (;;) {
    char* end = nullptr;
    out.push_back(std::strtod(text, &end));
    text = end;
    if (*text != ',') return out;
    ++text;
  }
}

std::vector<Stroke> strokes_of(const char* glyph) {
  std::vector<Stroke> out(1);
  for (const char* at = glyph; *at != '\0';) {
    if (*at == ' ') {
      ++at;
    } else if (*at == ';') {
      out.emplace_back();
      ++at;
    } else if (*at == '@') {
      ++at;
      const std::vector<double> arc = numbers(at);
      const double from = arc[4] * std::numbers::pi / 180.0;
      const double turn = (arc[5] - arc[4]) * std::numbers::pi / 180.0;
      const int steps = std::max(2, static_cast<int>(std::ceil(std::abs(turn) / kArcStep)));
      for (int i = 0; i <= steps; ++i) {
        const double angle = from + turn * i / steps;
        add_distinct(out.back(),
                     {arc[0] + arc[2] * std::cos(angle), arc[1] + arc[3] * std::sin(angle)});
      }
    } else {
      const std::vector<double> point = numbers(at);
      add_distinct(out.back(), {point[0], point[1]});
    }
  }
  return out;
}

}  // namespace

std::vector<std::vector<Stroke>> letters_of(const std::string& text, double height) {
  if (!(height > 0.0) || !std::isfinite(height))
    throw InputError(fmt::format("letters are higher than zero, found {}", text_length(height)));
  const double scale = height / kCapital;
  std::vector<std::vector<Stroke>> out;
  double left = 0.0;
  for (const char given : text) {
    const char letter = static_cast<char>(std::toupper(static_cast<unsigned char>(given)));
    if (letter == ' ') {
      left += kBlank;
      continue;
    }
    const auto glyph = glyphs().find(letter);
    if (glyph == glyphs().end())
      throw InputError(fmt::format("the stroke font has no '{}'", given),
                       "it has A to Z, 0 to 9, blanks and . - + / '");
    double right = 0.0;
    std::vector<Stroke>& strokes = out.emplace_back(strokes_of(glyph->second));
    for (Stroke& stroke : strokes)
      for (Point& point : stroke) {
        right = std::max(right, point.x());
        point = scale * (point + Point(left, 0.0));
      }
    left += right + kSpace;
  }
  if (out.empty()) throw InputError("there is nothing to write", "give a text with letters in it");
  return out;
}

std::vector<Stroke> text_strokes(const std::string& text, double height) {
  std::vector<Stroke> out;
  for (std::vector<Stroke>& letter : letters_of(text, height))
    std::move(letter.begin(), letter.end(), std::back_inserter(out));
  return out;
}

std::vector<Stroke> fitted(std::vector<Stroke> strokes, double width) {
  if (!(width > 0.0) || !std::isfinite(width))
    throw InputError(fmt::format("a drawing is wider than zero, found {}", text_length(width)));
  Point low = Point::Constant(std::numeric_limits<double>::infinity());
  Point high = -low;
  for (const Stroke& stroke : strokes)
    for (const Point& point : stroke) {
      low = low.cwiseMin(point);
      high = high.cwiseMax(point);
    }
  if (!(high.x() - low.x() > 1e-12))
    throw InputError("this drawing has no width", "it needs strokes beside each other");
  const double scale = width / (high.x() - low.x());
  for (Stroke& stroke : strokes)
    for (Point& point : stroke) point = scale * (point - low);
  return strokes;
}

std::vector<Stroke> smooth_parts(const Stroke& stroke) {
  std::vector<Stroke> out(1);
  for (std::size_t i = 0; i < stroke.size(); ++i) {
    out.back().push_back(stroke[i]);
    if (i == 0 || i + 1 == stroke.size()) continue;
    const Point before = stroke[i] - stroke[i - 1];
    const Point after = stroke[i + 1] - stroke[i];
    const double turn =
        std::atan2(before.x() * after.y() - before.y() * after.x(), before.dot(after));
    if (std::abs(turn) > kCorner) out.push_back({stroke[i]});
  }
  return out;
}

double share_nearest(const Point& a, const Point& b, const Point& point) {
  const Point way = b - a;
  return std::clamp((point - a).dot(way) / std::max(way.squaredNorm(), 1e-30), 0.0, 1.0);
}

double distance_to(const std::vector<Stroke>& strokes, const Point& point) {
  double least = std::numeric_limits<double>::infinity();
  for (const Stroke& stroke : strokes)
    for (std::size_t i = 0; i + 1 < stroke.size(); ++i) {
      const double share = share_nearest(stroke[i], stroke[i + 1], point);
      const Point way = stroke[i + 1] - stroke[i];
      least = std::min(least, (stroke[i] + share * way - point).norm());
    }
  return least;
}

double length_of(const std::vector<Stroke>& strokes) {
  double sum = 0.0;
  for (const Stroke& stroke : strokes)
    for (std::size_t i = 0; i + 1 < stroke.size(); ++i) sum += (stroke[i + 1] - stroke[i]).norm();
  return sum;
}

}  // namespace er
