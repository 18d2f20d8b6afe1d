#include "elbowroom/draw/line_drawing.hpp"

#include <fmt/format.h>

#include <array>
#include <cmath>

#include "elbowroom/draw/gnuplot.hpp"

namespace er {

void LineDrawing::line(const Vector2& from, const Vector2& to, const Pen& pen, Heads heads) {
  static constexpr std::array kHeads{"nohead", "head filled size 9,18", "heads filled size 9,18"};
  script_ += fmt::format(
      "set arrow from {:.2f},{:.2f} to {:.2f},{:.2f} {} linecolor rgb '{}' linewidth {} dashtype "
      "{}\n",
      from.x(), from.y(), to.x(), to.y(), kHeads[static_cast<std::size_t>(heads)], pen.colour,
      pen.width, pen.dash);
}

void LineDrawing::arc(const Vector2& centre, double radius, double from, double to,
                      const Pen& pen) {
  constexpr int kPieces = 24;
  const auto at = [&](int i) -> Vector2 {
    const double angle = from + (to - from) * i / kPieces;
    return centre + radius * Vector2(std::cos(angle), std::sin(angle));
  };
  constexpr int kHead = 5;  // pieces under the head, which must be longer than itself
  for (int i = 0; i < kPieces - kHead; ++i) line(at(i), at(i + 1), pen);
  line(at(kPieces - kHead), at(kPieces), pen, Heads::end);
}

void LineDrawing::dot(const Vector2& centre, double radius, const char* colour) {
  script_ += fmt::format(
      "set object circle at {:.2f},{:.2f} size {:.2f} front fillcolor rgb '{}' fillstyle solid "
      "noborder\n",
      centre.x(), centre.y(), radius, colour);
}

void LineDrawing::text(const Vector2& at, const std::string& text, const Lettering& lettering) {
  static constexpr std::array kAligns{"left", "center", "right"};
  script_ += fmt::format(
      "set label {} at {:.2f},{:.2f} {}{} font '{},{}' textcolor rgb '{}' front\n",
      gnuplot_quoted(text), at.x(), at.y(), kAligns[static_cast<std::size_t>(lettering.align)],
      lettering.upright ? " rotate by 90" : "",
      lettering.monospace ? "DejaVu Sans Mono" : "DejaVu Sans", lettering.size, lettering.colour);
}

void LineDrawing::save(const std::filesystem::path& path) const {
  // Sizes in arrow heads count in x, which the ranges make pixels.
  draw_with_gnuplot(
      path, width_, height_,
      fmt::format("set lmargin 0\nset rmargin 0\nset tmargin 0\nset bmargin 0\nunset border\n"
                  "unset tics\nunset key\nset xrange [0:{}]\nset yrange [0:{}]\n{}plot NaN\n",
                  width_, height_, script_));
}

}  // namespace er
