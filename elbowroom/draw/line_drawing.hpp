// A drawing made of lines, arrows and text, in pixels from the lower left corner.
#pragma once

#include <Eigen/Core>
#include <filesystem>
#include <string>

namespace er {

using Vector2 = Eigen::Vector2d;

class LineDrawing {
 public:
  struct Pen {
    const char* colour = "#222222";
    double width = 1.0;
    int dash = 1;  ///< gnuplot's dashtype: 1 solid, 2 dashed, 4 dash-dot
  };
  enum class Heads { none, end, both };
  enum class Align { left, centre, right };
  struct Lettering {
    Align align = Align::left;
    int size = 11;
    const char* colour = "#222222";
    bool upright = false;  ///< turned to read from below to above
    bool monospace = false;
  };

  LineDrawing(int width, int height) : width_(width), height_(height) {}

  void line(const Vector2& from, const Vector2& to, const Pen& pen, Heads heads = Heads::none);
  /// Part of a circle from one angle to another, counter-clockwise when `to` is the larger; with a
  /// head at its end.
  void arc(const Vector2& centre, double radius, double from, double to, const Pen& pen);
  void dot(const Vector2& centre, double radius, const char* colour);
  void text(const Vector2& at, const std::string& text, const Lettering& lettering);

  /// PNG or SVG by the ending. Throws InputError as draw_with_gnuplot does.
  void save(const std::filesystem::path& path) const;

 private:
  int width_;
  int height_;
  std::string script_;
};

}  // namespace er
